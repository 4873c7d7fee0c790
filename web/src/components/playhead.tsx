/** The line over a picture that shows what is heard now. */
import { Box } from "@mui/material";
import { useEffect, useRef } from "react";

interface Props {
  /** What knows the time that is heard. */
  player: { position(): number };
  /** The times that the picture shows. */
  from: number;
  to: number;
}

export function Playhead({ player, from, to }: Props) {
  const line = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let frame = 0;
    const step = () => {
      const share = Math.max(0, Math.min(1, (player.position() - from) / (to - from)));
      if (line.current) line.current.style.left = `${100 * share}%`;
      frame = requestAnimationFrame(step);
    };
    step();
    return () => cancelAnimationFrame(frame);
  }, [player, from, to]);
  return (
    <Box
      ref={line}
      sx={{ position: "absolute", top: 0, bottom: 0, width: 2, bgcolor: "error.main", pointerEvents: "none" }}
    />
  );
}
