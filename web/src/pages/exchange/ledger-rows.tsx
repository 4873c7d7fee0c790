/** The values of one kind that do not stay as they are, track by track. */
import { Box, Button, TextField } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schema } from "../../api/client";
import { fieldName } from "../../components/format";
import type { Fate } from "./use-exchange";

type Row = Schema["SaidOut"];
const PAGE = 50;

export function LedgerRows({ jobId, kind }: { jobId: number; kind: string }) {
  const [words, setWords] = useState("");
  const [shown, setShown] = useState(PAGE);
  const page = useQuery({
    queryKey: ["exchange-rows", jobId, kind, words, shown],
    queryFn: () =>
      unwrap(
        client.GET("/api/exchange/ledgers/{job_id}/rows", {
          params: { path: { job_id: jobId }, query: { kind, words, limit: Math.min(shown, 500) } },
        }),
      ),
    placeholderData: keepPreviousData,
  }).data;
  return (
    <Box sx={{ pl: "0.9rem", pb: 1.2, maxWidth: 1000 }}>
      {(page?.count ?? 0) > 8 || words ? (
        <TextField
          size="small"
          placeholder="Find a track"
          value={words}
          onChange={(event) => setWords(event.target.value)}
          slotProps={{ htmlInput: { "aria-label": "Find a track in these rows" } }}
          sx={{ my: 0.6, width: "16rem" }}
        />
      ) : null}
      {page?.rows.map((row, at) => (
        <ValueRow key={at} row={row} />
      ))}
      {page && page.count > page.rows.length && (
        <Button onClick={() => setShown(Math.min(shown + 150, 500))} disabled={shown >= 500}>
          {shown >= 500
            ? `${(page.count - page.rows.length).toLocaleString("en")} more: find by words`
            : `Show more of ${page.count.toLocaleString("en")}`}
        </Button>
      )}
      {page && !page.count && (
        <Box sx={{ color: "text.secondary", fontSize: "0.84rem" }}>No value has these words: type fewer.</Box>
      )}
    </Box>
  );
}

const SIGNS: Record<Fate, string> = { "as it is": "=", changed: "→", "left here": "×" };

export function ValueRow({ row }: { row: Row }) {
  return (
    <Box
      sx={{
        ...{
          display: "grid",
          gridTemplateColumns: "minmax(9rem, 1.3fr) 1rem minmax(8rem, 1fr) minmax(8rem, 1.4fr)",
        },
        ...{ gap: 1, fontSize: "0.83rem", py: 0.2, alignItems: "baseline", overflowWrap: "anywhere" },
      }}
    >
      <Box>
        {row.track && <b>{row.track} </b>}
        <Box component="span" sx={{ color: "text.secondary" }}>
          {fieldName(row.what)}
          {row.here && `: ${row.here}`}
        </Box>
      </Box>
      <Box aria-label={row.fate} sx={{ color: row.fate === "left here" ? "error.main" : "text.secondary" }}>
        {SIGNS[row.fate]}
      </Box>
      <Box sx={{ fontWeight: 600 }}>{row.there || (row.fate === "left here" ? "left here" : row.here)}</Box>
      <Box sx={{ color: "text.secondary" }}>{row.why}</Box>
    </Box>
  );
}
