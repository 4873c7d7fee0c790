/** What another library says otherwise: by kind, then track by track, and what is taken in. */
import { Alert, Box, Button, FormControlLabel, Switch, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { plural } from "../../components/format";
import { useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import { FIGURES } from "../../theme";
import { Answers } from "../../components/answers";
import type { Taken } from "./here-view";
import { ReviewRows } from "./review-rows";
import { StateLines } from "./review-states";
import { StraightDialog } from "./straight-dialog";
import { Problems } from "./theirs";
import { KINDS } from "./words";

export type ReviewOf = Schema["ReviewOut"];
export type Way = Schema["ChooseIn"]["choice"];

interface Props {
  review: ReviewOf;
  label: string;
  taking: boolean;
  result: Taken | null;
  /** Beginnings of its paths that were put for others. */
  mappings: Schema["PathPair"][];
  onLook: (body: Schema["LibraryLookIn"]) => void;
  onOther: () => void;
  onReport: (jobId: number) => void;
}

export function Review({ review, label, taking, result, mappings, onLook, onOther, onReport }: Props) {
  const [lists, setLists] = useState(true);
  const [plays, setPlays] = useState(true);
  const [straight, setStraight] = useState(false);
  const queries = useQueryClient();
  const path = { job_id: review.job_id };
  const take = useChange(() =>
    unwrap(client.POST("/api/exchange/looks/{job_id}/take", { params: { path }, body: { lists, plays } })),
  );
  const choose = useChange(async (body: Schema["ChooseIn"]) => {
    await unwrap(client.POST("/api/exchange/looks/{job_id}/choose", { params: { path }, body }));
    await queries.invalidateQueries({ queryKey: ["exchange", "review", review.job_id] });
    await queries.invalidateQueries({ queryKey: ["exchange-differences", review.job_id] });
  });
  const values = review.kinds
    .filter(({ choice }) => choice !== "ours")
    .reduce((sum, each) => sum + each.values, 0);
  const nothing = !values && !(lists && review.lists.length) && !(plays && review.plays);
  return (
    <>
      <Head
        review={review}
        label={label}
        disabled={taking || take.isPending || review.taken || nothing}
        onTake={() => take.mutate()}
        onOther={onOther}
        mappings={mappings}
        onLook={onLook}
        onStraight={() => setStraight(true)}
      />
      {result && (
        <Alert severity="success" variant="outlined" sx={{ my: 1 }}>
          Taken in: {saidTaken(result)}. Ctrl Z takes it back.
        </Alert>
      )}
      <StateLines review={review} mappings={mappings} onLook={onLook} />
      <Problems problems={review.problems} />
      <Kinds review={review} onChoose={(choice, kind) => choose.mutate({ choice, kind, ids: null })} />
      <ListsAndPlays review={review} lists={lists} plays={plays} onLists={setLists} onPlays={setPlays} />
      {straight && (
        <StraightDialog
          review={review}
          mappings={mappings}
          onReport={onReport}
          onClose={() => setStraight(false)}
        />
      )}
      <ReviewRows review={review} onChoose={(choice, ids) => choose.mutate({ choice, kind: null, ids })} />
    </>
  );
}

interface HeadProps {
  review: ReviewOf;
  label: string;
  disabled: boolean;
  onTake: () => void;
  onOther: () => void;
  mappings: Props["mappings"];
  onLook: Props["onLook"];
  onStraight: () => void;
}

function Head({ review, label, disabled, mappings, onTake, onOther, onLook, onStraight }: HeadProps) {
  return (
    <Box sx={{ display: "flex", alignItems: "baseline", gap: 1.2 }}>
      <Typography variant="h1">From {label}</Typography>
      <Box
        sx={{
          color: "text.secondary",
          fontFamily: FIGURES,
          fontSize: "0.8rem",
          flex: 1,
          overflowWrap: "anywhere",
        }}
      >
        {review.place}
      </Box>
      <Button onClick={onOther}>Another library…</Button>
      <Button onClick={onStraight}>Straight on to…</Button>
      <Button onClick={() => onLook(again(review, mappings))}>Look again</Button>
      <Button variant="contained" color="error" disabled={disabled} onClick={onTake}>
        Take it in
      </Button>
    </Box>
  );
}

export const again = (review: ReviewOf, mappings: Schema["PathPair"][]): Schema["LibraryLookIn"] => ({
  target: review.target,
  place: review.place,
  by_names: true,
  mappings,
});

export const WAYS: Record<Way, string> = {
  rule: "by rule",
  theirs: "theirs",
  ours: "yours stay",
  add: "added to yours",
};

const OFFERED: Record<string, readonly Way[]> = {
  cues: ["add", "theirs", "ours"],
  tags: ["add", "ours"],
};

/** How many differences of each kind, and one answer for all of a kind. */
function Kinds({ review, onChoose }: { review: ReviewOf; onChoose: (choice: Way, kind: string) => void }) {
  const kinds = [...new Set(review.kinds.map(({ kind }) => kind))];
  const order = Object.keys(KINDS);
  kinds.sort((a, b) => order.indexOf(a) - order.indexOf(b));
  if (!kinds.length)
    return <Alert severity="info">Of the tracks that are here, nothing is said otherwise.</Alert>;
  return (
    <Box role="region" aria-label="Differences by kind" sx={{ my: 1, maxWidth: 900 }}>
      {kinds.map((kind) => {
        const mine = review.kinds.filter((each) => each.kind === kind);
        const values = mine.reduce((sum, each) => sum + each.values, 0);
        const [one] = mine;
        return (
          <Box
            key={kind}
            data-kind={kind}
            sx={{
              ...{ display: "grid", gridTemplateColumns: "9rem 8rem 1fr", gap: 1.2, py: 0.4 },
              ...{ borderTop: 1, borderColor: "divider", alignItems: "baseline", fontSize: "0.9rem" },
            }}
          >
            <b>{KINDS[kind]}</b>
            <Box sx={{ fontFamily: FIGURES }}>{values.toLocaleString("en")} differ</Box>
            <Box>
              <Answers
                label={`What becomes of ${KINDS[kind] ?? kind}`}
                disabled={review.taken}
                value={mine.length === 1 && one ? one.choice : ""}
                answers={[
                  ...(mine.length > 1 ? [{ value: "", words: mixed(mine) }] : []),
                  ...(OFFERED[kind] ?? (["rule", "theirs", "ours"] as const)).map((way) => ({
                    value: way,
                    words: WAYS[way],
                  })),
                ]}
                onPick={(way) => way && onChoose(way as Way, kind)}
              />
            </Box>
          </Box>
        );
      })}
    </Box>
  );
}

const saidTaken = ({ tracks, lists, nights }: Taken): string =>
  [plural(tracks, "track"), lists ? plural(lists, "list") : "", nights ? plural(nights, "night") : ""]
    .filter(Boolean)
    .join(", ");

const mixed = (kinds: readonly Schema["KindChosen"][]): string =>
  kinds.map(({ choice, values }) => `${values} ${WAYS[choice as Way]}`).join(", ");

interface ListsProps {
  review: ReviewOf;
  lists: boolean;
  plays: boolean;
  onLists: (on: boolean) => void;
  onPlays: (on: boolean) => void;
}

function ListsAndPlays({ review, lists, plays, onLists, onPlays }: ListsProps) {
  const [open, setOpen] = useState(false);
  const missing = review.lists.reduce((sum, each) => sum + each.tracks - each.found, 0);
  return (
    <Box sx={{ fontSize: "0.9rem", mb: 1 }}>
      {review.lists.length > 0 && (
        <>
          <FormControlLabel
            control={<Switch size="small" checked={lists} onChange={(_, on) => onLists(on)} />}
            label={`${plural(review.lists.length, "list")}, in a folder of their own${missing ? `; ${plural(missing, "place")} as wanted` : ""}`}
          />
          <Button onClick={() => setOpen(!open)} aria-expanded={open}>
            {open ? "Hide them" : "Show them"}
          </Button>
          {open &&
            review.lists.map((list) => (
              <Box key={list.name} sx={{ pl: 5 }}>
                {list.name} {list.kind === "rule list" && "≡"}{" "}
                <Box component="span" sx={{ color: "text.secondary" }}>
                  {list.found} of {plural(list.tracks, "track")} here
                </Box>
              </Box>
            ))}
        </>
      )}
      {review.plays > 0 && (
        <Box>
          <FormControlLabel
            control={<Switch size="small" checked={plays} onChange={(_, on) => onPlays(on)} />}
            label={`${plural(review.plays, "play")} into the Logbook, each once`}
          />
        </Box>
      )}
    </Box>
  );
}
