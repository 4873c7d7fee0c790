/** Drawing a canvas anew whenever its component is, its size changes, or a font that a name needs has come. */
import { useEffect, type RefObject } from "react";

export function useRedraw(
  canvas: RefObject<HTMLCanvasElement | null>,
  draw: (on: HTMLCanvasElement) => void,
): void {
  useEffect(() => {
    const redraw = () => canvas.current && draw(canvas.current);
    redraw();
    const watch = new ResizeObserver(redraw);
    if (canvas.current) watch.observe(canvas.current);
    document.fonts.addEventListener("loadingdone", redraw);
    return () => {
      watch.disconnect();
      document.fonts.removeEventListener("loadingdone", redraw);
    };
  });
}
