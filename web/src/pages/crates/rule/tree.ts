/** A rule as a tree of sentences: where a part stands, and the tree with one more, one less, or another. */
import type { Condition } from "../../../api/client";

/** Conditions that are made of others. */
export type Joined = Extract<Condition, { kind: "all" | "any" | "none" }>;
export type Path = readonly number[];

export const isJoined = (condition: Condition): condition is Joined =>
  condition.kind === "all" || condition.kind === "any" || condition.kind === "none";

/** The whole of a rule always asks for all of its parts. */
export const wholeOf = (where: Condition): Joined =>
  where.kind === "all" ? where : { kind: "all", parts: [where] };

export function partAt(where: Condition, path: Path): Condition | undefined {
  const [first, ...rest] = path;
  if (first === undefined) return where;
  const part = isJoined(where) ? where.parts[first] : undefined;
  return part && partAt(part, rest);
}

/** The tree with the part at a place made into another one, or left out. */
export function changedAt(where: Joined, path: Path, change: (part: Condition) => Condition | null): Joined {
  const [first, ...rest] = path;
  if (first === undefined) return (change(where) as Joined | null) ?? { ...where, parts: [] };
  const parts = where.parts.flatMap((part, place) => {
    if (place !== first) return [part];
    const next = rest.length && isJoined(part) ? changedAt(part, rest, change) : change(part);
    return next ? [next] : [];
  });
  return { ...where, parts };
}

/** The tree with one part more at the end of those of a place, or several that are said together. */
export const addedTo = (where: Joined, path: Path, part: Condition): Joined =>
  changedAt(where, path, (into) =>
    isJoined(into) ? { ...into, parts: [...into.parts, ...partsFor(into, part)] } : into,
  );

const partsFor = (into: Joined, part: Condition): readonly Condition[] =>
  part.kind === "all" && into.kind === "all" && part.parts.length ? part.parts : [part];
