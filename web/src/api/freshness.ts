/** What the server says has changed, and which queries that makes stale: the one place where both meet. */
import type { QueryClient, QueryKey } from "@tanstack/react-query";
import type { Job, Schema, ServerEvent, Track } from "./client";

type Topic = Schema["ChangedEvent"]["topics"][number];
type Changed = Schema["ChangedEvent"];

/** The first parts of the keys of all queries that show a topic. */
const QUERIES: Record<Topic, readonly QueryKey[]> = {
  tracks: [
    ["sets"],
    ["versions"],
    ["twins"],
    ["gigs"],
    ["value-rules", "preview"],
    ["tracks"],
    ["ids"],
    ["pictures"],
    ["plan"],
    ["cue-labels"],
    ["among"],
    ["template preview"],
    ["common"],
    ["fits"],
    ["sections"],
    ["tags"],
    ["rules"],
    ["exchange", "ledger"],
  ],
  // What a rule asks for is told in words, with the names of tags, backings and venues.
  tags: [
    ["sets"],
    ["twins"],
    ["tags"],
    ["sections"],
    ["limits"],
    ["tracks", "window"],
    ["rules"],
    ["crates"],
  ],
  backings: [["sections"], ["backings"], ["limits"], ["rules"], ["crates"]],
  added: [
    ["sets"],
    ["versions"],
    ["twins"],
    ["sections"],
    ["tracks", "window"],
    ["ids"],
    ["pictures"],
    ["offered"],
    ["disk-folders"],
    ["queue", "newest"],
    ["rules"],
  ],
  waveforms: [["waveform"], ["raster"], ["drift"]],
  lists: [
    ["twins"],
    ["exchange", "ledger"],
    ["exchange", "destinations"],
    ["crates"],
    ["sections"],
    ["rules"],
    ["limits"],
    ["ids"],
    ["tracks", "window"],
    ["tracks", "one"],
    ["sticks"],
    ["plan"],
    ["queue", "crate"],
  ],
  counts: [
    ["rules", "counts"],
    ["tracks", "rows"],
    ["tracks", "window"],
    ["tracks", "one"],
  ],
  gigs: [
    ["sets"],
    ["twins"],
    ["gigs"],
    ["limits"],
    ["rules"],
    ["tracks", "window"],
    ["tracks", "rows"],
    ["crates"],
  ],
  exchange: [["exchange"]],
  sets: [["sets"]],
  twins: [["twins"], ["versions"], ["imports"]],
  // A plan goes by what its stick says (planQuery); one of a stick that was taken out is not asked for.
  sticks: [["sticks"]],
  templates: [["templates"], ["template preview"]],
  colours: [["cue-colours"], ["track-colours"]],
  rules: [["finish-rules"], ["value-rules"], ["tracks"]],
  imports: [["imports"], ["offered"], ["watched"], ["disk-folders"]],
  undo: [["undo"]],
  all: [[]],
};

/** How long changes in the background are gathered before anything is asked anew; edits by hand are seen at once. */
const GATHER_MS = 1500;

/** What else is different once a job of a kind has ended. */
const ENDED: Partial<Record<Job["kind"], Topic>> = {
  pack: "sticks",
  import: "imports",
  demo: "imports",
  carry: "exchange",
  take: "exchange",
};

/** Keeps the queries of a window fresh: each change is applied once, from an answer or from the stream of events. */
export class Freshness {
  private revision = 0;
  private readonly applied = new Set<string>();
  private readonly pending = new Map<Topic, { ids: Set<number> | null; timer: number }>();
  /** Jobs that were told of while all of them were asked for: that answer may be older. */
  private readonly told = new Map<number, Job>();

  constructor(private readonly queries: QueryClient) {
    queries.getQueryCache().subscribe(({ type, query, ...rest }) => {
      const action = type === "updated" && "action" in rest ? rest.action : null;
      if (action?.type !== "success" || action.manual || query.queryKey[0] !== "jobs") return;
      const told = [...this.told.values()];
      this.told.clear();
      told.forEach((job) => this.putJob(job));
    });
  }

  hear(event: ServerEvent): void {
    if (event.type === "hello") this.begin(event.revision);
    else if (event.type === "changed") this.change(event);
    else if (event.type === "job") this.moveJob(event.job);
    else void this.queries.invalidateQueries();
  }

  /** A connection begins: what was missed meanwhile is made up for. */
  private begin(revision: number): void {
    if (revision !== this.revision) void this.queries.invalidateQueries();
    this.revision = revision;
  }

  private change(event: Changed): void {
    const name = `${event.revision} ${event.topics.join(" ")}`;
    if (this.applied.has(name)) return;
    this.applied.add(name);
    if (this.applied.size > 400) this.applied.clear();
    this.revision = Math.max(this.revision, event.revision);
    for (const topic of event.topics)
      if (event.background) this.gather(topic, event.track_ids);
      else this.refresh(topic, event.track_ids && new Set(event.track_ids));
  }

  private gather(topic: Topic, ids: readonly number[] | null): void {
    const before = this.pending.get(topic);
    const all = before?.ids === null || ids === null ? null : new Set([...(before?.ids ?? []), ...ids]);
    const timer = before?.timer ?? window.setTimeout(() => this.flush(topic), GATHER_MS);
    this.pending.set(topic, { ids: all, timer });
  }

  private flush(topic: Topic): void {
    const gathered = this.pending.get(topic);
    this.pending.delete(topic);
    if (gathered) this.refresh(topic, gathered.ids);
  }

  private refresh(topic: Topic, ids: ReadonlySet<number> | null): void {
    for (const queryKey of QUERIES[topic]) {
      void this.queries.invalidateQueries({
        queryKey,
        predicate: ({ queryKey: key, state }) => ids === null || concerns(key, state.data, ids),
      });
    }
  }

  /** Jobs are told whole, so nothing has to be asked. */
  private moveJob(job: Job): void {
    if (this.queries.isFetching({ queryKey: ["jobs"] })) this.told.set(job.id, job);
    this.putJob(job);
    if (job.failures) void this.queries.invalidateQueries({ queryKey: ["failures", job.id] });
    const topic = ENDED[job.kind];
    if (topic && (job.finished_at !== null || job.done === 0)) this.refresh(topic, null);
  }

  private putJob(job: Job): void {
    this.queries.setQueryData<Job[]>(["jobs"], (jobs) => {
      if (!jobs) return jobs;
      const there = jobs.some((each) => each.id === job.id);
      return there ? jobs.map((each) => (each.id === job.id ? job : each)) : [job, ...jobs];
    });
  }
}

/** Whether a query shows one of some tracks; windows may have them come in, so they always may. */
function concerns(key: QueryKey, data: unknown, ids: ReadonlySet<number>): boolean {
  const [root, kind, id] = key;
  if (root === "waveform") return ids.has(kind as number);
  if (root !== "tracks" || kind === "window") return true;
  if (kind === "rows") return ((data as Track[] | undefined) ?? []).some((track) => ids.has(track.id));
  return typeof id !== "number" || ids.has(id);
}
