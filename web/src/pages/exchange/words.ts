/** How the kinds of the ledger are called, and how its figures are said. */
import type { Ledger, Order, Target } from "./use-exchange";

/** Kinds in the order of the ledger, with their names on the screen. */
export const KINDS: Record<string, string> = {
  files: "Files",
  paths: "Paths",
  texts: "Texts",
  "grid, steady": "Grid, steady",
  "grid, stepped": "Grid, stepped",
  "grid, elastic": "Grid, elastic",
  grid: "Grids",
  cues: "Cues",
  loops: "Loops",
  colours: "Colours",
  key: "Key",
  stars: "Stars",
  energy: "Energy",
  comment: "Comment",
  plays: "Times played",
  tags: "Tags",
  marks: "Marks",
  routes: "Routes",
  locks: "Locks",
  lists: "Lists",
  "rule lists": "Rule lists",
};

export interface Line {
  kind: string;
  name: string;
  counts: Record<"as it is" | "changed" | "left here", number>;
}

/** The ledger by kinds that have anything, in their order. */
export function linesOf(ledger: Ledger): Line[] {
  return Object.entries(KINDS).flatMap(([kind, name]) => {
    const counts = { "as it is": 0, changed: 0, "left here": 0 };
    for (const each of ledger.counts) if (each.kind === kind) counts[each.fate] += each.count;
    return counts["as it is"] + counts.changed + counts["left here"] ? [{ kind, name, counts }] : [];
  });
}

/** What is said of a kind where nothing is to be chosen. */
export function saidOf(line: Line, ledger: Ledger, target: Target): string {
  const off = ledger.off_ms[`${line.kind} changed`];
  const left = ledger.off_ms[`${line.kind} left here`];
  if (line.kind === "grid, elastic" && line.counts.changed)
    return [`up to ${ms(off)} off`, line.counts["left here"] ? `those left here up to ${ms(left)}` : ""]
      .filter(Boolean)
      .join("; ");
  if (line.kind === "files" && line.counts.changed) return "away: the drive is not plugged in";
  if (line.kind === "tags" && line.counts["as it is"]) return "it has tags of its own";
  if (line.kind === "locks") return "it has no locks";
  if (line.kind === "loops" && line.counts.changed) return "put in order of time";
  if (line.kind === "texts" && line.counts["left here"]) return "it has no field for some";
  if (line.kind === "paths" && target.name !== "reedbank") return "from where the library lies";
  return "";
}

const ms = (value: number | undefined) => `${(value ?? 0).toFixed(1)} ms`;

/** The order without what is empty by default, as a new destination begins with. */
export function newOrder(target: Target, place: string): Order {
  return {
    target: target.name,
    place,
    system: "this one",
    mappings: [],
    options: {},
    lists: null,
    tracks: [],
    changed_only: false,
    mirror: false,
    policies: {},
    onto_ms: null,
    destination_id: null,
    source: null,
  };
}
