/** How long a component test waits for what is to appear before it gives up. */
import { configure } from "@testing-library/react";

configure({ asyncUtilTimeout: 30_000 });

// There is nothing to scroll where nothing is drawn.
if (typeof Element !== "undefined") Element.prototype.scrollIntoView ??= () => undefined;
