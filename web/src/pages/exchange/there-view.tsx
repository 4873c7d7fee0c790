/** The way there: what goes to a destination, what becomes of it, one track first, then all. */
import { Alert, Box, Button, LinearProgress, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { plural } from "../../components/format";
import { client, unwrap } from "../../api/client";
import { isOpen } from "../../api/jobs";
import { jobsQuery } from "../../api/queries";
import { Confirm } from "../../components/confirm";
import { JobLine } from "../../components/job-line";
import { KeyHint } from "../../components/key-hint";
import { shown } from "../../components/key-map";
import { SetInPoints } from "../../components/set-in-points";
import { KEYS } from "../../components/keys";
import { useKeys } from "../../components/use-keys";
import { LedgerTable } from "./ledger-table";
import { OneTrack } from "./one-track";
import { PlaceLines } from "./place-lines";
import { Theirs } from "./theirs";
import { TrackChooser } from "./track-chooser";
import {
  ledgerQuery,
  useDestinationActions,
  type Destination,
  type Ledger,
  type Order,
  type Target,
} from "./use-exchange";

interface Props {
  destination: Destination;
  target: Target;
  order: Order;
  onChange: (change: Partial<Order>) => void;
  onReport: (jobId: number) => void;
}

export function ThereView({ destination, target, order, onChange, onReport }: Props) {
  const empty = order.lists?.length === 0;
  const ledger = useQuery({ ...ledgerQuery(order), enabled: !empty });
  const [tried, setTried] = useState<number | null>(null);
  const [choosing, setChoosing] = useState(false);
  const running = useQuery(jobsQuery).data?.find((job) => job.kind === "carry" && isOpen(job));
  useKeys(KEYS.exchange.one, () => setChoosing(true));
  return (
    <Box sx={{ minWidth: 0, overflow: "auto", px: 3, py: 2 }}>
      <Head
        destination={destination}
        target={target}
        order={order}
        ledger={empty ? undefined : ledger.data}
        busy={running !== undefined || ledger.isFetching}
        onTry={() => setChoosing(true)}
        onReport={onReport}
      />
      {running && <JobLine job={running} />}
      <PlaceLines order={order} target={target} ledger={ledger.data} onChange={onChange} />
      {ledger.error && <Alert severity="error">{ledger.error.message}</Alert>}
      {empty && <Alert severity="info">Tick a list, or let everything go.</Alert>}
      {ledger.isFetching && <LinearProgress color="info" aria-label="Counting" />}
      {ledger.data && !empty && !ledger.error && (
        <>
          <WithoutInPoint ledger={ledger.data} />
          <Theirs ledger={ledger.data} order={order} onChange={onChange} />
          {tried !== null && (
            <OneTrack
              trackId={tried}
              order={order}
              target={target}
              onOther={() => setChoosing(true)}
              onClose={() => setTried(null)}
            />
          )}
          <LedgerTable
            ledger={ledger.data}
            target={target}
            order={order}
            onOption={(name, value) => onChange({ options: { ...order.options, [name]: value } })}
          />
        </>
      )}
      {choosing && <TrackChooser order={order} onChoose={setTried} onClose={() => setChoosing(false)} />}
    </Box>
  );
}

/** How many tracks would begin at their first sound, and the way to give them an in point. */
function WithoutInPoint({ ledger }: { ledger: Ledger }) {
  const count = ledger.without_in_point;
  if (!count) return null;
  const at = { params: { path: { job_id: ledger.job_id } } };
  return (
    <Box sx={{ fontSize: "0.9rem", mb: 1 }}>
      <Box component="span" sx={{ color: "warning.main", fontWeight: 600 }}>
        {plural(count, "track")} without an in point
      </Box>{" "}
      <SetInPoints find={() => unwrap(client.GET("/api/exchange/ledgers/{job_id}/without-in-point", at))} />
    </Box>
  );
}

interface HeadProps {
  destination: Destination;
  target: Target;
  order: Order;
  ledger: Ledger | undefined;
  busy: boolean;
  onTry: () => void;
  onReport: (jobId: number) => void;
}

function Head({ destination, target, order, ledger, busy, onTry, onReport }: HeadProps) {
  const { carry } = useDestinationActions();
  const [asking, setAsking] = useState(false);
  const write = () => carry.mutate(order, { onSuccess: (job) => onReport(job.id) });
  const count = ledger
    ? order.changed_only
      ? (ledger.states["new"] ?? 0) + (ledger.states["changed"] ?? 0)
      : ledger.tracks
    : null;
  const begin = () => (target.in_files || (ledger && vanishes(ledger)) ? setAsking(true) : write());
  useKeys(KEYS.exchange.write, () => ledger && !busy && begin());
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "baseline", gap: 1.2, mb: 0.8 }}>
      <Typography variant="h1">
        {count === null ? "Tracks" : plural(count, "track")} to {destination.name}
      </Typography>
      <Box sx={{ color: "text.secondary", flex: "1 0 auto", fontSize: "0.86rem" }}>
        nothing is written yet
      </Box>
      <Box sx={{ display: "flex", gap: 1.2, ml: "auto" }}>
        <Button onClick={onTry} disabled={!ledger}>
          Try one track first <KeyHint>{shown(KEYS.exchange.one)}</KeyHint>
        </Button>
        <Button
          variant="contained"
          color="error"
          disabled={!ledger || busy || carry.isPending}
          onClick={begin}
        >
          Write and check <KeyHint>{shown(KEYS.exchange.write)}</KeyHint>
        </Button>
      </Box>
      {ledger && (
        <Confirm
          open={asking}
          title={`Write ${plural(ledger.tracks, "track")} to ${destination.name}?`}
          action="Write and check"
          onConfirm={write}
          onClose={() => setAsking(false)}
        >
          {target.in_files && (
            <p>
              {target.label} keeps what it knows in the audio files: the tags of up to{" "}
              {plural(ledger.tracks, "file")} are changed. Their sound stays to the byte; what stood around it
              is kept in Vinyl’s home.
            </p>
          )}
          {vanishes(ledger) && (
            <p>
              {plural(ledger.vanish.lists.length, "list")} and {plural(ledger.vanish.count, "track")} that are
              there now would vanish. The library as it is now is kept beside it.
            </p>
          )}
        </Confirm>
      )}
    </Box>
  );
}

const vanishes = (ledger: Ledger) => ledger.vanish.lists.length + ledger.vanish.count > 0;
