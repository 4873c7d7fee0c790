/** The end of a rule: how many tracks at most, and in which order. */
import { Box, Button } from "@mui/material";
import { useState } from "react";
import type { Schema } from "../../../api/client";
import type { Sort } from "../../../api/queries";
import { META } from "../../../components/track-columns";
import { sortsOf } from "./use-rule";

type Rule = Schema["RuleBody"];

interface Props {
  rule: Rule;
  sorts: readonly Sort[];
  onChange: (changes: Partial<Rule>) => void;
}

const MOST = 100_000;

export function RuleFoot({ rule, sorts, onChange }: Props) {
  return (
    <Box sx={{ display: "flex", gap: 0.8, alignItems: "center", px: 2, pb: 1, fontSize: "0.86rem" }}>
      <span>
        at most <Limit limit={rule.limit ?? null} onLimit={(limit) => onChange({ limit })} />, by{" "}
        <b>{told(rule.order)}</b>
      </span>
      {JSON.stringify(sorts) !== JSON.stringify(sortsOf(rule)) && (
        <Button size="small" onClick={() => onChange({ order: [...sorts] })}>
          Keep the order shown
        </Button>
      )}
    </Box>
  );
}

/** An order in words. */
export const told = (order: Rule["order"]): string =>
  order
    .map(({ sort, descending }) => `${nameOf(sort)}${descending ? `, ${downwards(sort)}` : ""}`)
    .join(", then ");

const DATES = ["added_at", "last_played", "last_at"];
const TEXTS = ["title", "artist", "album", "genre", "label", "remixer", "composer", "language", "comment"];

const downwards = (sort: string): string => {
  if (DATES.includes(sort)) return "newest first";
  if (sort === "duration_s") return "longest first";
  return TEXTS.includes(sort) ? "from Z to A" : "highest first";
};

const nameOf = (sort: string): string => {
  const found = [...META.entries()].find(([, meta]) => meta?.sort === sort);
  return (found?.[0] ?? sort).toLowerCase();
};

function Limit({ limit, onLimit }: { limit: number | null; onLimit: (limit: number | null) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  if (typed === null)
    return (
      <Button
        variant="text"
        title="Another number, or none"
        onClick={() => setTyped(String(limit ?? ""))}
        sx={SAID}
      >
        {limit === null ? "no limit" : `${limit.toLocaleString("en")} tracks`}
      </Button>
    );
  const number = Number(typed);
  const wrong = typed.trim() !== "" && !(Number.isInteger(number) && number >= 1 && number <= MOST);
  const done = () => {
    if (!wrong) onLimit(typed.trim() ? number : null);
    setTyped(null);
  };
  return (
    <input
      autoFocus
      aria-label="Tracks at most"
      aria-invalid={wrong}
      title={
        wrong ? `A whole number from 1 to ${MOST.toLocaleString("en")}, or nothing` : "Nothing means no limit"
      }
      value={typed}
      placeholder="no limit"
      onChange={(event) => setTyped(event.target.value)}
      onBlur={done}
      onKeyDown={(event) => {
        if (event.key === "Enter") done();
        else if (event.key === "Escape") setTyped(null);
      }}
      style={{ width: "5.5rem", font: "inherit" }}
    />
  );
}

const SAID = { p: 0, minWidth: 0, borderRadius: 0, borderBottom: 1, fontSize: "inherit" };
