/** How a chain is drawn: each step a row, what was gone on to first straight below it, other ways branching off between. */
import type { ChainStep } from "./use-sets";

export interface ChainRow {
  step: ChainStep;
  column: number;
  /** The row of the step that goes straight on from it. */
  on: number | null;
  /** It branches off from the column before. */
  branches: boolean;
}

export function chainRows(steps: readonly ChainStep[]): ChainRow[] {
  const after = nextOf(steps);
  const rows: ChainRow[] = [];
  const follow = (first: ChainStep, column: number) => {
    let step: ChainStep | undefined = first;
    let branches = column > 0;
    while (step) {
      const row: ChainRow = { step, column, on: null, branches };
      rows.push(row);
      const [on, ...others]: ChainStep[] = after.get(step.id) ?? [];
      others.forEach((other) => follow(other, column + 1));
      row.on = on ? rows.length : null;
      [step, branches] = [on, false];
    }
  };
  after.get(null)?.forEach((first) => follow(first, 0));
  return rows;
}

/** Steps by that from which one went on to them. */
function nextOf(steps: readonly ChainStep[]): Map<number | null, ChainStep[]> {
  const after = new Map<number | null, ChainStep[]>();
  for (const step of steps) after.set(step.from_id, [...(after.get(step.from_id) ?? []), step]);
  return after;
}

/** The way from where a chain begins to a step. */
export function wayTo(steps: readonly ChainStep[], id: number | undefined): ChainStep[] {
  const by = new Map(steps.map((step) => [step.id, step]));
  const way: ChainStep[] = [];
  for (let step = by.get(id ?? 0); step; step = by.get(step.from_id ?? 0)) way.unshift(step);
  return way;
}
