/** The keys that work in every room. */
import { useQuery } from "@tanstack/react-query";
import { useHotkeys } from "react-hotkeys-hook";
import { useNavigate } from "react-router";
import { useRedo, useUndo } from "../api/changes";
import { undoQuery } from "../api/queries";
import { rememberedShelf } from "../pages/shelf/use-shelf-query";
import { keyOf, useKeyMap } from "./key-map";
import { KEYS } from "./keys";
import { useSay } from "./messages";
import { useClicksKeepKeys } from "./use-keys";

export const ROOMS = [
  { name: "Arrivals", path: "/arrivals" },
  { name: "Shelf", path: "/shelf" },
  { name: "Workbench", path: "/workbench" },
  { name: "Crates", path: "/crates" },
  { name: "Logbook", path: "/logbook" },
  { name: "Exchange", path: "/exchange" },
  { name: "Sticks", path: "/sticks" },
] as const;

/** Keys that work in every room. */
export function useGlobalKeys(onHelp: () => void) {
  const navigate = useNavigate();
  const names = useQuery(undoQuery).data;
  const undo = useUndo();
  const redo = useRedo();
  const say = useSay();
  const keys = KEYS.everywhere;
  useKeyMap();
  useClicksKeepKeys();
  useHotkeys(
    keyOf(keys.undo),
    () => undo.mutate(undefined, { onSuccess: () => say(`Undone: ${names?.undo ?? ""}`) }),
    { preventDefault: true },
  );
  useHotkeys(
    keyOf(keys.redo),
    () => redo.mutate(undefined, { onSuccess: () => say(`Done again: ${names?.redo ?? ""}`) }),
    { preventDefault: true },
  );
  useHotkeys(keyOf(keys.help), onHelp, { preventDefault: true });
  useHotkeys(
    keyOf(keys.rooms),
    (event) => {
      const room = ROOMS[Number(event.code.replace("Digit", "")) - 1];
      if (room) void navigate(room.path === "/shelf" ? rememberedShelf() : room.path);
    },
    { preventDefault: true },
  );
}
