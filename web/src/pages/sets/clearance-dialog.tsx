/** Clearance: whether the recording of a set may be published, and what is known of each of its tracks. */
import {
  Box,
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  TextField,
} from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { day } from "../../components/format";
import { FormDialog } from "../../components/form-dialog";
import { FIGURES, NAMES } from "../../theme";
import { ClearanceForm } from "./clearance-form";
import {
  clearanceQuery,
  STATES,
  useClearanceChanges,
  verdictOf,
  type Clearance,
  type ClearanceLine,
} from "./use-clearance";
import type { DjSet } from "./use-sets";

const COLUMNS = "3.4rem minmax(6rem, 1.4fr) 9rem minmax(4rem, 1fr) 17rem";
const LONGEST_TABLE = 2_000_000;

export function ClearanceDialog({ set, onClose }: { set: DjSet; onClose: () => void }) {
  const { data: found, error } = useQuery(clearanceQuery(set.id));
  const changes = useClearanceChanges(set.id);
  const [doubtful, setDoubtful] = useState(false);
  const [reading, setReading] = useState(false);
  const [at, setAt] = useState(0);
  const lines = (found?.lines ?? []).filter((line) => !doubtful || line.is_doubtful);
  const place = Math.min(at, Math.max(0, lines.length - 1));
  const line = lines[place];
  return (
    <Dialog open onClose={onClose} maxWidth="lg" fullWidth>
      <DialogTitle>Clearance of “{set.name}”</DialogTitle>
      <DialogContent sx={{ display: "flex", flexDirection: "column" }}>
        <Verdict found={found} error={error} />
        <FormControlLabel
          control={<Checkbox size="small" checked={doubtful} onChange={(_, on) => setDoubtful(on)} />}
          label="Only what has to be looked at"
        />
        {lines.length > 0 && <Lines lines={lines} place={place} onChoose={setAt} />}
        {found && !lines.length && <Box sx={{ py: 2 }}>Nothing has to be looked at.</Box>}
        {line && (
          <ClearanceForm
            key={JSON.stringify(line)}
            line={line}
            onSay={(said) =>
              line.track_id !== null && changes.say.mutate({ track_ids: [line.track_id], ...said })
            }
          />
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={() => changes.ask.mutate(undefined)} disabled={changes.ask.isPending}>
          Ask the rights register
        </Button>
        <Button onClick={() => setReading(true)}>Read a table…</Button>
        <Button href={`/api/sets/${set.id}/clearance/file`}>As a table</Button>
        <Box sx={{ flex: 1 }} />
        <Button variant="contained" onClick={onClose}>
          Close
        </Button>
      </DialogActions>
      {reading && <TableDialog onRead={changes.table.mutate} onClose={() => setReading(false)} />}
    </Dialog>
  );
}

function Verdict({ found, error }: { found: Clearance | undefined; error: Error | null }) {
  const bad = error || found?.may === "no";
  return (
    <Box
      role="status"
      sx={{
        fontSize: "1rem",
        fontWeight: 600,
        color: bad ? "error.main" : found?.may === "yes" ? "success.main" : "warning.main",
      }}
    >
      {error?.message ?? (found ? verdictOf(found) : "It is being looked up…")}
    </Box>
  );
}

interface LinesProps {
  lines: readonly ClearanceLine[];
  place: number;
  onChoose: (place: number) => void;
}

/** A list with one row chosen: arrows go through it, Tab goes on to what is said of that row. */
function Lines({ lines, place, onChoose }: LinesProps) {
  const list = useRef<HTMLDivElement>(null);
  useEffect(() => list.current?.focus(), []);
  useEffect(() => {
    list.current?.querySelector("[aria-selected=true]")?.scrollIntoView({ block: "nearest" });
  }, [place]);
  const onKeyDown = (event: React.KeyboardEvent) => {
    const by = { ArrowDown: 1, ArrowUp: -1, Home: -lines.length, End: lines.length }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    onChoose(Math.max(0, Math.min(lines.length - 1, place + by)));
  };
  return (
    <Box
      ref={list}
      role="listbox"
      aria-label="Clearance of each track"
      aria-activedescendant={`clearance-${place}`}
      tabIndex={0}
      onKeyDown={onKeyDown}
      sx={{ overflow: "auto", minHeight: 120, maxHeight: "48vh", fontSize: "0.88rem" }}
    >
      {lines.map((line, number) => (
        <LineRow
          key={`${number} ${line.track_id}`}
          {...{ line, number }}
          chosen={number === place}
          onChoose={() => onChoose(number)}
        />
      ))}
    </Box>
  );
}

interface RowProps {
  line: ClearanceLine;
  number: number;
  chosen: boolean;
  onChoose: () => void;
}

function LineRow({ line, number, chosen, onChoose }: RowProps) {
  const said = [line.source, line.on_day && day(line.on_day)].filter(Boolean).join(", ");
  return (
    <Box
      role="option"
      id={`clearance-${number}`}
      aria-selected={chosen}
      data-clearance={line.title}
      onClick={onChoose}
      sx={(theme) => ({
        ...{ display: "grid", gridTemplateColumns: COLUMNS, columnGap: 1, py: 0.7, px: 0.6 },
        ...{ borderBottom: 1, borderColor: "divider", cursor: "pointer", overflowWrap: "anywhere" },
        bgcolor: chosen ? theme.inks.chosenWash : undefined,
      })}
    >
      <Box sx={{ fontFamily: FIGURES, color: "text.secondary" }}>{line.at}</Box>
      <Box>
        <Box component="span" sx={{ fontFamily: NAMES, fontWeight: 600 }}>
          {line.title || "without a title"}
        </Box>{" "}
        <Box component="span" sx={{ color: "text.secondary" }}>
          {line.artist}
        </Box>
      </Box>
      <Box sx={{ color: line.is_doubtful && !chosen ? "warning.main" : undefined, fontWeight: 600 }}>
        {STATES[line.state]}
      </Box>
      <Box>{[line.places.join(", "), line.condition].filter(Boolean).join(" · ")}</Box>
      <Box sx={{ color: "text.secondary" }}>{line.track_id === null ? "not on the Shelf" : said}</Box>
    </Box>
  );
}

/** A table that somebody sent, put in as text. */
function TableDialog({ onRead, onClose }: { onRead: (text: string) => void; onClose: () => void }) {
  const [text, setText] = useState("");
  return (
    <FormDialog
      title="Read a table"
      action="Take it"
      width="md"
      disabled={!text.trim()}
      onSubmit={() => {
        onRead(text);
        onClose();
      }}
      onClose={onClose}
    >
      <p>
        Paste rows from a letter or a spreadsheet. The first row names the columns: <i>state</i>, and{" "}
        <i>title</i> with <i>artist</i>, or <i>ISRC</i>; <i>where</i>, <i>condition</i>, <i>source</i> and{" "}
        <i>date</i> can stand beside them. What you said by hand stays.
      </p>
      <TextField
        autoFocus
        fullWidth
        multiline
        minRows={6}
        maxRows={14}
        label="The table"
        value={text}
        onChange={(event) => setText(event.target.value)}
        slotProps={{ htmlInput: { maxLength: LONGEST_TABLE } }}
      />
    </FormDialog>
  );
}
