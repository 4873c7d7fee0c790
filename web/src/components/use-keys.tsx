/** Keys of a room: silent while a dialog or a menu is open, and where a button has the focus, its own keys stay the button's. */
import { useEffect } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { keyOf, useKeyMap } from "./key-map";
import type { KeyEntry } from "./keys";

/** Listens for the key of an action, as a component, for lists of actions of any length. */
export function ActionKey({ entry, act }: { entry: KeyEntry; act: (event: KeyboardEvent) => void }) {
  useKeys(entry, act);
  return null;
}

export function useKeys(keys: KeyEntry, act: (event: KeyboardEvent) => void): void {
  useKeyMap();
  useHotkeys(
    keyOf(keys),
    (event) => {
      event.preventDefault();
      act(event);
    },
    { ignoreEventWhen: belongsElsewhere },
  );
}

/** Whether a dialog, a menu or the like has the keys now. */
export function isDialogOpen(): boolean {
  return (
    document.querySelector("[role=dialog], [role=menu], .MuiPopover-root, .MuiAutocomplete-popper") !== null
  );
}

function belongsElsewhere(event: KeyboardEvent): boolean {
  if (isDialogOpen()) return true;
  const onButton =
    event.target instanceof HTMLElement &&
    event.target.closest("button, a, [role=button], [role=combobox], [role=option]") !== null;
  return onButton && (event.key === " " || event.key === "Enter");
}

/** A button that was clicked, not reached by keyboard, gives the focus back, so that space goes on to mean play. */
export function useClicksKeepKeys(): void {
  useEffect(() => {
    const giveBack = (event: MouseEvent) => {
      const button =
        event.target instanceof HTMLElement
          ? event.target.closest<HTMLElement>("button, a, [role=option], [role=tab]")
          : null;
      if (event.detail > 0 && button && !button.closest("[role=dialog]")) button.blur();
    };
    // Before the click is acted on: a dialog that it opens would give the focus back to the button.
    window.addEventListener("click", giveBack, true);
    return () => window.removeEventListener("click", giveBack, true);
  }, []);
}
