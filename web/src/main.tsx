/** The entry of the interface. */
import { createRoot } from "react-dom/client";
import { App } from "./app";
import "./fonts";

const root = document.getElementById("root");
if (root) createRoot(root).render(<App />);
