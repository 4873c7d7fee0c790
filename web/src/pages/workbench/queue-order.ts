/** Which list the Workbench goes through with next and previous; kept for this window. */
export interface Queue {
  name: string;
  ids: number[];
}

const KEY = "vinyl.queue";

export function rememberQueue(name: string, ids: readonly number[]): void {
  sessionStorage.setItem(KEY, JSON.stringify({ name, ids }));
}

export function forgetQueue(): void {
  sessionStorage.removeItem(KEY);
}

export function rememberedQueue(): Queue | null {
  try {
    return JSON.parse(sessionStorage.getItem(KEY) ?? "null") as Queue | null;
  } catch {
    return null;
  }
}
