/** A value that is followed only once it has rested. */
import { useEffect, useState } from "react";

/** What a value last was for so many milliseconds without a change. */
export function useRested<T>(value: T, restMs: number): T {
  const [rested, setRested] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setRested(value), restMs);
    return () => clearTimeout(timer);
  }, [value, restMs]);
  return rested;
}
