/** Having a set ordered: by what, and how the order that is proposed compares with the one there. */
import { Box, Checkbox, FormControlLabel, Radio, RadioGroup } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { FormDialog } from "../../components/form-dialog";
import { useRested } from "../../components/use-rested";
import { useRemembered } from "../../settings";
import { FIGURES } from "../../theme";
import { orderQuery, type By, type DjSet, type OrderWeights, type useSetChanges } from "./use-sets";
import { useWeights } from "./use-weights";
import { Weights } from "./weights";

const WAYS: { by: By; words: string }[] = [
  { by: "tempo", words: "Rising tempo" },
  { by: "keys", words: "Keys that go together, tempo near" },
  { by: "arc", words: "By the arc you drew" },
  { by: "all", words: "All of it, weighed" },
];

const WEIGHED: Record<keyof OrderWeights, string> = {
  tempo: "Tempo near",
  keys: "Keys together",
  arc: "The arc you drew",
  rise: "Never slower",
};
const USUAL: OrderWeights = { tempo: 0.5, keys: 0.5, arc: 0.6, rise: 0.2 };
/** So long nobody has moved a slider before an order is asked for. */
const REST_MS = 250;
/** From here on a joint costs what a DJ begins to mind. */
const MINDED = 0.5;

interface Props {
  set: DjSet;
  /** The chosen track: from it on is a stretch that can be ordered by itself. */
  place: number;
  changes: ReturnType<typeof useSetChanges>;
  onClose: () => void;
}

export function OrderDialog({ set, place, changes, onClose }: Props) {
  const [by, setBy] = useRemembered<By>("sets.by", "tempo");
  const [weights, setWeights] = useWeights<keyof OrderWeights>("sets.weights", USUAL);
  const [part, setPart] = useState(false);
  const canPart = place > 0 && place < set.order.length - 1;
  const stretch = (part && canPart ? set.order.slice(place) : set.order).map(({ id }) => id);
  const found = useProposal(set, by, stretch, weights);
  const ids = found.data?.entry_ids ?? [];
  const same = ids.every((id, at) => stretch[at] === id);
  const noArc = by === "arc" && !set.arc.length;
  const apply = () => {
    changes.reorder.mutate(ids);
    onClose();
  };
  return (
    <FormDialog
      title="Have it ordered"
      action="Take this order"
      width="md"
      disabled={!found.data || same || noArc}
      onSubmit={apply}
      onClose={onClose}
    >
      <Ways by={by} onChange={setBy} />
      {canPart && (
        <FormControlLabel
          control={<Checkbox size="small" checked={part} onChange={(_, on) => setPart(on)} />}
          label={`Only from “${set.order[place]?.title}” on`}
        />
      )}
      {by === "all" && <Weights words={WEIGHED} usual={USUAL} weights={weights} onChange={setWeights} />}
      <Box sx={{ color: "text.secondary", fontSize: "0.88rem", mb: 1 }} role="status">
        {found.error?.message ??
          (noArc
            ? "Draw the arc first: a double click in the picture sets a point of it."
            : saidOf(found.data, same))}
      </Box>
      <Box
        sx={{
          display: "grid",
          gridTemplateColumns: "repeat(2, minmax(0, 1fr))",
          gap: 2,
          maxHeight: "max(160px, min(380px, 100vh - 23rem))",
          overflow: "auto",
        }}
      >
        <Column title="Now" set={set} ids={stretch} costs={found.data?.joints_before} />
        <Column title="Proposed" set={set} ids={ids} costs={found.data?.joints_after} />
      </Box>
    </FormDialog>
  );
}

function Ways({ by, onChange }: { by: By; onChange: (by: By) => void }) {
  return (
    <RadioGroup row value={by} onChange={(_, value) => onChange(value as By)}>
      {WAYS.map((way) => (
        <FormControlLabel
          key={way.by}
          value={way.by}
          control={<Radio size="small" autoFocus={way.by === by} />}
          label={way.words}
        />
      ))}
    </RadioGroup>
  );
}

/** The order that is proposed, once nobody moves a slider. */
function useProposal(set: DjSet, by: By, stretch: number[], weights: OrderWeights) {
  const rested = useRested(weights, REST_MS);
  return useQuery(orderQuery(set.id, by, stretch, by === "all" ? rested : undefined));
}

function saidOf(found: { cost_before: number; cost_after: number } | undefined, same: boolean): string {
  if (!found) return "It is being worked out…";
  if (same) return "It stands like that already.";
  const part = found.cost_before > 0 ? Math.round(100 * (1 - found.cost_after / found.cost_before)) : 0;
  return `By this measure ${part} % better than now. Pinned tracks stay where they are.`;
}

interface ColumnProps {
  title: string;
  set: DjSet;
  ids: readonly number[];
  /** What each joint costs by this measure. */
  costs: readonly number[] | undefined;
}

function Column({ title, set, ids, costs = [] }: ColumnProps) {
  const entries = new Map(set.order.map((entry) => [entry.id, entry]));
  return (
    <Box component="ol" aria-label={title} sx={{ m: 0, p: 0, listStyle: "none", fontSize: "0.86rem" }}>
      <Box component="li" sx={{ display: "flex", justifyContent: "space-between", pb: 0.4 }}>
        <b>{title}</b>
        <Box sx={{ color: "text.secondary", fontSize: "0.8rem" }}>costs to the next</Box>
      </Box>
      {ids.map((id, place) => {
        const entry = entries.get(id);
        return (
          entry && (
            <Box
              component="li"
              key={id}
              sx={{ display: "flex", gap: 1, py: 0.2, borderTop: 1, borderColor: "divider" }}
            >
              <Box
                sx={{
                  flex: 1,
                  minWidth: 0,
                  overflow: "hidden",
                  textOverflow: "ellipsis",
                  whiteSpace: "nowrap",
                }}
              >
                {entry.pin ? "■ " : ""}
                {entry.title}
              </Box>
              <Box sx={{ fontFamily: FIGURES, color: "text.secondary", whiteSpace: "nowrap" }}>
                {entry.bpm?.toFixed(1) ?? "–"} {entry.key ?? ""} {entry.energy ?? ""}
              </Box>
              <Cost of={costs[place]} />
            </Box>
          )
        );
      })}
    </Box>
  );
}

/** What going on from here costs; the last has no joint. */
function Cost({ of }: { of: number | undefined }) {
  return (
    <Box
      title={of === undefined ? undefined : `To the next: ${of.toFixed(2)} by this measure`}
      sx={{
        ...{ fontFamily: FIGURES, flex: "0 0 2.6em", textAlign: "right" },
        color: of !== undefined && of >= MINDED ? "warning.main" : "text.secondary",
      }}
    >
      {of?.toFixed(2) ?? ""}
    </Box>
  );
}
