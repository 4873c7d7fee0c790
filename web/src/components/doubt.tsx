import { Box, Tooltip } from "@mui/material";

/** How far a result should be checked by ear: the longer and more ochre, the more. */
export function Doubt({ value, reasons }: { value: number | null | undefined; reasons: string[] }) {
  if (value === null || value === undefined) return null;
  const much = value >= 0.3;
  const words = reasons.length ? reasons.join("; ") : value < 0.1 ? "sure" : "fairly sure";
  return (
    <Tooltip title={`Doubt ${Math.round(value * 100)} of 100: ${words}`}>
      <Box role="img" aria-label={`Doubt ${Math.round(value * 100)}: ${words}`}
        sx={(theme) => ({ width: 6 + 28 * value, height: 8, bgcolor: much ? theme.inks.doubt : theme.inks.peak })} />
    </Tooltip>
  );
}
