/** What single cells of the track table show. */
import { useTheme } from "@mui/material/styles";
import type { Schema, Track } from "../api/client";
import { cueColour } from "../theme";
import { KeyRing } from "./key-ring";
import { Marks } from "./marks";
import type { TableLook } from "./table-look";
import { TagChip } from "./tag-chip";

export function Title({ track, look }: { track: Track; look: TableLook }) {
  const colour = look.colours.get(track.colour);
  return (
    <span className="title">
      {track.title}
      {colour && <ColourSign colour={colour} />}
      {track.marks && <span className="own-marks">{track.marks}</span>}
      {track.explicit && (
        <span className="letter" title="Explicit lyrics" aria-label="Explicit lyrics">
          E
        </span>
      )}
      {track.never_again && <span className="never">never again</span>}
      {track.wanted && (
        <span className="letter" title="Wanted in a better file" aria-label="Wanted in a better file">
          W
        </span>
      )}
      {track.away && <span className="away">away</span>}
      {track.replaced && (
        <span className="away" title="The file holds another sound than before: check grid and cues">
          replaced
        </span>
      )}
      <Marks track={track} />
    </span>
  );
}

export function ColourSign({ colour }: { colour: Schema["ColourMeaning"] }) {
  const { inks } = useTheme();
  return (
    <span
      className="colour-sign"
      title={colour.name}
      role="img"
      aria-label={colour.name}
      style={{ color: colour.hex ?? cueColour(colour.colour, inks) }}
    >
      {colour.sign}
    </span>
  );
}

export function Tempo({ track }: { track: Track }) {
  if (track.bpm === null) return <span className="waiting">{WAITING[track.analysis_state]}</span>;
  const unsure = track.doubt !== null && track.doubt >= 0.6;
  return (
    <span title={track.bpm_source ?? undefined}>
      {unsure ? `~${track.bpm.toFixed(1)}` : track.bpm.toFixed(2)}
    </span>
  );
}

const WAITING: Record<Track["analysis_state"], string> = {
  done: "no beat",
  waiting: "waiting",
  paused: "paused",
  failed: "failed",
  none: "–",
};

export function Key({ track, look }: { track: Track; look: TableLook }) {
  if (track.key === null) return null;
  const told = track.key_confidence !== null && track.key_source === "analysis";
  const sure = told ? `, ${Math.round((track.key_confidence ?? 0) * 100)} of 100 sure` : "";
  const unsure = told && (track.key_confidence ?? 1) < 0.5;
  const name = look.keyName(track.key);
  return (
    <span className="key" title={`From ${track.key_source}${sure}`}>
      <KeyRing name={track.key} />
      {unsure ? `~${name}` : name}
    </span>
  );
}

export function Energy({ value }: { value: number | null }) {
  if (value === null) return null;
  return (
    <div
      className="energy"
      title={`Energy ${value} of 100`}
      style={{ backgroundSize: `${value * 0.24}px 6px` }}
    >
      {value}
    </div>
  );
}

export function Tags({ ids, look }: { ids: readonly number[]; look: TableLook }) {
  const there = ids.flatMap((id) => look.tags.get(id) ?? []).sort((a, b) => a.place - b.place);
  return (
    <span className="tags">
      {there.map((tag) => (
        <TagChip key={tag.tag.id} look={tag} />
      ))}
    </span>
  );
}
