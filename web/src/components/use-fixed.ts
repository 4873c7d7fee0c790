/** Functions that stay the same for ever and do what the newest ones do. */
import { useEffect, useMemo, useRef } from "react";

// eslint-disable-next-line @typescript-eslint/no-explicit-any
type Functions = Record<string, (...given: any[]) => void>;

export function useFixed<T extends { [K in keyof T]: Functions[string] }>(newest: T): T {
  const latest = useRef(newest);
  useEffect(() => {
    latest.current = newest;
  });
  const names = Object.keys(newest).join(" ");
  return useMemo(() => {
    const call = (name: keyof T) => [name, (...given: unknown[]) => latest.current[name](...given)];
    return Object.fromEntries(names.split(" ").map((name) => call(name as keyof T))) as T;
  }, [names]);
}
