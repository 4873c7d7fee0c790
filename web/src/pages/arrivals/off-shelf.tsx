/** Tracks that were taken off the Shelf: how many, bringing them back, throwing away files put aside. */
import { Box, Button, Checkbox, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef, useState } from "react";
import { counted, useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import { offShelfQuery } from "../../api/queries";
import { Confirm } from "../../components/confirm";
import { ago, size } from "../../components/format";

type Off = Schema["OffShelfOut"];

export function OffShelf() {
  const tracks = useQuery(offShelfQuery).data ?? [];
  const [open, setOpen] = useState(false);
  if (!tracks.length) return null;
  const aside = tracks.filter(({ kept }) => kept !== null);
  return (
    <Box>
      <Typography variant="h2" sx={{ mb: 0.5 }}>
        Off the Shelf
      </Typography>
      <Box sx={{ fontSize: "0.86rem", mb: 0.6 }}>
        {counted(tracks.filter(({ is_copy }) => !is_copy).length, "track")} taken off, kept with tags, grids
        and cues.
        {aside.length > 0 && ` ${counted(aside.length, "file")} put aside, ${size(bytesOf(aside))}.`}
      </Box>
      <Button onClick={() => setOpen(true)}>Look through them…</Button>
      {open && <OffShelfList tracks={tracks} onClose={() => setOpen(false)} />}
    </Box>
  );
}

/** A copy has the id of the track whose sound it holds. */
const nameOf = ({ track_id, is_copy, path }: Off): string => (is_copy ? path : String(track_id));

const bytesOf = (tracks: Off[]): number => tracks.reduce((sum, { size_bytes }) => sum + size_bytes, 0);

function OffShelfList({ tracks, onClose }: { tracks: Off[]; onClose: () => void }) {
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [sure, setSure] = useState(false);
  const picked = tracks.filter((each) => chosen.has(nameOf(each)));
  const aside = picked.filter(({ kept }) => kept !== null);
  const { back, throwAway } = useOffShelf();
  const body = (some: Off[]) => ({
    track_ids: some.filter(({ is_copy }) => !is_copy).map(({ track_id }) => track_id),
    copies: some.filter(({ is_copy }) => is_copy).map(({ path }) => path),
  });
  const toggle = (name: string) =>
    setChosen(
      chosen.has(name) ? new Set([...chosen].filter((each) => each !== name)) : new Set([...chosen, name]),
    );
  const all = () => setChosen(new Set(picked.length === tracks.length ? [] : tracks.map(nameOf)));
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md">
      <DialogTitle>Off the Shelf</DialogTitle>
      <OffRows tracks={tracks} chosen={chosen} onToggle={toggle} />
      <DialogActions>
        <Button onClick={all}>{picked.length === tracks.length ? "Choose none" : "Choose all"}</Button>
        <Box sx={{ flex: 1 }} />
        <Button disabled={!aside.length} onClick={() => setSure(true)}>
          Throw {aside.length ? counted(aside.length, "file") : "files"} away…
        </Button>
        <Button
          variant="contained"
          disabled={!picked.length || back.isPending}
          onClick={() => back.mutate(body(picked), { onSuccess: onClose })}
        >
          Bring {picked.length ? counted(picked.length, "file") : "files"} back
        </Button>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
      <Confirm
        open={sure}
        title={`Throw ${counted(aside.length, "file")} away for good?`}
        action="Throw away"
        onConfirm={() => throwAway.mutate(body(aside), { onSuccess: () => setSure(false) })}
        onClose={() => setSure(false)}
      >
        {size(bytesOf(aside))} become free. Undo cannot bring files back; what Vinyl knows of the tracks
        stays.
      </Confirm>
    </Dialog>
  );
}

interface RowsProps {
  tracks: readonly Off[];
  chosen: ReadonlySet<string>;
  onToggle: (name: string) => void;
}

/** After an evening with twins there are thousands. */
function OffRows({ tracks, chosen, onToggle }: RowsProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: tracks.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 39,
    overscan: 10,
  });
  return (
    <DialogContent ref={scroller} sx={{ height: 420 }}>
      <Box sx={{ height: rows.getTotalSize(), position: "relative" }}>
        {rows.getVirtualItems().map(({ index, start }) => {
          const track = tracks[index];
          return (
            track && (
              <Box
                key={nameOf(track)}
                ref={rows.measureElement}
                data-index={index}
                sx={{ position: "absolute", left: 0, right: 0, top: 0, transform: `translateY(${start}px)` }}
              >
                <OffRow
                  track={track}
                  chosen={chosen.has(nameOf(track))}
                  onToggle={() => onToggle(nameOf(track))}
                />
              </Box>
            )
          );
        })}
      </Box>
    </DialogContent>
  );
}

function useOffShelf() {
  const back = useChange(
    (body: Schema["OffShelfIn"]) => unwrap(client.POST("/api/off-shelf/back", { body })),
    ({ tracks }) => `${counted(tracks, "track")} back on the Shelf.`,
  );
  const throwAway = useChange(
    (body: Schema["OffShelfIn"]) => unwrap(client.POST("/api/off-shelf/throw-away", { body })),
    ({ freed_bytes, problems }) => [`${size(freed_bytes)} are free now.`, ...problems].join(" "),
  );
  return { back, throwAway };
}

function OffRow({ track, chosen, onToggle }: { track: Off; chosen: boolean; onToggle: () => void }) {
  const name = [track.artist, track.title].filter(Boolean).join(" – ");
  return (
    <Box
      component="label"
      sx={{
        ...{ display: "grid", gridTemplateColumns: "34px minmax(0, 1fr) 150px 110px", alignItems: "center" },
        ...{ borderBottom: 1, borderColor: "divider", fontSize: "0.86rem", cursor: "pointer" },
      }}
    >
      <Checkbox
        size="small"
        checked={chosen}
        onChange={onToggle}
        slotProps={{ input: { "aria-label": name } }}
      />
      <Box sx={{ overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" }} title={track.path}>
        {name}
        {track.why && (
          <Box component="span" sx={{ color: "text.secondary" }}>
            {" "}
            {track.path.split("/").pop()}: {track.why}
          </Box>
        )}
      </Box>
      <Box sx={{ color: "text.secondary" }} title={track.kept ?? track.path}>
        {track.kept ? `put aside, ${size(track.size_bytes)}` : "file where it was"}
      </Box>
      <Box sx={{ color: "text.secondary", textAlign: "right" }}>{ago(track.taken_at)}</Box>
    </Box>
  );
}
