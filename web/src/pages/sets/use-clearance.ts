/** What is asked and said about publishing the recording of a set. */
import { queryOptions } from "@tanstack/react-query";
import { counted, useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";

export type Clearance = Schema["ClearanceOut"];
export type ClearanceLine = Schema["ClearanceLine"];
export type State = ClearanceLine["state"];
type Taken = Schema["ClearanceTaken"];

/** States as they are said, the most usual first. */
export const STATES: Record<State, string> = {
  unknown: "not known",
  free: "free",
  "shared income": "income is shared",
  muted: "will be muted",
  blocked: "blocked",
};

const VERDICTS: Record<Clearance["may"], string> = {
  yes: "Its recording may be published",
  "not everywhere": "Its recording may be published, but not everywhere or not whole",
  "not known": "Whether its recording may be published is not known yet",
  no: "Its recording may not be published",
};

export function verdictOf({ may, words }: Clearance): string {
  return words.length ? `${VERDICTS[may]}: ${words.join(" · ")}.` : `${VERDICTS[may]}.`;
}

export const clearanceQuery = (set_id: number) =>
  queryOptions({
    queryKey: ["sets", "clearance", set_id],
    queryFn: () => unwrap(client.GET("/api/sets/{set_id}/clearance", { params: { path: { set_id } } })),
    retry: false,
  });

/** What came of asking, in words. */
export function takenWords({ changed, not_known, by_hand, notes }: Taken): string {
  const parts = [
    changed ? `${counted(changed, "track")} told of` : "Nothing new",
    not_known && `nothing said of ${not_known}`,
    by_hand && `${by_hand} said by hand stay as they are`,
    notes.length > 0 && `not understood: ${notes.slice(0, MOST_NOTES).join("; ")}`,
    notes.length > MOST_NOTES && `and ${notes.length - MOST_NOTES} more rows`,
  ];
  return `${parts.filter(Boolean).join(" · ")}.`;
}

const MOST_NOTES = 3;

export function useClearanceChanges(set_id: number) {
  const params = { path: { set_id } };
  const ask = useChange(
    () => unwrap(client.POST("/api/sets/{set_id}/clearance/ask", { params })),
    takenWords,
  );
  const table = useChange(
    (text: string) => unwrap(client.POST("/api/sets/{set_id}/clearance/table", { params, body: { text } })),
    takenWords,
  );
  const say = useChange((body: Schema["ClearanceIn"]) =>
    unwrap(client.PUT("/api/sets/{set_id}/clearance", { params, body })),
  );
  return { ask, table, say };
}
