/** Changes that several rooms make. What they touch is told by the server; here is only what they ask and say. */
import { useMutation, useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useSay } from "../components/messages";
import { client, unwrap, type Schema } from "./client";
import { undoQuery } from "./queries";

/** A change on the server: what it says afterwards, or the words in which it is refused. */
export function useChange<In, Out>(
  change: (input: In) => Promise<Out>,
  said?: (out: Out, input: In) => string | null,
) {
  const say = useSay();
  return useMutation({
    mutationFn: change,
    onSuccess: (out, input) => {
      const text = said?.(out, input);
      if (text) say(text);
    },
    onError: (error) => say(error.message, "error"),
  });
}

const HISTORY = "history";
const LONGEST_WAIT_MS = 2000;

/** Once what was changed in this window is answered, and its step known: undo, pressed at once, is about that. */
async function knownByNow(queries: QueryClient): Promise<void> {
  const isBusy = () => queries.isMutating({ predicate: ({ options }) => options.scope?.id !== HISTORY }) > 0;
  const { queryKey } = undoQuery;
  if (!isBusy() && !queries.isFetching({ queryKey })) return;
  await new Promise<void>((done) => {
    const end = () => {
      stop();
      clearTimeout(timer);
      done();
    };
    const stop = queries.getMutationCache().subscribe(() => !isBusy() && end());
    const timer = setTimeout(end, LONGEST_WAIT_MS);
    if (!isBusy()) end();
  });
  await queries.refetchQueries({ queryKey, exact: true });
}

/** Takes back the step that this window shows, whatever has come on top of it meanwhile; or does it again. */
export function useStepBack(stack: "undo" | "redo") {
  const queries = useQueryClient();
  const say = useSay();
  return useMutation({
    // One after the other: what is pressed again means the step below.
    scope: { id: HISTORY },
    mutationFn: async () => {
      await knownByNow(queries);
      const meant = queries.getQueryData(undoQuery.queryKey)?.[stack];
      const body = meant ? { id: meant.id } : null;
      return unwrap(
        stack === "undo" ? client.POST("/api/undo", { body }) : client.POST("/api/redo", { body }),
      );
    },
    onSuccess: ({ name, left, undo, redo }) => {
      queries.setQueryData(undoQuery.queryKey, { undo, redo });
      const said = left.map((each) => each.charAt(0).toUpperCase() + each.slice(1));
      say([`${stack === "undo" ? "Undone" : "Done again"}: ${name}`, ...said].join(". "));
    },
    onError: (error) => {
      void queries.invalidateQueries({ queryKey: undoQuery.queryKey });
      say(error.message, "error");
    },
  });
}

export function useRate() {
  return useChange(
    (body: Schema["RatingIn"]) => unwrap(client.PUT("/api/tracks/rating", { body })),
    leftLocked,
  );
}

/** How many tracks a change has left as they were, if any; or that there are too many to wait for. */
function leftLocked({ locked, job }: { locked: number; job?: Schema["JobOut"] | null }): string | null {
  if (job) return `${job.subject}: this goes on in the background. Ctrl Z takes back what is done.`;
  return locked ? `${counted(locked, "track")} left as they were: their tags are locked.` : null;
}

export function useGiveTag() {
  return useChange((body: Schema["GiveIn"]) => unwrap(client.PUT("/api/tracks/tags", { body })), leftLocked);
}

export function useGiveNewTag() {
  return useChange(
    (body: Schema["GiveNewIn"]) => unwrap(client.POST("/api/tracks/tags/new", { body })),
    (out, { name }) => leftLocked(out) ?? `“${name}” made, and given to ${counted(out.changed, "track")}.`,
  );
}

export function useEditValues() {
  return useChange(
    (body: Schema["EditIn"]) => unwrap(client.PUT("/api/tracks/values", { body })),
    leftLocked,
  );
}

export function useNotePlayed() {
  return useChange(
    (chosen: Schema["Chosen"]) => unwrap(client.POST("/api/tracks/played", { body: chosen })),
    ({ tracks }) => `${counted(tracks, "track")} noted as played now.`,
  );
}

export function useTakeOffShelf() {
  return useChange(
    (body: Schema["TakeOffIn"]) => unwrap(client.POST("/api/off-shelf", { body })),
    ({ tracks }) => `${counted(tracks, "track")} taken off the Shelf.`,
  );
}

export function useLock() {
  return useChange(
    (body: Schema["LocksIn"]) => unwrap(client.PUT("/api/tracks/locks", { body })),
    ({ tracks, without_grid }, { part, locked }) => {
      const state = locked ? "locked" : "open";
      const left = without_grid ? ` ${counted(without_grid, "track")} left out: no beatgrid there yet.` : "";
      if (tracks === 1) return `The ${part} ${isMany(part) ? "are" : "is"} ${state} now.${left}`;
      return `The ${part} of ${counted(tracks, "track")} are ${state} now.${left}`;
    },
  );
}

export function useMakeRuleCrate() {
  return useChange(
    (body: Schema["RuleCrateIn"]) => unwrap(client.POST("/api/rules", { body })),
    ({ name }) => `“${name}” fills itself from now on.`,
  );
}

const LAST_CRATE = "vinyl.last crate";

/** The crate that tracks were put into last. */
export function lastCrate(): { id: number; name: string } | null {
  try {
    return JSON.parse(localStorage.getItem(LAST_CRATE) ?? "null") as { id: number; name: string } | null;
  } catch {
    return null;
  }
}

export function usePutIntoCrate() {
  type Wanted = { crate: { id: number; name: string }; chosen: Schema["Chosen"]; at?: number };
  return useChange(
    ({ crate, chosen, at }: Wanted) =>
      unwrap(
        client.POST("/api/crates/{crate_id}/tracks", {
          params: { path: { crate_id: crate.id } },
          body: { ...chosen, at: at ?? null },
        }),
      ),
    (out, { crate }) => {
      localStorage.setItem(LAST_CRATE, JSON.stringify({ id: crate.id, name: crate.name }));
      const had = out.already_in ? `; ${out.already_in} already in it` : "";
      return `${counted(out.added, "track")} put into “${crate.name}”${had}.${warned(out.warnings ?? [])}`;
    },
  );
}

const MOST_NAMED = 4;

/** What shall not be played, and was put into a list. */
export function warned(warnings: readonly Schema["WarningOut"][]): string {
  if (!warnings.length) return "";
  const named = warnings.slice(0, MOST_NAMED).map(({ title, why }) => `“${title}” (${why})`);
  const more = warnings.length > MOST_NAMED ? ` and ${warnings.length - MOST_NAMED} more` : "";
  return ` Look again: ${named.join(", ")}${more}. Ctrl Z takes them out.`;
}

export function useMakeCrate() {
  return useChange((body: Schema["CrateIn"]) => unwrap(client.POST("/api/crates", { body })));
}

export function counted(number: number, what: string, many = `${what}s`): string {
  return `${number.toLocaleString("en")} ${number === 1 ? what : many}`;
}

function isMany(part: Schema["LocksIn"]["part"]): boolean {
  return part === "cues" || part === "tags";
}
