/** What can be done with a crate where it stands in the tree, open or not. */
import { useState, type ReactNode } from "react";
import { counted } from "../../api/changes";
import type { Crate } from "../../api/client";
import { Confirm } from "../../components/confirm";
import { useItemMenu, type ItemMenu } from "../../components/item-menu";
import { shown } from "../../components/key-map";
import { KEYS } from "../../components/keys";
import { CopyDialog } from "./copy-dialog";
import { LooksDialog } from "./looks-dialog";
import { MoveDialog } from "./move-dialog";
import { useCrateActions } from "./use-crate-actions";

type Asking = "looks" | "copy" | "move" | "delete" | null;

interface Ways {
  onShow: () => void;
  onRename: () => void;
}

export function useCrateMenu(crate: Crate, { onShow, onRename }: Ways): ItemMenu & { asked: ReactNode } {
  const [asking, setAsking] = useState<Asking>(null);
  const menu = useItemMenu(`With ${crate.name}`, () => [
    { words: "Open", act: onShow },
    { words: "Rename", act: onRename, hint: shown(KEYS.lists.rename) },
    { words: "Sign, colour and note…", act: () => setAsking("looks") },
    { words: "Make a copy…", act: () => setAsking("copy") },
    { words: "Move into a folder…", act: () => setAsking("move") },
    { words: "Delete…", act: () => setAsking("delete"), apart: true },
  ]);
  const asked = asking && <Asked crate={crate} asking={asking} onClose={() => setAsking(null)} />;
  return { ...menu, asked };
}

function Asked({ crate, asking, onClose }: { crate: Crate; asking: Asking; onClose: () => void }) {
  const { drop } = useCrateActions(crate);
  if (asking === "looks") return <LooksDialog crate={crate} onClose={onClose} />;
  if (asking === "move") return <MoveDialog crate={crate} onClose={onClose} />;
  if (asking === "copy") return <CopyDialog crate={crate} onClose={onClose} />;
  const holds = crate.fills_itself ? "its rule" : `the order of its ${counted(crate.tracks, "track")}`;
  return (
    <Confirm
      open
      title={`Delete “${crate.name}”?`}
      action="Delete the crate"
      onClose={onClose}
      onConfirm={() => drop.mutate()}
    >
      The list goes, with {holds}. The tracks stay on the Shelf, and Undo brings the crate back, on the sticks
      that carry it too.
    </Confirm>
  );
}
