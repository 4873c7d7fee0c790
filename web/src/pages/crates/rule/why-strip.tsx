/** Why a track is in a crate that fills itself, or is not: each line, and what the track has of it. */
import { Autocomplete, Box, IconButton, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import type { Schema, Track } from "../../../api/client";
import { whyQuery, windowQuery } from "../../../api/queries";
import { isJoined, partAt, type Joined } from "./tree";

type Reason = Schema["ReasonOut"];

interface Props {
  where: Joined;
  track: Track | undefined;
  counted: Schema["CountedOut"] | undefined;
  onClose: () => void;
}

export function WhyStrip({ where, track, counted, onClose }: Props) {
  const [other, setOther] = useState<Track | null>(null);
  const about = other ?? track;
  const reasons = useQuery({ ...whyQuery(where, about?.id ?? 0), enabled: about !== undefined }).data;
  return (
    <Box
      role="region"
      aria-label="Why"
      sx={{ border: 2, borderColor: "text.primary", mx: 2, my: 1, px: 1.6, py: 0.8, fontSize: "0.88rem" }}
    >
      <Box sx={{ display: "flex", gap: 1.4, flexWrap: "wrap", alignItems: "center" }}>
        {about && reasons ? (
          <Reasons track={about} reasons={reasons} where={where} />
        ) : (
          <Box sx={{ flex: 1 }}>Choose a track, or look for one.</Box>
        )}
        <OtherTrack onChoose={setOther} />
        <IconButton size="small" aria-label="Close why" onClick={onClose}>
          ×
        </IconButton>
      </Box>
      {counted?.total === 0 && <Emptied counted={counted} />}
    </Box>
  );
}

function Reasons({ track, reasons, where }: { track: Track; reasons: Reason[]; where: Joined }) {
  const [whole, ...parts] = reasons;
  const leaves = parts.filter(({ path }) => {
    const part = partAt(where, path);
    return part && !isJoined(part);
  });
  return (
    <Box sx={{ flex: 1, display: "flex", gap: 1.4, flexWrap: "wrap" }}>
      <b>
        Why is {track.title} {whole?.holds ? "in here" : "not in here"}?
      </b>
      {leaves.map((reason) => (
        <Told
          key={reason.path.join(".")}
          reason={reason}
          not={isWithinNone(where, reason.path)}
          idle={isIdle(where, reasons, reason.path)}
        />
      ))}
    </Box>
  );
}

/** What stands in a group of which none may hold is good when it does not. */
function isWithinNone(where: Joined, path: readonly number[]): boolean {
  const groups = path.map((_, depth) => partAt(where, path.slice(0, depth)));
  return groups.filter((group) => group?.kind === "none").length % 2 === 1;
}

/** In a group of which one part is enough, and holds, the others need not. */
function isIdle(where: Joined, reasons: readonly Reason[], path: readonly number[]): boolean {
  return path.some((_, depth) => {
    const way = path.slice(0, depth);
    const holds = reasons.find((each) => each.path.join(".") === way.join("."))?.holds;
    return holds === true && partAt(where, way)?.kind === "any";
  });
}

function Told({ reason, not, idle }: { reason: Reason; not: boolean; idle: boolean }) {
  const good = reason.holds !== not;
  const has = reason.has !== null && !reason.holds ? ` (it is ${reason.has})` : "";
  return (
    <Box component="span" sx={{ color: good ? "info.main" : idle ? "text.secondary" : "error.main" }}>
      {good ? "✓" : idle ? "–" : "✗"} {not && !reason.holds ? "not " : ""}
      {reason.words}
      {has}
    </Box>
  );
}

function Emptied({ counted }: { counted: Schema["CountedOut"] }) {
  const line = counted.lines.find(({ path }) => path.length === 1 && path[0] === counted.emptied_by);
  if (!line) return null;
  return (
    <Box sx={{ mt: 0.4 }}>
      Nothing is left from “{line.words}” on. Without it {counted.without.toLocaleString("en")} would be in
      here.
    </Box>
  );
}

function OtherTrack({ onChoose }: { onChoose: (track: Track) => void }) {
  const [typed, setTyped] = useState("");
  const text = useDeferredValue(typed.trim());
  const where = { kind: "words" as const, text };
  const query = windowQuery({ where, sort: "title", descending: false, then: [] }, 0);
  const found = useQuery({ ...query, enabled: text.length > 1 }).data?.rows.slice(0, 8) ?? [];
  return (
    <Autocomplete<Track>
      size="small"
      options={text.length > 1 ? found : []}
      filterOptions={(options) => options}
      getOptionLabel={({ title, artist }) => `${title}, ${artist}`}
      getOptionKey={({ id }) => id}
      value={null}
      blurOnSelect
      inputValue={typed}
      onInputChange={(_, next, reason) => setTyped(reason === "input" ? next : "")}
      onChange={(_, track) => track && onChoose(track)}
      slotProps={{ popper: { placement: "top-start" } }}
      noOptionsText="Type a title"
      renderInput={(given) => (
        <TextField {...given} placeholder="Another track…" aria-label="Another track" />
      )}
      sx={{ width: "15rem" }}
    />
  );
}
