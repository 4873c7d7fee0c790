/** Says what could not be read, wherever it was asked for. */
import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { ApiError, NoAnswer } from "../api/client";
import { useSay } from "./messages";

/** What is asked only once shows its refusal in its own place, and that nothing answers is told by the top bar. */
export function useSayFailures(): void {
  const queries = useQueryClient();
  const say = useSay();
  useEffect(
    () =>
      queries.getQueryCache().subscribe((event) => {
        if (event.type !== "updated" || event.action.type !== "error") return;
        const error: unknown = event.action.error;
        const isSaid = event.query.options.retry === false || error instanceof NoAnswer;
        if (error instanceof ApiError && !isSaid) say(error.message, "error");
      }),
    [queries, say],
  );
}
