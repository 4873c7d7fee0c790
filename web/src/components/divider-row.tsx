/** A divider among the rows: its name, how much is below it, and its fold. */
import { useTheme } from "@mui/material/styles";
import { IconButton, Menu, MenuItem } from "@mui/material";
import { useState } from "react";
import { counted } from "../api/changes";
import { cueColour } from "../theme";
import { foldName, type Divided, type DividerAct, type Dividers } from "./divided";
import { playingTime } from "./format";

interface Props {
  section: Divided;
  dividers: Dividers;
  top: number;
  height: number;
}

export function DividerRow({ section, dividers, top, height }: Props) {
  const { inks } = useTheme();
  const folded = dividers.folded.includes(foldName(section));
  const name = dividers.written(section);
  const colour = section.colour ? cueColour(section.colour, inks) : undefined;
  return (
    <div role="row" className="divider" style={{ top, height }} data-divider={name}>
      <div role="gridcell" className="divider-cell" style={{ color: colour }}>
        <button
          type="button"
          aria-expanded={!folded}
          aria-label={`${name}: ${folded ? "open" : "fold"}`}
          onClick={() => dividers.fold(foldName(section))}
        >
          {folded ? "▸" : "▾"}
        </button>
        {section.sign && <span aria-hidden>{section.sign}</span>}
        <b>{name}</b>
        <span className="faint">
          {counted(section.tracks, "track")}, {playingTime(section.duration_s)}
        </span>
        <span className="divider-line" />
        {dividers.change && section.divider_id !== null && (
          <Acts name={name} act={(what) => dividers.change?.(section, what)} />
        )}
      </div>
    </div>
  );
}

const ACTS: [DividerAct, string][] = [
  ["edit", "Change what it says…"],
  ["up", "Up by one track"],
  ["down", "Down by one track"],
  ["remove", "Take it away"],
];

function Acts({ name, act }: { name: string; act: (what: DividerAct) => void }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <IconButton
        size="small"
        aria-label={`More with the divider ${name}`}
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        …
      </IconButton>
      <Menu
        anchorEl={anchor}
        open={anchor !== null}
        onClose={() => setAnchor(null)}
        slotProps={{ list: { dense: true } }}
      >
        {ACTS.map(([what, words]) => (
          <MenuItem
            key={what}
            onClick={() => {
              setAnchor(null);
              act(what);
            }}
          >
            {words}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
