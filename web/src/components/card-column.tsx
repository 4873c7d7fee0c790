/** What a room has to choose from, at its left edge: a heading with a way to make one more, and cards. */
import { Box, Typography } from "@mui/material";
import type { ReactNode, Ref } from "react";
import { NAMES } from "../theme";

interface ListProps {
  label: string;
  heading: string;
  /** The way to make one more. */
  action: ReactNode;
  children: ReactNode;
}

export function CardColumn({ label, heading, action, children }: ListProps) {
  return (
    <Box
      component="nav"
      aria-label={label}
      sx={(theme) => ({
        bgcolor: theme.inks.panel,
        borderRight: 1,
        borderColor: "divider",
        overflow: "auto",
        p: 1.6,
      })}
    >
      <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "center", mb: 1 }}>
        <Typography variant="overline">{heading}</Typography>
        {action}
      </Box>
      {children}
    </Box>
  );
}

interface CardProps {
  name: string;
  says: string;
  /** It is the one shown beside the list. */
  open: boolean;
  /** Something is held over it that can be dropped. */
  over?: boolean;
  corners: string;
  ref?: Ref<HTMLElement>;
  onShow: () => void;
  children?: ReactNode;
}

export function ColumnCard({ name, says, open, over = false, corners, ref, onShow, children }: CardProps) {
  return (
    <Box
      ref={ref}
      component="button"
      type="button"
      aria-current={open}
      data-card={name}
      onClick={onShow}
      sx={(theme) => ({
        ...{ display: "block", width: "100%", textAlign: "left", font: "inherit", cursor: "pointer" },
        ...{ mb: 0.8, px: 1.4, py: 1, borderRadius: corners, color: theme.inks.ink },
        border: open ? `2px solid ${theme.inks.ink}` : `1px solid ${theme.inks[over ? "chosen" : "rule"]}`,
        bgcolor: theme.inks[over ? "chosenWash" : open ? "paper" : "tab"],
      })}
    >
      <Box sx={{ fontFamily: NAMES, fontWeight: 650, fontSize: "0.98rem", overflowWrap: "anywhere" }}>
        {name}
      </Box>
      <Box sx={{ fontSize: "0.76rem", opacity: 0.8 }}>{says}</Box>
      {children}
    </Box>
  );
}
