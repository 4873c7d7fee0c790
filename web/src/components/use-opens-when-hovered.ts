/** What is held over a folder for a moment opens it. */
import { useEffect, useEffectEvent } from "react";

const HELD_MS = 600;

export function useOpensWhenHovered(hovered: boolean, onOpen: () => void) {
  const open = useEffectEvent(onOpen);
  useEffect(() => {
    if (!hovered) return;
    const timer = setTimeout(() => open(), HELD_MS);
    return () => clearTimeout(timer);
  }, [hovered]);
}
