/** How full a stick is and will be. */
import { Box } from "@mui/material";

/** How full a stick is, and how full it will be. */
export function Capacity({ used, added, capacity }: { used: number; added: number; capacity: number }) {
  const share = (bytes: number) => `${Math.min(100, (100 * Math.max(bytes, 0)) / Math.max(capacity, 1))}%`;
  const over = used + added > capacity;
  return (
    <Box
      sx={(theme) => ({
        height: 10,
        display: "flex",
        border: `1px solid ${theme.inks.ink}`,
        bgcolor: theme.inks.paper,
        overflow: "hidden",
      })}
      aria-hidden
    >
      <Box sx={{ width: share(used), bgcolor: "text.primary" }} />
      <Box sx={(theme) => ({ width: share(added), bgcolor: over ? theme.inks.now : theme.inks.sure })} />
    </Box>
  );
}
