/** What to look at before the gig, by kind, with the way to the tracks. */
import { Box, Button, Link } from "@mui/material";
import { useState } from "react";
import { Link as RouterLink } from "react-router";
import { plural } from "../../components/format";
import { SetInPoints } from "../../components/set-in-points";
import type { Plan } from "./plan-view";

type Problem = Plan["problems"][number];
const FEW = 3;

/** What a kind says of its tracks, and whether they are packed all the same. */
const KINDS: Record<Problem["kind"], (count: number) => string> = {
  away: (count) => `${plural(count, "track")} away: left out until the files are back`,
  changed: (count) => `${plural(count, "file")} changed since the import: left out until imported again`,
  "too large": (count) => `${plural(count, "track")} too long for this player’s files`,
  grid: (count) => `${plural(count, "grid")} missing or in doubt`,
  "in point": (count) => `${plural(count, "track")} without an in point`,
  route: (count) => `${plural(count, "route")} cannot be gone`,
  loss: (count) => `${plural(count, "thing")} that the player cannot hold`,
};

export function Problems({ plan }: { plan: Plan }) {
  const kinds = (Object.keys(KINDS) as Problem["kind"][])
    .map((kind) => ({ kind, found: plan.problems.filter((problem) => problem.kind === kind) }))
    .filter(({ found }) => found.length);
  if (!kinds.length) return null;
  return (
    <Box component="section" aria-label="To look at first">
      {kinds.map(({ kind, found }) => (
        <KindOf key={kind} says={KINDS[kind](found.length)} found={found} kind={kind} />
      ))}
    </Box>
  );
}

interface KindProps {
  says: string;
  found: readonly Problem[];
  kind: Problem["kind"];
}

function KindOf({ says, found, kind }: KindProps) {
  const [all, setAll] = useState(false);
  const shown = all ? found : found.slice(0, FEW);
  return (
    <Box sx={{ borderTop: 1, borderColor: "divider", py: 0.7, fontSize: "0.9rem" }}>
      <Box sx={{ color: "warning.main", fontWeight: 600 }}>{says}</Box>
      {kind === "in point" && (
        <SetInPoints find={() => Promise.resolve([...new Set(found.map(({ track_id }) => track_id))])} />
      )}
      {shown.map((problem, i) => (
        <Box key={`${problem.track_id} ${problem.player} ${i}`}>
          <Link component={RouterLink} to={`/workbench/${problem.track_id}`} color="inherit">
            {problem.title}
          </Link>
          {problem.player ? `: ${problem.player}, ${problem.says}` : ` ${problem.says}`}
        </Box>
      ))}
      {found.length > FEW && (
        <Button onClick={() => setAll(!all)}>{all ? "Fewer" : `All ${found.length}`}</Button>
      )}
    </Box>
  );
}
