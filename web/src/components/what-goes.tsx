/** What taking tracks off the Shelf will change, in plain words, and the choice of what becomes of their files. */
import { Box, Checkbox, FormControlLabel } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import type { Picked, Schema } from "../api/client";
import { whatGoesQuery } from "../api/queries";
import { plural, size } from "./format";

interface Props {
  picked: Picked;
  aside: boolean;
  onAside: (aside: boolean) => void;
}

export function WhatGoes({ picked, aside, onAside }: Props) {
  const goes = useQuery(whatGoesQuery(picked)).data;
  if (!goes) return <Box sx={{ height: 190 }} />;
  const [it, its] = goes.tracks === 1 ? ["it", "its"] : ["they", "their"];
  return (
    <>
      <Box component="ul" sx={{ pl: 2.2, mt: 0, color: "text.secondary", "& li": { mb: 0.5 } }}>
        <li>{placesWords(goes.lists, "list", "No list has " + (it === "it" ? "it" : "them") + ".")}</li>
        <li>{sticksWords(goes)}</li>
        <li>
          {goes.plays ? `${plural(goes.plays, "play")} in the Logbook stay. ` : ""}
          {its === "its" ? "Its" : "Their"} tags, grid and cues are kept: imported again, {it}{" "}
          {it === "it" ? "is" : "are"} as {it} {it === "it" ? "was" : "were"}.
        </li>
        <li>{filesWords(goes, aside)}</li>
      </Box>
      <FormControlLabel
        control={<Checkbox size="small" checked={aside} onChange={(_, on) => onAside(on)} />}
        label={`Put the ${goes.tracks === 1 ? "file" : "files"} aside too`}
        disabled={goes.away === goes.tracks}
      />
    </>
  );
}

function placesWords(places: Schema["HasTracksOut"][], one: string, none: string): string {
  if (!places.length) return none;
  const shown = places.slice(0, 4).map(({ name, tracks }) => `“${name}” (${tracks})`);
  const more = places.length > 4 ? ` and ${places.length - 4} more` : "";
  return `Out of ${plural(places.length, one)}: ${shown.join(", ")}${more}.`;
}

function sticksWords({ sticks }: Schema["WhatGoesOut"]): string {
  if (!sticks.length) return "No stick has been packed with it.";
  return `From ${sticks.map(({ name }) => `“${name}”`).join(" and ")} at the next packing.`;
}

function filesWords(goes: Schema["WhatGoesOut"], aside: boolean): string {
  const files = goes.tracks === 1 ? "The file" : "The files";
  const copies = goes.copies ? ` ${plural(goes.copies, "copy", "copies")} elsewhere stay.` : "";
  if (goes.away === goes.tracks) return `${files} cannot be reached now, and will not be touched.`;
  if (!aside) return `${files} on this computer will not be touched.${copies}`;
  return (
    `${files} (${size(goes.size_bytes)}) will be moved to a folder of Vinyl’s own until you throw ` +
    `${goes.tracks === 1 ? "it" : "them"} away in Arrivals. Undo brings ${goes.tracks === 1 ? "it" : "them"} back.${copies}`
  );
}
