/** Says what could not be read, wherever it was asked for. */
import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { ApiError, NoAnswer } from "../api/client";
import { useSay } from "./messages";

const GONE = 404;

/**
 * What is asked only once shows its refusal in its own place, that nothing answers is told by the top bar, and what is
 * gone goes from the page by itself.
 */
export function useSayFailures(): void {
  const queries = useQueryClient();
  const say = useSay();
  useEffect(
    () =>
      queries.getQueryCache().subscribe((event) => {
        if (event.type !== "updated" || event.action.type !== "error") return;
        const error: unknown = event.action.error;
        if (!(error instanceof ApiError) || error instanceof NoAnswer || error.status === GONE) return;
        if (event.query.options.retry !== false) say(error.message, "error");
      }),
    [queries, say],
  );
}
