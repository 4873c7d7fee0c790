/** The query string of the address, and changes of it. */
import { useSearchParams } from "react-router";

/** What is null, empty or an empty list is left out. */
export type QueryChanges = Record<string, string | number | null | undefined>;
type Change = (changes: QueryChanges, how?: { replace?: boolean }) => void;

/**
 * Two changes may come before the page is drawn again, so that each begins with the address as it is: what was
 * last drawn would bring back what the first of them took away.
 */
export function useQueryString(): [URLSearchParams, Change] {
  const [params, setParams] = useSearchParams();
  const change: Change = (changes, how) => {
    const next = new URLSearchParams(window.location.search);
    for (const [name, value] of Object.entries(changes))
      if (value === undefined || value === null || value === "" || value === "[]") next.delete(name);
      else next.set(name, String(value));
    setParams(next, how);
  };
  return [params, change];
}
