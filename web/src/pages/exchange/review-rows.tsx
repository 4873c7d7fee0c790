/** Each difference with what is here, what is there, what will be, and the answer for it. */
import { Box, Button, TextField } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schema } from "../../api/client";
import { fieldName } from "../../components/format";
import { useRested } from "../../components/use-rested";
import { Answers } from "../../components/answers";
import { WAYS, type ReviewOf, type Way } from "./review";
import { KINDS } from "./words";

type Row = Schema["ReviewRow"];
const PAGE = 60;
const COLUMNS = "minmax(9rem, 1.2fr) 6rem minmax(7rem, 1fr) minmax(7rem, 1fr) minmax(8rem, 1.1fr) 9rem";

interface Props {
  review: ReviewOf;
  onChoose: (choice: Way, ids: number[]) => void;
}

export function ReviewRows({ review, onChoose }: Props) {
  const [kind, setKind] = useState("");
  const [text, setText] = useState("");
  const [limit, setLimit] = useState(PAGE);
  const words = useRested(text, 150);
  const page = useQuery({
    queryKey: ["exchange-differences", review.job_id, kind, words, limit],
    queryFn: () =>
      unwrap(
        client.GET("/api/exchange/looks/{job_id}/rows", {
          params: { path: { job_id: review.job_id }, query: { kind: kind || null, words, limit } },
        }),
      ),
    placeholderData: keepPreviousData,
  }).data;
  const kinds = [...new Set(review.kinds.map((each) => each.kind))];
  if (!kinds.length) return null;
  return (
    <Box role="region" aria-label="Each difference" sx={{ fontSize: "0.86rem" }}>
      <Box sx={{ display: "flex", gap: 1, alignItems: "center", mb: 0.5 }}>
        <TextField
          size="small"
          placeholder="Find a track"
          value={text}
          onChange={(event) => setText(event.target.value)}
          slotProps={{ htmlInput: { "aria-label": "Find a track in the differences" } }}
        />
        <Answers
          label="Which differences are shown"
          value={kind}
          answers={[
            { value: "", words: "all kinds" },
            ...kinds.map((each) => ({ value: each, words: KINDS[each] ?? each })),
          ]}
          onPick={setKind}
        />
      </Box>
      <Heads />
      {page?.rows.map((row) => (
        <DifferenceRow
          key={row.id}
          row={row}
          taken={review.taken}
          onChoose={(way) => onChoose(way, [row.id])}
        />
      ))}
      {page && page.count > page.rows.length && (
        <Button onClick={() => setLimit(Math.min(500, limit + 140))} disabled={limit >= 500}>
          {limit >= 500
            ? `${page.count - page.rows.length} more: find them by words`
            : `Show more of ${page.count}`}
        </Button>
      )}
    </Box>
  );
}

function Heads() {
  return (
    <Box
      sx={{
        display: "grid",
        gridTemplateColumns: COLUMNS,
        gap: 1,
        color: "text.secondary",
        fontSize: "0.78rem",
      }}
    >
      <span>Track</span>
      <span>What</span>
      <span>here</span>
      <span>there</span>
      <span>will be</span>
      <span>answer</span>
    </Box>
  );
}

interface RowProps {
  row: Row;
  /** It is too late for another answer. */
  taken: boolean;
  onChoose: (way: Way) => void;
}

function DifferenceRow({ row, taken, onChoose }: RowProps) {
  const will = { rule: row.rule, add: row.rule, theirs: row.there, ours: row.here }[row.choice];
  return (
    <Box
      data-difference={row.id}
      sx={{
        ...{ display: "grid", gridTemplateColumns: COLUMNS, gap: 1, py: 0.3, alignItems: "baseline" },
        ...{ borderTop: 1, borderColor: "divider", overflowWrap: "anywhere" },
      }}
    >
      <b>{row.track}</b>
      <span>{fieldName(row.what)}</span>
      <Box sx={{ color: "text.secondary" }}>{row.here || "–"}</Box>
      <span>{row.there}</span>
      <Box>
        <b>{will || "–"}</b>
        {row.note && <Box sx={{ color: "warning.main", fontSize: "0.8rem" }}>{row.note}</Box>}
      </Box>
      <Answers
        label={`What becomes of ${fieldName(row.what)} of ${row.track}`}
        value={row.choice}
        disabled={taken}
        answers={row.ways.map((way) => ({ value: way, words: WAYS[way] }))}
        onPick={(way) => onChoose(way as Way)}
      />
    </Box>
  );
}
