/** The way back: another library looked at, its differences reviewed, and taken in. */
import { Alert, Box, Button, LinearProgress, TextField, Typography } from "@mui/material";
import { queryOptions, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import { isOpen } from "../../api/jobs";
import { jobsQuery } from "../../api/queries";
import { JobLine } from "../../components/job-line";
import { useRemembered } from "../../settings";
import { FIGURES } from "../../theme";
import { LibraryChooser } from "./library-chooser";
import { Review } from "./review";
import { destinationsQuery, type Target } from "./use-exchange";

type Looking = Schema["LibraryLookIn"];

const reviewQuery = (jobId: number) =>
  queryOptions({
    queryKey: ["exchange", "review", jobId],
    queryFn: () =>
      unwrap(client.GET("/api/exchange/looks/{job_id}", { params: { path: { job_id: jobId } } })),
    retry: false,
  });

interface Props {
  targets: readonly Target[];
  open: number | null;
  onOpen: (jobId: number | null) => void;
  onReport: (jobId: number) => void;
}

export function HereView({ targets, open, onOpen, onReport }: Props) {
  const jobs = useQuery(jobsQuery).data ?? [];
  const look = useChange((body: Looking) => unwrap(client.POST("/api/exchange/looks", { body })));
  const begin = (body: Looking) => look.mutate(body, { onSuccess: (job) => onOpen(job.id) });
  const job = jobs.find(({ id }) => id === open);
  const looking = job !== undefined && isOpen(job);
  const review = useQuery({ ...reviewQuery(open ?? 0), enabled: open !== null && !looking });
  const taking = jobs.find((each) => each.kind === "take" && each.payload["look_id"] === open);
  const own = review.data?.target === "stick" ? "a stick of another Vinyl" : "a document of Vinyl";
  const label = targets.find(({ name }) => name === review.data?.target)?.label ?? own;
  return (
    <Box sx={{ minWidth: 0, overflow: "auto", px: 3, py: 2 }}>
      {looking && <JobLine job={job} />}
      {job?.state === "failed" && <Alert severity="error">{job.error}</Alert>}
      {review.isFetching && !review.data && <LinearProgress color="info" />}
      {review.error && job?.state !== "failed" && !looking && (
        <Alert severity="info">{review.error.message}</Alert>
      )}
      {taking && (isOpen(taking) || taking.failures > 0 || taking.error) && <JobLine job={taking} />}
      {review.data && !looking ? (
        <Review
          key={review.data.job_id}
          review={review.data}
          label={label}
          taking={taking !== undefined && isOpen(taking)}
          result={taking && !isOpen(taking) ? (taking.result as Taken | null) : null}
          mappings={(job?.payload["mappings"] as Schema["PathPair"][] | undefined) ?? []}
          onReport={onReport}
          onLook={begin}
          onOther={() => onOpen(null)}
        />
      ) : (
        !looking && <Begin targets={targets} onLook={begin} />
      )}
    </Box>
  );
}

function WhatIsRead({ targets }: { targets: readonly Target[] }) {
  return (
    <Box sx={{ color: "text.secondary", fontSize: "0.86rem", mt: 2 }}>
      {readable(targets).map((each) => (
        <div key={each.name}>
          <b>{each.label}</b> {each.says}
        </div>
      ))}
      <div>
        <b>Vinyl</b> a document of its own, .vinyl.json
      </div>
      Playlists and tables come in through Arrivals.
    </Box>
  );
}

/** What is a library; playlists are read in Arrivals. */
const readable = (targets: readonly Target[]) => targets.filter((each) => each.file_name || each.in_files);

/** Libraries that lie beside the music. */
function Offered({ onChoose }: { onChoose: (path: string) => void }) {
  const offered = useQuery({
    queryKey: ["exchange-offered"],
    queryFn: () => unwrap(client.GET("/api/exchange/offered")),
  }).data;
  if (!offered?.length) return null;
  return (
    <Box sx={{ mt: 1.5, display: "flex", gap: 1, alignItems: "center", flexWrap: "wrap" }}>
      Beside your music:
      {offered.map((library) => (
        <Button key={library.path} title={library.path} onClick={() => onChoose(library.path)}>
          {library.name.split(".")[0]}, {library.label}
        </Button>
      ))}
    </Box>
  );
}

/** Where one's own library is carried to: what was changed there comes back from the same place. */
function CarriedTo({ targets, onLook }: { targets: readonly Target[]; onLook: (body: Looking) => void }) {
  const names = new Set(readable(targets).map((each) => each.name));
  const carried = useQuery(destinationsQuery).data?.filter((each) => names.has(each.target)) ?? [];
  if (!carried.length) return null;
  return (
    <Box sx={{ mt: 1.5, display: "flex", gap: 1, alignItems: "center", flexWrap: "wrap" }}>
      Where you carry to:
      {carried.map(({ id, name, target, order }) => (
        <Button
          key={id}
          title={order.place}
          onClick={() =>
            onLook({
              target: target as Looking["target"],
              place: order.place,
              by_names: true,
              mappings: order.mappings ?? [],
            })
          }
        >
          {name}
        </Button>
      ))}
    </Box>
  );
}

/** Looks at a library whose kind its name tells; an empty library becomes what a document of Vinyl says. */
function useTell(targets: readonly Target[], onLook: (body: Looking) => void) {
  return useChange(
    async (path: string) => {
      const query = { path };
      const kind = await unwrap(client.GET("/api/exchange/kind", { params: { query } }));
      if (kind === null)
        throw new Error(
          `No library that Vinyl can read is told by this name: ${readable(targets)
            .map((each) => each.label)
            .join(", ")}.`,
        );
      if (kind === "vinyl" && !(await anyTracks())) {
        await unwrap(client.POST("/api/exchange/restores", { body: { place: path, mappings: [] } }));
        return "The library is empty: it becomes what the document says. See Work for how far it is.";
      }
      onLook({ target: kind as Looking["target"], place: path, by_names: true, mappings: [] });
      return null;
    },
    (said) => said,
  );
}

async function anyTracks(): Promise<boolean> {
  const body = { where: { kind: "all" as const, parts: [] }, sort: "title" as const, descending: false };
  return (await unwrap(client.POST("/api/tracks/find", { body }))).total > 0;
}

export interface Taken {
  tracks: number;
  lists: number;
  nights: number;
}

function Begin({ targets, onLook }: { targets: readonly Target[]; onLook: (body: Looking) => void }) {
  const [place, setPlace] = useRemembered("exchange place", "");
  const [choosing, setChoosing] = useState(false);
  const tell = useTell(targets, onLook);
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    tell.mutate(place.trim());
  };
  return (
    <Box sx={{ maxWidth: 720 }}>
      <Typography variant="h1">From another library</Typography>
      <p>
        A library is looked at first: which of its tracks are here, and what it says otherwise. Nothing is
        changed, there or here, until you take it in. What you have set by hand stays, and locks hold.
      </p>
      <Box component="form" onSubmit={submit} sx={{ display: "flex", gap: 1 }}>
        <TextField
          size="small"
          fullWidth
          label="Its file or folder"
          value={place}
          onChange={(event) => setPlace(event.target.value)}
          slotProps={{ htmlInput: { style: { fontFamily: FIGURES } } }}
        />
        <Button onClick={() => setChoosing(true)} sx={{ flex: "none" }}>
          Choose…
        </Button>
        <Button
          type="submit"
          variant="contained"
          color="error"
          sx={{ flex: "none" }}
          disabled={!place.trim() || tell.isPending}
        >
          Look at it
        </Button>
      </Box>
      <CarriedTo targets={targets} onLook={onLook} />
      <Offered
        onChoose={(path) => {
          setPlace(path);
          tell.mutate(path);
        }}
      />
      <WhatIsRead targets={targets} />
      {choosing && (
        <LibraryChooser
          onChoose={(path) => {
            setPlace(path);
            tell.mutate(path);
          }}
          onClose={() => setChoosing(false)}
        />
      )}
    </Box>
  );
}
