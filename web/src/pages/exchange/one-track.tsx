/** One track first: written aside, read back by the other side's own reader, and both sides laid over each other. */
import { Alert, Box, Button, Typography } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { fieldName, plural } from "../../components/format";
import { client, unwrap, type Schema } from "../../api/client";
import { waveformQuery } from "../../api/queries";
import { drawTwoSides } from "../../drawing/two-sides";
import { prepare } from "../../drawing/canvas";
import { useRedraw } from "../workbench/use-redraw";
import { ValueRow } from "./ledger-rows";
import type { Order, Target } from "./use-exchange";

type Tried = Schema["TriedOut"];

interface Props {
  trackId: number;
  order: Order;
  target: Target;
  onOther: () => void;
  onClose: () => void;
}

export function OneTrack({ trackId, order, target, onOther, onClose }: Props) {
  const tried = useQuery({
    queryKey: ["exchange", "one", trackId, order],
    queryFn: () =>
      unwrap(
        client.POST("/api/exchange/tracks/{track_id}/try", {
          params: { path: { track_id: trackId } },
          body: order,
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });
  return (
    <Box
      role="region"
      aria-label="One track, both sides"
      sx={{ border: 2, borderColor: "text.primary", px: 1.6, py: 1, my: 1.5 }}
    >
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 1.2, mb: 0.6 }}>
        <b>One track, both sides</b>
        <Typography variant="h2" noWrap>
          {tried.data?.title}
        </Typography>
        <Box sx={{ color: "text.secondary", fontSize: "0.86rem", flex: 1 }}>
          {tried.data?.artist}, written aside and read back
        </Box>
        {tried.data && <Verdict tried={tried.data} />}
        <Button onClick={onOther}>Another track…</Button>
        <Button onClick={onClose}>Close</Button>
      </Box>
      {tried.error && <Alert severity="error">{tried.error.message}</Alert>}
      {tried.data && <BothSides tried={tried.data} target={target} />}
    </Box>
  );
}

function Verdict({ tried }: { tried: Tried }) {
  const differ = tried.findings.length;
  const worst =
    tried.worst_ms < 0.05
      ? "same to the sample"
      : `same within ${Math.max(tried.worst_ms, 0.1).toFixed(1)} ms`;
  return (
    <Box sx={{ fontWeight: 700, color: differ ? "error.main" : "info.main", whiteSpace: "nowrap" }}>
      {differ ? `${plural(differ, "value")} came back otherwise` : worst}
    </Box>
  );
}

function BothSides({ tried, target }: { tried: Tried; target: Target }) {
  const { inks } = useTheme();
  const canvas = useRef<HTMLCanvasElement>(null);
  const waveform = useQuery(waveformQuery(tried.track_id)).data ?? null;
  useRedraw(canvas, (element) => {
    const ready = prepare(element);
    if (!ready) return;
    const sides = {
      ...{ waveform, duration: tried.duration_s, ours: tried.ours, theirs: tried.theirs },
      ...{ ourBars: tried.our_bars, theirBars: tried.their_bars },
    };
    drawTwoSides(ready.context, ready.width, ready.height, sides, inks);
  });
  const left = tried.ours.filter((cue) => !cue.stays);
  return (
    <>
      <Box
        component="canvas"
        ref={canvas}
        role="img"
        aria-label={`${plural(tried.ours.length, "cue")} here, ${tried.theirs.length} there`}
        sx={{ width: "100%", height: 190, display: "block" }}
      />
      <Box
        sx={{
          display: "flex",
          gap: 3,
          flexWrap: "wrap",
          fontSize: "0.84rem",
          color: "text.secondary",
          mt: 0.5,
        }}
      >
        <span>above: here, {plural(tried.ours.length, "cue")}</span>
        <span>
          below: {target.label}, {plural(tried.theirs.length, "cue")}
          {left.length > 0 &&
            `; left here: ${left.map((cue) => cue.name || `at ${cue.position_s.toFixed(1)} s`).join(", ")}`}
        </span>
        {tried.counts_padding && tried.padding_ms > 0 && (
          <span>padding of {tried.padding_ms.toFixed(1)} ms added to every position</span>
        )}
        <span>
          {tried.values - tried.findings.length} of {tried.values} values read back as promised
        </span>
      </Box>
      <Values tried={tried} />
    </>
  );
}

function Values({ tried }: { tried: Tried }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(!open)} aria-expanded={open} sx={{ mt: 0.5 }}>
        {open ? "Hide its values" : "Each of its values"}
      </Button>
      {open && tried.rows.map((row, at) => <ValueRow key={at} row={row} />)}
      {tried.findings.map((each) => (
        <Box key={each.what} sx={{ color: "error.main", fontSize: "0.84rem" }}>
          {fieldName(each.what)}: promised {each.promised || "nothing"}, found {each.found || "nothing"}
        </Box>
      ))}
    </>
  );
}
