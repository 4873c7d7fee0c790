/** What a room has to choose from, at its left edge: a heading with a way to make one more, and cards. */
import { Box, Typography } from "@mui/material";
import type { ReactNode, Ref } from "react";
import type { ItemMenu } from "./item-menu";
import { NAMES } from "../theme";

interface ListProps {
  label: string;
  heading: string;
  /** The way to make one more. */
  action: ReactNode;
  /** What stays above the cards while they scroll. */
  top?: ReactNode;
  /** What scrolls. */
  scroller?: Ref<HTMLDivElement>;
  children: ReactNode;
}

export function CardColumn({ label, heading, action, top, scroller, children }: ListProps) {
  return (
    <Box
      component="nav"
      aria-label={label}
      sx={(theme) => ({
        bgcolor: theme.inks.panel,
        borderRight: 1,
        borderColor: "divider",
        ...{ display: "flex", flexDirection: "column", minHeight: 0 },
      })}
    >
      <Box sx={{ p: 1.6, pb: 0, flex: "none" }}>
        <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "center", mb: 1 }}>
          <Typography variant="overline">{heading}</Typography>
          {action}
        </Box>
        {top}
      </Box>
      <Box ref={scroller} sx={{ flex: 1, overflow: "auto", px: 1.6, pb: 1.6 }}>
        {children}
      </Box>
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
  /** By which it is dragged. */
  handle?: object | undefined;
  dragging?: boolean;
  sign?: string;
  /** How much it holds, beside its name; what it says is then told by its tooltip. */
  figure?: string | undefined;
  /** The colour of its edge. */
  edge?: string | undefined;
  onShow: () => void;
  /** Begins to write its name anew. */
  onRename?: () => void;
  menu?: ItemMenu;
  children?: ReactNode;
}

export function ColumnCard(props: CardProps) {
  const {
    name,
    says,
    open,
    over = false,
    corners,
    sign,
    figure,
    ref,
    handle,
    edge,
    onShow,
    onRename,
  } = props;
  return (
    <Box
      ref={ref}
      component="button"
      type="button"
      aria-current={open}
      title={figure === undefined ? undefined : says}
      data-card={name}
      onClick={onShow}
      onDoubleClick={onRename}
      {...handle}
      {...props.menu?.handlers}
      sx={(theme) => ({
        ...{ display: "block", width: "100%", textAlign: "left", font: "inherit", cursor: "pointer" },
        ...{ mb: figure === undefined ? 0.8 : 0.5, px: 1.2, py: figure === undefined ? 1 : 0.65 },
        ...{ borderRadius: corners, color: theme.inks.ink },
        border: open ? `2px solid ${theme.inks.ink}` : `1px solid ${theme.inks[over ? "chosen" : "rule"]}`,
        ...(edge && { borderLeft: `5px solid ${edge}` }),
        ...(props.dragging && { opacity: 0.4 }),
        touchAction: "none",
        bgcolor: theme.inks[over ? "chosenWash" : open ? "paper" : "tab"],
      })}
    >
      <Box sx={{ display: "flex", gap: 1, justifyContent: "space-between", alignItems: "baseline" }}>
        <Box sx={{ fontFamily: NAMES, fontWeight: 650, fontSize: "0.95rem", overflowWrap: "anywhere" }}>
          {sign && <span aria-hidden>{sign} </span>}
          {name}
        </Box>
        {figure !== undefined && (
          <Box className="figure" sx={{ fontSize: "0.82rem", opacity: 0.8, whiteSpace: "nowrap" }}>
            {figure}
          </Box>
        )}
      </Box>
      {figure === undefined && <Box sx={{ fontSize: "0.76rem", opacity: 0.8 }}>{says}</Box>}
      {props.children}
    </Box>
  );
}
