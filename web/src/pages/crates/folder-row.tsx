/** A folder among the crates: it folds, and has a menu of what can be done with it. */
import { Box, ButtonBase, IconButton } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useState } from "react";
import { counted } from "../../api/changes";
import type { Crate } from "../../api/client";
import { Confirm } from "../../components/confirm";
import { useItemMenu, type ItemMenu } from "../../components/item-menu";
import { useOpensWhenHovered } from "../../components/use-opens-when-hovered";
import { cueColour, NAMES } from "../../theme";
import { useCard } from "./list-dragging";
import { LooksDialog } from "./looks-dialog";
import type { Making } from "./make-crate";
import { ManyRulesDialog } from "./many-rules-dialog";
import { MoveDialog } from "./move-dialog";
import { useOrderByName } from "./tree-menu";
import { useCrateActions } from "./use-crate-actions";

interface Props {
  folder: Crate;
  /** What is in it, however deep. */
  within: Crate[];
  folded: boolean;
  /** It is shown as one list. */
  open: boolean;
  onFold: () => void;
  onShow: () => void;
  onRename: () => void;
  onMake: (making: Making) => void;
}

type Asking = "move" | "looks" | "delete" | "line" | null;

export function FolderRow(props: Props) {
  const { folder, within, folded, open, onFold, onRename } = props;
  const { inks } = useTheme();
  const { ref, handle, over, hovered, dragging } = useCard(folder);
  useOpensWhenHovered(hovered && folded, onFold);
  const [asking, setAsking] = useState<Asking>(null);
  const menu = useFolderMenu(props, setAsking);
  return (
    <Box
      sx={{
        ...{ display: "flex", alignItems: "center", mb: 0.8, opacity: dragging ? 0.4 : 1 },
        borderBottom: open ? 3 : 1,
        borderColor: folder.colour ? cueColour(folder.colour, inks) : "text.primary",
        bgcolor: over ? inks.chosenWash : undefined,
      }}
    >
      <ButtonBase
        ref={ref}
        aria-expanded={!folded}
        data-folder={folder.name}
        data-drop={`card-${folder.id}`}
        onClick={onFold}
        onDoubleClick={onRename}
        {...handle}
        {...menu.handlers}
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
          {folder.sign && <span aria-hidden>{folder.sign} </span>}
          {folder.name}
        </Box>
      </ButtonBase>
      <Box className="figure faint" sx={{ fontSize: "0.8rem", ml: 0.7 }}>
        {within.filter((each) => !each.is_folder).length}
      </Box>
      <IconButton
        size="small"
        aria-label={`More with ${folder.name}`}
        onClick={(event) => menu.openAt(event.currentTarget)}
      >
        …
      </IconButton>
      {menu.menu}
      <Asked folder={folder} within={within} asking={asking} onClose={() => setAsking(null)} />
    </Box>
  );
}

/** What can be done with a folder. */
function useFolderMenu(
  { folder, onShow, onRename, onMake }: Props,
  onAsk: (asking: Asking) => void,
): ItemMenu {
  const order = useOrderByName();
  const make = (kind: Making["kind"]) => () => onMake({ kind, folder_id: folder.id });
  return useItemMenu(`With ${folder.name}`, () => [
    { words: "Show as one list", act: onShow },
    { words: "Make a crate in it", act: make("hand") },
    { words: "Make one that fills itself in it", act: make("rule") },
    { words: "Make a folder in it", act: make("folder") },
    { words: "Rename", act: onRename },
    { words: "Sign, colour and note…", act: () => onAsk("looks") },
    { words: "Put in order by name", act: () => order.mutate(folder.id) },
    { words: "A line in all its rules…", act: () => onAsk("line") },
    { words: "Move into a folder…", act: () => onAsk("move") },
    { words: "Delete", act: () => onAsk("delete"), apart: true },
  ]);
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
  if (asking === "looks") return <LooksDialog crate={folder} onClose={onClose} />;
  if (asking === "line") return <ManyRulesDialog folder={folder} onClose={onClose} />;
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
