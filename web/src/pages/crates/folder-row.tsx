/** A folder among the crates: it folds, and has a menu of what can be done with it. */
import { Box, ButtonBase, IconButton, Menu, MenuItem } from "@mui/material";
import { useState } from "react";
import { counted } from "../../api/changes";
import type { Crate } from "../../api/client";
import { Confirm } from "../../components/confirm";
import { NameDialog } from "../../components/name-dialog";
import { NAMES } from "../../theme";
import type { Making } from "./make-crate";
import { MoveDialog } from "./move-dialog";
import { useCrateActions } from "./use-crate-actions";

interface Props {
  folder: Crate;
  /** What is in it, however deep. */
  within: Crate[];
  folded: boolean;
  onFold: () => void;
  onMake: (making: Making) => void;
}

type Asking = "rename" | "move" | "delete" | null;

export function FolderRow({ folder, within, folded, onFold, onMake }: Props) {
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [asking, setAsking] = useState<Asking>(null);
  const pick = (act: () => void) => () => {
    setMenu(null);
    act();
  };
  const make = (kind: Making["kind"]) => pick(() => onMake({ kind, folder_id: folder.id }));
  return (
    <Box sx={{ display: "flex", alignItems: "center", borderBottom: 1, mb: 0.8 }}>
      <ButtonBase
        aria-expanded={!folded}
        data-folder={folder.name}
        onClick={onFold}
        sx={{
          flex: 1,
          minWidth: 0,
          justifyContent: "flex-start",
          gap: 0.7,
          py: 0.6,
          fontFamily: NAMES,
          fontSize: "0.95rem",
        }}
      >
        <span aria-hidden>{folded ? "▸" : "▾"}</span>
        <Box component="b" sx={{ overflowWrap: "anywhere", textAlign: "left", fontWeight: 650 }}>
          {folder.name}
        </Box>
      </ButtonBase>
      <Box className="figure faint" sx={{ fontSize: "0.8rem" }}>
        {within.filter((each) => !each.is_folder).length}
      </Box>
      <IconButton
        size="small"
        aria-label={`More with ${folder.name}`}
        onClick={(event) => setMenu(event.currentTarget)}
      >
        …
      </IconButton>
      <Menu
        anchorEl={menu}
        open={menu !== null}
        onClose={() => setMenu(null)}
        slotProps={{ list: { dense: true } }}
      >
        <MenuItem onClick={make("hand")}>Make a crate in it</MenuItem>
        <MenuItem onClick={make("rule")}>Make one that fills itself in it</MenuItem>
        <MenuItem onClick={make("folder")}>Make a folder in it</MenuItem>
        <MenuItem onClick={pick(() => setAsking("rename"))}>Rename</MenuItem>
        <MenuItem onClick={pick(() => setAsking("move"))}>Move into a folder…</MenuItem>
        <MenuItem onClick={pick(() => setAsking("delete"))}>Delete</MenuItem>
      </Menu>
      <Asked folder={folder} within={within} asking={asking} onClose={() => setAsking(null)} />
    </Box>
  );
}

interface AskedProps {
  folder: Crate;
  within: Crate[];
  asking: Asking;
  onClose: () => void;
}

function Asked({ folder, within, asking, onClose }: AskedProps) {
  const actions = useCrateActions(folder);
  if (asking === "move") return <MoveDialog crate={folder} onClose={onClose} />;
  if (asking === "rename")
    return (
      <NameDialog
        title={`Rename “${folder.name}”`}
        label="Name"
        action="Rename"
        initial={folder.name}
        onClose={onClose}
        onDone={(name) => actions.rename.mutate(name)}
      />
    );
  return (
    <Confirm
      open={asking === "delete"}
      title={`Delete the folder “${folder.name}”?`}
      action="Delete the folder"
      onClose={onClose}
      onConfirm={() => actions.drop.mutate()}
    >
      {told(within)} The tracks stay on the Shelf, their files stay where they are, and Undo brings all of it
      back.
    </Confirm>
  );
}

/** What goes with a folder, in words. */
function told(within: Crate[]): string {
  const crates = within.filter((each) => !each.is_folder);
  const folders = within.length - crates.length;
  const places = crates.reduce((sum, crate) => sum + crate.tracks + crate.wanted, 0);
  if (!within.length) return "It is empty.";
  const inner = folders ? `${counted(folders, "folder")} and ` : "";
  return `With it ${within.length > 1 ? "go" : "goes"} ${inner}${counted(crates.length, "crate")} with ${counted(places, "place")}.`;
}
