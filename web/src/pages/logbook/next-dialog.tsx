/** The next list from a former night: what stays, what goes, and what comes in its place, each to be exchanged. */
import { Box, Button, DialogActions, DialogContent, DialogTitle, Select, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { counted, useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import { nextQuery } from "../../api/queries";
import { useRemembered } from "../../settings";
import type { Gig, Logbook } from "./use-logbook";
import { dateOf, dayOf, isoOf, whereOf } from "./words";
import { KeepingDialog } from "../../components/keeping-dialog";

type Place = Schema["PlaceOut"];

const SHARES = [
  { share: 0, words: "nothing" },
  { share: 0.1, words: "a tenth" },
  { share: 0.2, words: "a fifth" },
  { share: 1 / 3, words: "a third" },
  { share: 0.5, words: "half" },
  { share: 1, words: "all that did not go well" },
];
const WEEKS = [0, 2, 4, 8, 12, 26, 52];
/** At a place: the track that is taken instead of the first proposal, or null for none. */
type Choices = ReadonlyMap<number, number | null>;

interface Props {
  gig: Gig;
  logbook: Logbook;
  onClose: () => void;
}

export function NextDialog({ gig, logbook, onClose }: Props) {
  const [share, setShare] = useRemembered("next share", 0.2);
  const [weeks, setWeeks] = useRemembered("next weeks", 4);
  const [on, setOn] = useState(() => nextDate(gig, logbook));
  const [choices, setChoices] = useState<Choices>(new Map());
  const { data: next, error } = useQuery(nextQuery(gig.id, { on, share, weeks }));
  const places = next?.places ?? [];
  const ids = places.flatMap((place) => trackAt(place, choices) ?? []);
  const make = useMakeNext(gig, onClose);
  return (
    <KeepingDialog onClose={onClose} fullWidth maxWidth="md">
      <DialogTitle>
        Next list, made from {dayOf(gig.on)} at {whereOf(gig, logbook.venues)}
      </DialogTitle>
      <DialogContent>
        <Wishes wishes={{ on, share, weeks }} onOn={setOn} onShare={setShare} onWeeks={setWeeks} />
        {error && <Box sx={{ color: "error.main" }}>{error.message}</Box>}
        <Box role="list" aria-label="The next list">
          {places.map((place) => (
            <NextRow key={place.play.id} place={place} choices={choices} onChoose={setChoices} />
          ))}
        </Box>
      </DialogContent>
      <DialogActions>
        <Box sx={{ mr: "auto", pl: 2, color: "text.secondary" }}>
          {counted(ids.length, "track")}, “{next?.name}”
        </Box>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          variant="contained"
          disabled={!ids.length || make.isPending}
          onClick={() => next && make.mutate({ on, name: next.name, track_ids: ids })}
        >
          Make the list
        </Button>
      </DialogActions>
    </KeepingDialog>
  );
}

interface WishesProps {
  wishes: { on: string; share: number; weeks: number };
  onOn: (on: string) => void;
  onShare: (share: number) => void;
  onWeeks: (weeks: number) => void;
}

/** What is wished for, as a sentence whose words can be changed. */
function Wishes({ wishes: { on, share, weeks }, onOn, onShare, onWeeks }: WishesProps) {
  return (
    <Box sx={{ lineHeight: 2.4, mb: 1 }}>
      For{" "}
      <TextField
        size="small"
        variant="standard"
        type="date"
        value={on}
        onChange={(event) => event.target.value && onOn(event.target.value)}
        slotProps={{ htmlInput: { "aria-label": "For which date" } }}
      />
      : keep what went well, drop what shall never be played again, and replace{" "}
      <Choice
        label="Which share is replaced"
        value={share}
        options={SHARES.map((each) => [each.share, each.words])}
        onChange={onShare}
      />{" "}
      by others in the same role, by tempo, energy and tags, not played here for{" "}
      <Choice
        label="For how many weeks not played here"
        value={weeks}
        options={WEEKS.map((each) => [each, counted(each, "week")])}
        onChange={onWeeks}
      />
      .
    </Box>
  );
}

/** The next date of what comes again there, else a week later, but never in the past. */
function nextDate(gig: Gig, { venues }: Logbook): string {
  const coming = venues.find((venue) => venue.id === gig.venue_id)?.next_on;
  const later = dateOf(gig.on);
  later.setDate(later.getDate() + 7);
  const today = isoOf(new Date());
  return coming ?? (isoOf(later) > today ? isoOf(later) : today);
}

function useMakeNext(gig: Gig, onClose: () => void) {
  const navigate = useNavigate();
  return useChange(
    async (body: Schema["MakeNextIn"]) => {
      const params = { path: { gig_id: gig.id } };
      const made = await unwrap(client.POST("/api/gigs/{gig_id}/next", { params, body }));
      onClose();
      void navigate(`/crates/${made.crate_id}`);
      return made;
    },
    ({ warnings }, { name }) =>
      warnings.length
        ? `“${name}” is made. Look again: ${warnings.map(({ title, why }) => `${title} (${why})`).join(", ")}.`
        : `“${name}” is made.`,
  );
}

function trackAt(place: Place, choices: Choices): number | null {
  const chosen = choices.get(place.play.id);
  if (chosen !== undefined) return chosen;
  if (place.fate === "drop") return null;
  return place.fate === "replace" ? (place.candidates[0]?.track_id ?? null) : place.play.track_id;
}

interface RowProps {
  place: Place;
  choices: Choices;
  onChoose: (choices: Choices) => void;
}

/** Why a track stands there, or why none does. */
function reasonOf(
  { play, fate, reason }: Place,
  kept: boolean,
  candidate?: Place["candidates"][number],
): string {
  if (kept) return fate === "keep" ? reason : "kept after all";
  if (candidate) return `${fate === "replace" ? `${reason}: ` : ""}${candidate.reasons.join(", ")}`;
  return play.track_id === null ? "not on the Shelf" : reason;
}

function NextRow({ place, choices, onChoose }: RowProps) {
  const { play, candidates } = place;
  const track = trackAt(place, choices);
  const candidate = candidates.find((each) => each.track_id === track);
  const kept = track !== null && track === play.track_id;
  const choose = (value: string) =>
    onChoose(new Map(choices).set(play.id, value === "" ? null : Number(value)));
  const reason = reasonOf(place, kept, candidate);
  return (
    <Box
      role="listitem"
      data-fate={kept ? "keep" : candidate ? "replace" : "drop"}
      sx={{
        display: "grid",
        gridTemplateColumns: "minmax(0, 1fr) minmax(0, 1.15fr) minmax(0, 1.4fr)",
        gap: 1.5,
        alignItems: "center",
        borderBottom: 1,
        borderColor: "divider",
        minHeight: "2.1rem",
        fontSize: "0.88rem",
      }}
    >
      <Box
        sx={{
          textDecoration: kept ? "none" : "line-through",
          color: kept ? "text.primary" : "text.secondary",
        }}
      >
        {play.title}
      </Box>
      <Select
        native
        variant="standard"
        value={track ?? ""}
        onChange={(event) => choose(String(event.target.value))}
        inputProps={{ "aria-label": `In the place of ${play.title}` }}
        sx={{ fontSize: "inherit", fontWeight: candidate ? 650 : 400 }}
      >
        {play.track_id !== null && <option value={play.track_id}>keep it</option>}
        {candidates.map((each) => (
          <option key={each.track_id} value={each.track_id}>
            {each.title} – {each.artist}
          </option>
        ))}
        <option value="">leave it out</option>
      </Select>
      <Box
        sx={{ color: kept ? "text.secondary" : candidate ? "info.main" : "error.main", fontSize: "0.8rem" }}
      >
        {reason}
      </Box>
    </Box>
  );
}

interface ChoiceProps {
  label: string;
  value: number;
  options: [number, string][];
  onChange: (value: number) => void;
}

/** A word of a sentence that can be changed. */
function Choice({ label, value, options, onChange }: ChoiceProps) {
  return (
    <Select
      native
      variant="standard"
      value={value}
      onChange={(event) => onChange(Number(event.target.value))}
      inputProps={{ "aria-label": label }}
      sx={{ font: "inherit", fontWeight: 650, "& select": { lineHeight: 1.5, py: 0 } }}
    >
      {options.map(([each, words]) => (
        <option key={each} value={each}>
          {words}
        </option>
      ))}
    </Select>
  );
}
