/** Which tracks of another library are here, which lie on the disk, and which beginnings of paths would find more. */
import { Alert, Box, Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { plural } from "../../components/format";
import { useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import { FIGURES } from "../../theme";
import { again, type ReviewOf } from "./review";

interface Props {
  review: ReviewOf;
  mappings: Schema["PathPair"][];
  onLook: (body: Schema["LibraryLookIn"]) => void;
}

type State = "wanted" | "on disk" | "by name";

export function StateLines({ review, mappings, onLook }: Props) {
  const [open, setOpen] = useState<State | null>(null);
  const { states } = review;
  const all = Object.values(states).reduce((sum, count) => sum + count, 0);
  const bring = useChange(
    () =>
      unwrap(
        client.POST("/api/exchange/looks/{job_id}/import", { params: { path: { job_id: review.job_id } } }),
      ),
    () => "They are being imported: look again once they are in.",
  );
  const toggle = (state: State) => () => setOpen(open === state ? null : state);
  return (
    <Box sx={{ fontSize: "0.9rem", my: 1 }} role="region" aria-label="Tracks found">
      <b>{plural(all, "track")}</b>: {states["here"] ?? 0} are here under their paths
      <Count count={states["by name"]} words="by artist and title" onOpen={toggle("by name")} />
      <Count
        count={states["on disk"]}
        words="lie on the disk and are not on the Shelf"
        onOpen={toggle("on disk")}
      />
      <Count count={states["wanted"]} words="are not found" onOpen={toggle("wanted")} />.{" "}
      {(states["on disk"] ?? 0) > 0 && (
        <Button onClick={() => bring.mutate()} disabled={bring.isPending}>
          Import those
        </Button>
      )}
      {open && <CameRows jobId={review.job_id} state={open} />}
      {review.mappings.length > 0 && (
        <Alert severity="warning" variant="outlined" sx={{ my: 1 }}>
          Their music lies elsewhere. These beginnings of paths would find more:
          {review.mappings.map((each) => (
            <Box key={each.there + each.here} sx={{ display: "flex", alignItems: "center", gap: 1 }}>
              <Box sx={{ fontFamily: FIGURES, fontSize: "0.82rem", overflowWrap: "anywhere" }}>
                {each.there} → {each.here}
              </Box>
              <span>{plural(each.finds, "track")}</span>
              <Button
                onClick={() => onLook(again(review, [...mappings, { here: each.here, there: each.there }]))}
              >
                Look with it
              </Button>
            </Box>
          ))}
        </Alert>
      )}
    </Box>
  );
}

function Count({ count, words, onOpen }: { count: number | undefined; words: string; onOpen: () => void }) {
  if (!count) return null;
  return (
    <>
      ,{" "}
      <Box
        component="button"
        type="button"
        onClick={onOpen}
        sx={{
          font: "inherit",
          border: 0,
          p: 0,
          bgcolor: "transparent",
          color: "inherit",
          textDecoration: "underline",
        }}
      >
        {count.toLocaleString("en")} {words}
      </Box>
    </>
  );
}

function CameRows({ jobId, state }: { jobId: number; state: State }) {
  const rows = useQuery({
    queryKey: ["exchange-came", jobId, state],
    queryFn: () =>
      unwrap(
        client.GET("/api/exchange/looks/{job_id}/came", {
          params: { path: { job_id: jobId }, query: { state } },
        }),
      ),
  }).data;
  return (
    <Box
      sx={{ maxHeight: 220, overflow: "auto", border: 1, borderColor: "divider", px: 1, fontSize: "0.83rem" }}
    >
      {rows?.map((row) => (
        <Box key={row.path} sx={{ overflowWrap: "anywhere" }}>
          <b>{row.title}</b>{" "}
          <Box component="span" sx={{ color: "text.secondary" }}>
            {row.file ?? row.path} {row.reason}
          </Box>
        </Box>
      ))}
    </Box>
  );
}
