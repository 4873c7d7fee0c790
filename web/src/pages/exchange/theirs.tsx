/** What the other library has of its own: later work that stays or gives way, and what would vanish. */
import { Box, FormControlLabel, Switch } from "@mui/material";
import { useState } from "react";
import { plural } from "../../components/format";
import { Answers } from "../../components/answers";
import type { Ledger, Order } from "./use-exchange";

interface Props {
  ledger: Ledger;
  order: Order;
  onChange: (change: Partial<Order>) => void;
}

const PARTS = { texts: "texts and ratings", plays: "counts of plays", grid: "grids", cues: "cues and loops" };
type Part = keyof typeof PARTS;
const POLICIES = [
  { value: "leave", words: "theirs stay" },
  { value: "add", words: "yours are added, theirs stay" },
  { value: "replace", words: "yours replace theirs" },
];

export function Theirs({ ledger, order, onChange }: Props) {
  const { states, later } = ledger;
  const there = (states["changed"] ?? 0) + (states["same"] ?? 0);
  const parts = (Object.keys(PARTS) as Part[]).filter((part) => later[part]);
  if (!there && !ledger.problems.length) return null;
  return (
    <Box sx={{ fontSize: "0.9rem", lineHeight: 1.8, mb: 1 }} role="region" aria-label="What is there already">
      {there > 0 && (
        <>
          {plural(there, "track")} {there === 1 ? "is" : "are"} there already: {states["same"] ?? 0} as you
          left them, {states["changed"] ?? 0} changed here or there; {states["new"] ?? 0} new. What lies there
          is kept as a backup.{" "}
          <FormControlLabel
            control={
              <Switch
                size="small"
                checked={order.mirror ?? false}
                onChange={(_, mirror) => onChange({ mirror })}
              />
            }
            label="Nothing else stays there"
            title="The library there becomes a mirror of what goes; else it is added to"
            sx={{ ml: 0.5 }}
          />
        </>
      )}
      {parts.map((part) => (
        <Box key={part}>
          <b>{plural(later[part] ?? 0, "track")}</b> with {PARTS[part]} that the other side has changed
          itself:{" "}
          <Answers
            label={`Their own ${PARTS[part]}`}
            value={order.policies?.[part] ?? "leave"}
            answers={POLICIES}
            onPick={(policy) =>
              onChange({ policies: { ...order.policies, [part]: policy } as NonNullable<Order["policies"]> })
            }
          />
        </Box>
      ))}
      {later["grid"] ? <OntoTheirs order={order} onChange={onChange} /> : null}
      <Vanish ledger={ledger} />
      <Problems problems={ledger.problems} />
    </Box>
  );
}

const LIMITS = [
  { value: "", words: "stay where they are" },
  { value: "10", words: "go onto its nearest beat, within 10 ms" },
  { value: "25", words: "go onto its nearest beat, within 25 ms" },
  { value: "60", words: "go onto its nearest beat, within 60 ms" },
];

/** Where the other side keeps its grid, cues may go onto it. */
function OntoTheirs({ order, onChange }: Omit<Props, "ledger">) {
  return (
    <Box>
      Where its own grid stays, your cues{" "}
      <Answers
        label="Cues where its own grid stays"
        value={order.onto_ms ? String(order.onto_ms) : ""}
        answers={LIMITS}
        onPick={(limit) => onChange({ onto_ms: limit ? Number(limit) : null })}
      />
    </Box>
  );
}

function Vanish({ ledger }: { ledger: Ledger }) {
  const { lists, tracks, count } = ledger.vanish;
  const [open, setOpen] = useState(false);
  if (!lists.length && !count) return null;
  return (
    <Box role="alert" sx={{ color: "error.main" }}>
      {[lists.length ? plural(lists.length, "list") : "", count ? plural(count, "track") : ""]
        .filter(Boolean)
        .join(" and ")}{" "}
      would vanish there.{" "}
      <Box
        component="button"
        type="button"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
        sx={{
          font: "inherit",
          border: 0,
          bgcolor: "transparent",
          textDecoration: "underline",
          color: "inherit",
        }}
      >
        {open ? "Hide them" : "Show them"}
      </Box>
      {open && (
        <Box sx={{ color: "text.primary", fontSize: "0.83rem", columns: "22rem", overflowWrap: "anywhere" }}>
          {[...lists.map((name) => `≡ ${name}`), ...tracks].map((each) => (
            <div key={each}>{each}</div>
          ))}
          {count > tracks.length && <div>and {plural(count - tracks.length, "track")} more</div>}
        </Box>
      )}
    </Box>
  );
}

export function Problems({ problems }: { problems: readonly string[] }) {
  const [open, setOpen] = useState(false);
  if (!problems.length) return null;
  const shown = open ? problems : problems.slice(0, 3);
  return (
    <Box role="note" sx={{ color: "warning.main", overflowWrap: "anywhere" }}>
      {shown.map((problem) => (
        <div key={problem}>{problem}</div>
      ))}
      {problems.length > shown.length && (
        <Box
          component="button"
          type="button"
          onClick={() => setOpen(true)}
          sx={{
            font: "inherit",
            border: 0,
            p: 0,
            bgcolor: "transparent",
            textDecoration: "underline",
            color: "inherit",
          }}
        >
          and {problems.length - shown.length} more
        </Box>
      )}
    </Box>
  );
}
