/** The keys that work in every room. */
import { useHotkeys } from "react-hotkeys-hook";
import { useNavigate } from "react-router";
import { useStepBack } from "../api/changes";
import { rememberedShelf } from "../pages/shelf/use-shelf-query";
import { keyOf, useKeyMap } from "./key-map";
import { KEYS } from "./keys";
import { isDialogOpen, useClicksKeepKeys } from "./use-keys";

export const ROOMS = [
  { name: "Arrivals", path: "/arrivals" },
  { name: "Shelf", path: "/shelf" },
  { name: "Workbench", path: "/workbench" },
  { name: "Crates", path: "/crates" },
  { name: "Twins", path: "/twins" },
  { name: "Sets", path: "/sets" },
  { name: "Logbook", path: "/logbook" },
  { name: "Exchange", path: "/exchange" },
  { name: "Sticks", path: "/sticks" },
] as const;

/** Keys that work in every room. */
export function useGlobalKeys(onHelp: () => void) {
  const navigate = useNavigate();
  const undo = useStepBack("undo");
  const redo = useStepBack("redo");
  const keys = KEYS.everywhere;
  useKeyMap();
  useClicksKeepKeys();
  // Behind a dialog nothing is to happen that its reader does not see.
  const options = { preventDefault: true, ignoreEventWhen: isDialogOpen };
  useHotkeys(keyOf(keys.undo), () => undo.mutate(), options);
  useHotkeys(keyOf(keys.redo), () => redo.mutate(), options);
  useHotkeys(keyOf(keys.help), onHelp, options);
  useHotkeys(
    keyOf(keys.rooms),
    (event) => {
      const room = ROOMS[Number(event.code.replace("Digit", "")) - 1];
      if (room) void navigate(room.path === "/shelf" ? rememberedShelf() : room.path);
    },
    options,
  );
}
