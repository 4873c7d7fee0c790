/** How new tracks are analysed, in a sentence whose parts can be changed, and the tempo windows of styles. */
import { Box, Button, MenuItem, Select, Tooltip, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted, useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import { analysisQuery } from "../../api/queries";
import { FormDialog } from "../../components/form-dialog";
import { TempoWindow, typed, windowOf, type TypedWindow, type Window } from "../../components/tempo-window";

type Analysis = Schema["AnalysisOut"];
type Wanted = Schema["AnalysisIn"];

const ARRIVALS: Analysis["arrival"][] = ["at once", "when opened", "when asked"];
const TURNS: Analysis["turn"][] = ["newest first", "oldest first", "shortest first"];

export function AnalysisRules() {
  const analysis = useQuery(analysisQuery).data;
  const [asking, setAsking] = useState(false);
  const set = useChange((body: Wanted) => unwrap(client.PUT("/api/analysis", { body })));
  if (!analysis) return null;
  const change = (part: Partial<Wanted>) =>
    set.mutate({ arrival: analysis.arrival, turn: analysis.turn, windows: own(analysis), ...part });
  return (
    <Box>
      <Typography variant="h2" sx={{ mb: 0.5 }}>
        New tracks
      </Typography>
      <Box sx={{ fontSize: "0.86rem", mb: 0.6 }}>
        are analysed{" "}
        <Words
          label="When"
          value={analysis.arrival}
          of={ARRIVALS}
          onChange={(arrival) => change({ arrival })}
        />{" "}
        <Words label="In which turn" value={analysis.turn} of={TURNS} onChange={(turn) => change({ turn })} />
      </Box>
      <HeardBefore tracks={analysis.heard_before} />
      <Button onClick={() => setAsking(true)}>Tempo windows of styles…</Button>
      {asking && (
        <StyleWindows
          analysis={analysis}
          onDone={(windows) => change({ windows })}
          onClose={() => setAsking(false)}
        />
      )}
    </Box>
  );
}

/** Tracks that an older version has heard: this one hears better, but nothing is replaced unasked. */
function HeardBefore({ tracks }: { tracks: number }) {
  const again = useChange(
    () => unwrap(client.POST("/api/analysis/heard-before")),
    ({ queued }) => `${counted(queued, "track")} will be heard anew, after those that wait.`,
  );
  if (!tracks) return null;
  return (
    <Box sx={{ fontSize: "0.86rem", mb: 0.8 }}>
      {counted(tracks, "track")} {tracks === 1 ? "was" : "were"} heard by an older version of Vinyl, which
      hears less well.{" "}
      <Tooltip title="What you have locked or done by hand stays. To see first what would be different, choose tracks on the Shelf, press ⇧E and compare.">
        <Button disabled={again.isPending} onClick={() => again.mutate(undefined)}>
          Hear {tracks === 1 ? "it" : "them"} anew
        </Button>
      </Tooltip>
    </Box>
  );
}

function own(analysis: Analysis): Record<string, Window> {
  return Object.fromEntries(analysis.windows.flatMap(({ style, own }) => (own ? [[style, own]] : [])));
}

interface WordsProps<T extends string> {
  label: string;
  value: T;
  of: T[];
  onChange: (value: T) => void;
}

function Words<T extends string>({ label, value, of, onChange }: WordsProps<T>) {
  return (
    <Select
      variant="standard"
      size="small"
      value={value}
      SelectDisplayProps={{ "aria-label": label }}
      sx={{ fontSize: "inherit" }}
      onChange={(e) => onChange(e.target.value as T)}
    >
      {of.map((each) => (
        <MenuItem key={each} value={each}>
          {each}
        </MenuItem>
      ))}
    </Select>
  );
}

interface StylesProps {
  analysis: Analysis;
  onDone: (windows: Record<string, Window>) => void;
  onClose: () => void;
}

function StyleWindows({ analysis, onDone, onClose }: StylesProps) {
  const [written, setWritten] = useState<Record<string, TypedWindow>>(() =>
    Object.fromEntries(analysis.windows.map(({ style, own }) => [style, typed(own)])),
  );
  const windows = Object.entries(written).map(([style, value]) => [style, windowOf(value)] as const);
  const done = () => {
    onDone(Object.fromEntries(windows.flatMap(([style, window]) => (window ? [[style, window]] : []))));
    onClose();
  };
  return (
    <FormDialog
      title="Tempo windows"
      action="Keep them"
      width="sm"
      disabled={windows.some(([, window]) => window === undefined)}
      onSubmit={done}
      onClose={onClose}
    >
      <Box sx={{ color: "text.secondary", fontSize: "0.86rem", mb: 1.5 }}>
        Between which tempi the beat of a style is counted, so that 87 is not taken for 174. Where you write
        nothing, the window is learnt from tracks of the style whose tempo is known.
      </Box>
      {!analysis.windows.length &&
        "No track has a style yet: files bring one as their genre, or you give one in the Edit card (E)."}
      {analysis.windows.map((each) => (
        <StyleLine
          key={each.style}
          of={each}
          value={written[each.style] ?? typed(null)}
          onChange={(value) => setWritten({ ...written, [each.style]: value })}
        />
      ))}
    </FormDialog>
  );
}

interface StyleProps {
  of: Analysis["windows"][number];
  value: TypedWindow;
  onChange: (value: TypedWindow) => void;
}

function StyleLine({ of: { style, tracks, known, learnt }, value, onChange }: StyleProps) {
  return (
    <Box
      sx={{
        display: "grid",
        gridTemplateColumns: "1fr 150px 1fr",
        gap: 1.5,
        alignItems: "baseline",
        py: 0.4,
      }}
    >
      <Box>
        {style}{" "}
        <Box component="span" sx={{ color: "text.secondary", fontSize: "0.78rem" }}>
          {counted(tracks, "track")}
        </Box>
      </Box>
      <TempoWindow label={style} value={value} onChange={onChange} usual={learnt} />
      <Box sx={{ color: "text.secondary", fontSize: "0.78rem" }}>
        {learnt ? `learnt from ${counted(known, "track")}` : "nothing learnt yet: any tempo"}
      </Box>
    </Box>
  );
}
