/** The crates in their folders, to drop tracks on: letters that are typed meanwhile look for one. */
import { useDroppable } from "@dnd-kit/core";
import { Box, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useEffectEvent, useLayoutEffect, useState } from "react";
import { counted } from "../../api/changes";
import type { Crate } from "../../api/client";
import { cratesQuery } from "../../api/queries";
import { useOpensWhenHovered } from "../../components/use-opens-when-hovered";
import { useRemembered } from "../../settings";
import { shownOf } from "../crates/folders";

/** The id of the element that scrolls while something is dragged over it. */
export const CRATE_TREE = "crate-tree";

export function CrateTree() {
  const all = useQuery(cratesQuery).data ?? [];
  const crates = all.filter((crate) => !crate.fills_itself);
  const [remembered] = useRemembered<number[]>("crates.folded", []);
  const [opened, setOpened] = useState<readonly number[]>([]);
  const text = useTyped();
  const folded = remembered.filter((id) => !opened.includes(id));
  const shown = shownOf(crates, folded, text);
  return (
    <Box
      id={CRATE_TREE}
      data-testid="crate-drop"
      sx={(theme) => ({
        ...{ position: "fixed", right: 0, top: 50, bottom: 0, width: 260, zIndex: 1200, p: 2 },
        ...{ bgcolor: theme.inks.panel, borderLeft: `2px solid ${theme.inks.ink}`, overflow: "auto" },
      })}
    >
      <Typography variant="h2" sx={{ mb: 0.6 }}>
        Drop into a crate
      </Typography>
      <Box role="status" sx={{ mb: 1, fontSize: "0.86rem", color: "text.secondary" }}>
        {text ? `Named with “${text}”` : "Type to find one. On a folder: a new crate in it."}
      </Box>
      {shown.map(({ crate, depth }) => (
        <Box key={crate.id} sx={{ ml: 1.6 * depth }}>
          <Target
            crate={crate}
            folded={!text && folded.includes(crate.id)}
            onOpen={() => setOpened([...opened, crate.id])}
          />
        </Box>
      ))}
      {!shown.length && (
        <Box sx={{ color: "text.secondary" }}>
          {text
            ? "No crate has these letters in its name: ⌫ takes one back."
            : "There is no crate yet. Let go, and press P to make one."}
        </Box>
      )}
    </Box>
  );
}

/** What is typed while this is there: before anything else hears of it. */
function useTyped(): string {
  const [text, setText] = useState("");
  const typed = useEffectEvent((event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === "Backspace") setText(text.slice(0, -1));
    else if (event.key.length === 1 && (text || event.key !== " ")) setText(text + event.key);
    else return;
    event.preventDefault();
    event.stopImmediatePropagation();
  });
  // It ends in the moment it is closed: the next letter is already for the name that is asked for.
  useLayoutEffect(() => {
    const listen = (event: KeyboardEvent) => typed(event);
    window.addEventListener("keydown", listen, { capture: true });
    return () => window.removeEventListener("keydown", listen, { capture: true });
  }, []);
  return text;
}

interface TargetProps {
  crate: Crate;
  folded: boolean;
  onOpen: () => void;
}

function Target({ crate, folded, onOpen }: TargetProps) {
  const { setNodeRef, isOver } = useDroppable({ id: `crate-${crate.id}`, data: { crate } });
  useOpensWhenHovered(isOver && folded, onOpen);
  return (
    <Box
      ref={setNodeRef}
      data-crate={crate.name}
      data-drop={`crate-${crate.id}`}
      sx={(theme) => ({
        mb: 0.8,
        p: crate.is_folder ? 0.5 : 0.9,
        border: `1px solid ${isOver ? theme.inks.chosen : crate.is_folder ? "transparent" : theme.inks.rule}`,
        borderRadius: "4px",
        bgcolor: isOver ? theme.inks.chosenWash : crate.is_folder ? undefined : "background.paper",
      })}
    >
      <Box sx={{ fontWeight: 600 }}>
        {crate.is_folder && <span aria-hidden>{folded ? "▸ " : "▾ "}</span>}
        {crate.name}
      </Box>
      {!crate.is_folder && <Typography variant="overline">{counted(crate.tracks, "track")}</Typography>}
    </Box>
  );
}
