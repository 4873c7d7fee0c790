/** How wide an element is, told again whenever that changes. */
import { useLayoutEffect, useState, type RefObject } from "react";

/** Pixels within its borders and scroll bars; without end until it is there. */
export function useWidth(element: RefObject<HTMLElement | null>): number {
  const [width, setWidth] = useState(Infinity);
  useLayoutEffect(() => {
    const watched = element.current;
    if (!watched) return;
    const measure = () => setWidth(watched.clientWidth);
    const watch = new ResizeObserver(measure);
    watch.observe(watched);
    measure();
    return () => watch.disconnect();
  }, [element]);
  return width;
}
