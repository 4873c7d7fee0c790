/** What stands beside a list: a column with a name that can be closed. */
import { Box, IconButton, Typography } from "@mui/material";
import type { ReactNode } from "react";

interface Props {
  title: string;
  extra?: ReactNode;
  onClose: () => void;
  children: ReactNode;
}

export function Side({ title, extra, onClose, children }: Props) {
  return (
    <Box
      component="aside"
      aria-label={title}
      sx={(theme) => ({
        ...{ width: "18.5rem", flex: "none", display: "flex", flexDirection: "column", minHeight: 0 },
        ...{ borderLeft: 1, borderColor: "divider", bgcolor: theme.inks.panel },
      })}
    >
      <Box sx={{ display: "flex", alignItems: "center", gap: 1, px: 1.6, pt: 1, pb: 0.5 }}>
        <Typography variant="h2" sx={{ flex: 1 }}>
          {title}
        </Typography>
        {extra}
        <IconButton size="small" aria-label={`Close ${title.toLowerCase()}`} onClick={onClose}>
          ×
        </IconButton>
      </Box>
      <Box sx={{ flex: 1, minHeight: 0, overflow: "auto", px: 1.6, pb: 1.5 }}>{children}</Box>
    </Box>
  );
}
