/** How long a component test waits for what is to appear before it gives up. */
import { configure } from "@testing-library/react";

configure({ asyncUtilTimeout: 30_000 });
