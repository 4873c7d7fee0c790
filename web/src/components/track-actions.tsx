/** What can be done with the chosen tracks: the commonest in a strip under the table, all of it in a menu on the rows,
 * each with its key. */
import { Box, Button, Divider, Menu, MenuItem } from "@mui/material";
import { memo, type ReactNode } from "react";
import { counted } from "../api/changes";
import { placeOf, type MenuAt } from "./item-menu";
import { KeyHint } from "./key-hint";
import { shown, useKeyMap } from "./key-map";
import { ActionKey } from "./use-keys";
import type { TrackAction } from "./use-track-actions";

interface StripProps {
  chosen: number;
  actions: TrackAction[];
  onMore: (at: HTMLElement) => void;
}

export function TrackActions({ children, ...strip }: StripProps & { children: ReactNode }) {
  return (
    <Box
      role="toolbar"
      aria-label="With the chosen tracks"
      sx={(theme) => ({
        display: "flex",
        alignItems: "center",
        flexWrap: "wrap",
        gap: 0.8,
        px: 2,
        py: 0.5,
        borderTop: 1,
        borderColor: "divider",
        bgcolor: theme.inks.panel,
        fontSize: "0.8rem",
        "& > button": { flex: "none", whiteSpace: "nowrap" },
      })}
    >
      <Buttons {...strip} />
      <Box sx={{ flex: 1 }} />
      {children}
    </Box>
  );
}

/** Drawn again when they say something else, not with every row that comes. */
const Buttons = memo(function Buttons({ chosen, actions, onMore }: StripProps) {
  useKeyMap();
  return (
    <>
      <Box sx={{ color: "text.secondary", minWidth: 96, whiteSpace: "nowrap" }} data-testid="chosen">
        {chosen ? `${counted(chosen, "track")} chosen` : "none chosen"}
      </Box>
      {actions
        .filter((action) => action.often)
        .map(({ words, at, act }) => (
          <Button key={at.id} size="small" disabled={!chosen} onClick={act}>
            {words} <KeyHint>{shown(at)}</KeyHint>
          </Button>
        ))}
      <Button size="small" disabled={!chosen} onClick={(event) => onMore(event.currentTarget)}>
        More…
      </Button>
    </>
  );
});

interface MenuProps {
  at: MenuAt | null;
  actions: TrackAction[];
  onClose: () => void;
}

export function TrackMenu({ at, actions, onClose }: MenuProps) {
  return (
    <Menu open={at !== null} onClose={onClose} {...placeOf(at)} slotProps={{ list: { dense: true } }}>
      {actions.flatMap(({ words, at: entry, act, apart }) => [
        ...(apart ? [<Divider key={`${entry.id} line`} />] : []),
        <MenuItem
          key={entry.id}
          onClick={() => {
            onClose();
            act();
          }}
        >
          <Box sx={{ flex: 1, pr: 3 }}>{words}</Box>
          <KeyHint>{shown(entry)}</KeyHint>
        </MenuItem>,
      ])}
    </Menu>
  );
}

export const TrackActionKeys = memo(function TrackActionKeys({ actions }: { actions: TrackAction[] }) {
  return actions.map(({ at, act }) => <ActionKey key={at.id} entry={at} act={act} />);
});
