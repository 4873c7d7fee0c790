/** Crates as they stand in folders. */
import type { Crate } from "../../api/client";

export interface Node {
  crate: Crate;
  depth: number;
}

/** All crates and folders in the order of the tree; what lies in folded folders is left out. */
export function inTree(crates: readonly Crate[], folded: readonly number[] = []): Node[] {
  const within = new Map<number | null, Crate[]>();
  for (const crate of crates) within.set(crate.folder_id, [...(within.get(crate.folder_id) ?? []), crate]);
  const below = (folder: number | null, depth: number): Node[] =>
    (within.get(folder) ?? []).flatMap((crate) => [
      { crate, depth },
      ...(crate.is_folder && !folded.includes(crate.id) ? below(crate.id, depth + 1) : []),
    ]);
  return below(null, 0);
}

/** The tree; or, while one is looked for, those whose names have its words. */
export function shownOf(crates: readonly Crate[], folded: readonly number[], text: string): Node[] {
  const words = text.trim().toLowerCase();
  if (!words) return inTree(crates, folded);
  return crates
    .filter(({ name }) => name.toLowerCase().includes(words))
    .map((crate) => ({ crate, depth: 0 }));
}

/** What is in a folder, however deep. */
export function allWithin(crates: readonly Crate[], folder: number): Crate[] {
  return crates
    .filter((crate) => crate.folder_id === folder)
    .flatMap((crate) => [crate, ...(crate.is_folder ? allWithin(crates, crate.id) : [])]);
}
