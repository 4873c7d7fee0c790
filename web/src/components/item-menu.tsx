/** The menu of a thing that can be chosen: by a right click on it, or by ⇧F10 or the menu key while it has the focus. */
import { Box, Divider, Menu, MenuItem } from "@mui/material";
import { useState, type ReactNode } from "react";
import { KeyHint } from "./key-hint";

export interface MenuLine {
  words: string;
  act: () => void;
  /** The key that does the same. */
  hint?: string;
  off?: boolean;
  /** Whether it is on, of what can be on or off. */
  on?: boolean;
  /** A line before it. */
  apart?: boolean;
}

/** Where a menu stands: at an element, or at a point. */
export type MenuAt = HTMLElement | { left: number; top: number };

export interface ItemMenu {
  /** For the thing itself. */
  handlers: {
    onContextMenu: (event: React.MouseEvent<HTMLElement>) => void;
    onKeyDown: (event: React.KeyboardEvent<HTMLElement>) => void;
  };
  openAt: (at: MenuAt) => void;
  menu: ReactNode;
}

/** What a menu is placed by. */
export function placeOf(at: MenuAt | null) {
  if (at instanceof HTMLElement) return { anchorEl: at };
  return { anchorReference: "anchorPosition" as const, anchorPosition: at ?? { left: 0, top: 0 } };
}

export function useItemMenu(label: string, lines: () => readonly MenuLine[]): ItemMenu {
  const [at, openAt] = useState<MenuAt | null>(null);
  const handlers = {
    onContextMenu: (event: React.MouseEvent<HTMLElement>) => {
      event.preventDefault();
      event.stopPropagation();
      const pointed = event.clientX > 0 || event.clientY > 0;
      openAt(pointed ? { left: event.clientX, top: event.clientY } : event.currentTarget);
    },
    onKeyDown: (event: React.KeyboardEvent<HTMLElement>) => {
      if (event.key !== "ContextMenu" && !(event.key === "F10" && event.shiftKey)) return;
      event.preventDefault();
      event.stopPropagation();
      openAt(event.currentTarget);
    },
  };
  const menu = at !== null && <Lines label={label} at={at} lines={lines()} onClose={() => openAt(null)} />;
  return { handlers, openAt, menu };
}

interface LinesProps {
  label: string;
  at: MenuAt;
  lines: readonly MenuLine[];
  onClose: () => void;
}

function Lines({ label, at, lines, onClose }: LinesProps) {
  return (
    <Menu
      open
      onClose={onClose}
      {...placeOf(at)}
      slotProps={{ list: { dense: true, "aria-label": label }, paper: { sx: { maxHeight: "70vh" } } }}
      // It stands within the thing, as far as events go.
      onClick={(event) => event.stopPropagation()}
      onContextMenu={(event) => event.stopPropagation()}
      onKeyDown={(event) => event.stopPropagation()}
      onPointerDown={(event) => event.stopPropagation()}
    >
      {lines.flatMap(({ words, act, hint, off = false, on, apart }) => [
        ...(apart ? [<Divider key={`${words} line`} />] : []),
        <MenuItem
          key={words}
          disabled={off}
          role={on === undefined ? "menuitem" : "menuitemcheckbox"}
          aria-checked={on}
          onClick={() => {
            onClose();
            act();
          }}
        >
          {on !== undefined && <Box sx={{ width: "1.4em" }}>{on ? "✓" : ""}</Box>}
          <Box sx={{ flex: 1, pr: 3 }}>{words}</Box>
          {hint && <KeyHint>{hint}</KeyHint>}
        </MenuItem>,
      ])}
    </Menu>
  );
}
