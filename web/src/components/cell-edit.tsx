/** A cell of the list that is typed into: Enter and Tab keep what was typed, Esc leaves the cell as it was. */
import { useEffect, useRef } from "react";
import { isDialogOpen } from "./use-keys";

/** Where one goes from a cell: nowhere, to the next or last one that can be typed into, or a row up or down. */
export type Onward = "stay" | "next" | "last" | "up" | "down";

interface Props {
  label: string;
  value: string;
  /** What stands in the field, where that is something else. */
  typed?: string | undefined;
  /** What was typed, or null where nothing is to be kept. */
  onDone: (text: string | null, onward: Onward) => void;
}

export function CellEdit({ label, value, typed, onDone }: Props) {
  const field = useRef<HTMLInputElement>(null);
  const done = useRef(false);
  const latest = useRef(onDone);
  useEffect(() => {
    latest.current = onDone;
  });
  const end = (text: string | null, onward: Onward) => {
    if (done.current) return;
    done.current = true;
    latest.current(text === value ? null : text, onward);
  };
  useEffect(() => {
    const input = field.current;
    done.current = false;
    // What is refused and comes back takes the letters from no dialog that was opened meanwhile.
    if (!isDialogOpen()) input?.focus();
    input?.select();
    // A row that is scrolled out of sight takes the field with it, but not what was typed.
    return () => {
      if (!done.current && input && input.value !== value) latest.current(input.value, "stay");
    };
  }, [value]);
  const press = (event: React.KeyboardEvent<HTMLInputElement>) => {
    const onward = onwardOf(event);
    event.stopPropagation();
    if (!onward) return;
    event.preventDefault();
    end(event.key === "Escape" ? null : event.currentTarget.value.trim(), onward);
  };
  return (
    <input
      ref={field}
      className="cell-edit"
      aria-label={label}
      defaultValue={typed ?? value}
      onKeyDown={press}
      onBlur={(event) => end(event.currentTarget.value.trim(), "stay")}
      onPointerDown={(event) => event.stopPropagation()}
      onClick={(event) => event.stopPropagation()}
      onDoubleClick={(event) => event.stopPropagation()}
    />
  );
}

function onwardOf({ key, shiftKey }: React.KeyboardEvent): Onward | null {
  if (key === "Enter" || key === "Escape") return "stay";
  if (key === "Tab") return shiftKey ? "last" : "next";
  return key === "ArrowUp" ? "up" : key === "ArrowDown" ? "down" : null;
}
