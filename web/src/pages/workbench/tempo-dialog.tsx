/** The tempo by number, the metre, or the tempo of another track. */
import { Autocomplete, Button, DialogContentText, MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { type KeyboardEvent, useState } from "react";
import type { Track } from "../../api/client";
import { windowQuery } from "../../api/queries";
import { engine } from "../../audio/engine";
import { FormDialog } from "../../components/form-dialog";
import { clock } from "../../components/format";
import type { Bench } from "./bench";

const OFFERED = 20;

/** Type a tempo, for the whole track, from here on or for this part; the beats in a bar; or take the tempo of another track. */
export function TempoDialog({ bench, onClose }: { bench: Bench; onClose: () => void }) {
  const { data, actions } = bench.track;
  const [text, setText] = useState(data.track.bpm?.toFixed(3).replace(/\.?0+$/, "") ?? "");
  const [here] = useState(() => engine.position());
  const bpm = Number(text.replace(",", "."));
  const wrong = !(bpm >= 30 && bpm <= 300);
  const close = (edit: Parameters<typeof actions.grid.mutate>[0]) => {
    actions.grid.mutate(edit);
    onClose();
  };
  const parts = (data.grid?.anchors.length ?? 0) > 1;
  return (
    <FormDialog
      title="Tempo"
      action="Whole track"
      disabled={wrong}
      width="sm"
      content={{ display: "flex", flexDirection: "column", gap: 1.5 }}
      others={
        <>
          {parts && (
            <Button disabled={wrong} onClick={() => close({ edit: "tempo of this part", time_s: here, bpm })}>
              This part
            </Button>
          )}
          {data.grid && (
            <Button disabled={wrong} onClick={() => close({ edit: "tempo from here", time_s: here, bpm })}>
              From here on
            </Button>
          )}
        </>
      }
      onSubmit={() => close({ edit: "set tempo", bpm, hold_s: here })}
      onClose={onClose}
    >
      <TempoField text={text} wrong={wrong} here={here} onChange={setText} />
      <BeatsInBar bench={bench} />
      <OtherTrack
        bench={bench}
        onTake={(track, what) =>
          close({ edit: "take from another track", track_id: track.id, what, hold_s: here })
        }
      />
      <DialogContentText sx={{ fontSize: "0.82rem" }}>
        “From here on” keeps everything before {clock(here, true)} as it is.
        {parts ? " “This part” keeps everything before its anchor, and every later tempo." : ""}
      </DialogContentText>
    </FormDialog>
  );
}

interface TempoProps {
  text: string;
  wrong: boolean;
  here: number;
  onChange: (text: string) => void;
}

function TempoField({ text, wrong, here, onChange }: TempoProps) {
  return (
    <TextField
      autoFocus
      size="small"
      margin="dense"
      label="Beats per minute"
      value={text}
      onChange={(e) => onChange(e.target.value)}
      onFocus={(e) => e.target.select()}
      error={text !== "" && wrong}
      helperText={
        wrong
          ? "A tempo must lie between 30 and 300"
          : `Holds the beat at ${clock(here, true)}, where you are`
      }
      slotProps={{ htmlInput: { inputMode: "decimal" } }}
    />
  );
}

function BeatsInBar({ bench }: { bench: Bench }) {
  const { data, actions } = bench.track;
  if (!data.grid) return null;
  const choose = (beats_per_bar: number) => actions.grid.mutate({ edit: "beats in a bar", beats_per_bar });
  return (
    <TextField
      select
      size="small"
      label="Beats in a bar"
      value={data.grid.beats_per_bar}
      onChange={(e) => choose(Number(e.target.value))}
    >
      {[3, 4, 5, 6, 7].map((n) => (
        <MenuItem key={n} value={n}>
          {n}
        </MenuItem>
      ))}
    </TextField>
  );
}

function OtherTrack({
  bench,
  onTake,
}: {
  bench: Bench;
  onTake: (track: Track, what: "tempo" | "map") => void;
}) {
  const [words, setWords] = useState("");
  const [other, setOther] = useState<Track | null>(null);
  const found = useOthers(words, bench.track.data.track.id);
  if (!bench.track.data.grid) return null;
  // Enter is about this field as long as something is typed in it, and not about the tempo above.
  const take = (event: KeyboardEvent) => {
    if (event.key !== "Enter" || words.trim() === "") return;
    event.preventDefault();
    if (other && words === nameOf(other)) onTake(other, "tempo");
  };
  return (
    <>
      <Autocomplete
        size="small"
        autoHighlight
        onKeyDown={take}
        options={found}
        value={other}
        onChange={(_, track) => setOther(track)}
        onInputChange={(_, text) => setWords(text)}
        getOptionLabel={nameOf}
        getOptionKey={(track) => track.id}
        isOptionEqualToValue={(a, b) => a.id === b.id}
        filterOptions={(all) => all}
        noOptionsText={words.length > 1 ? "No other track with a tempo" : "Type two letters"}
        renderInput={(params) => (
          <TextField
            {...params}
            label="Or as in another track"
            helperText={other ? `${other.bpm?.toFixed(3)} bpm; ↵ takes its tempo` : " "}
          />
        )}
      />
      {other && (
        <div style={{ display: "flex", gap: 8 }}>
          <Button onClick={() => onTake(other, "tempo")}>Its tempo, held here</Button>
          <Button onClick={() => onTake(other, "map")}>Its whole tempo map, from bar 1</Button>
        </div>
      )}
    </>
  );
}

const nameOf = (track: Track) => `${track.title}, ${track.artist}`;

/** Tracks with a tempo whose words begin so. */
function useOthers(text: string, id: number): Track[] {
  const enabled = text.length > 1;
  const where = { kind: "words", text } as const;
  const query = useQuery({ ...windowQuery({ where, sort: "title", descending: false }, 0), enabled });
  const rows = (enabled && query.data?.rows) || [];
  return rows.filter((track) => track.bpm !== null && track.id !== id).slice(0, OFFERED);
}
