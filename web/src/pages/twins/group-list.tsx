/** The groups of twins at the left: how many, what they take, the sure ones in one step, and each to be looked at. */
import { Box, Button, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef } from "react";
import { size } from "../../components/format";
import { KeyHint } from "../../components/key-hint";
import { shown } from "../../components/key-map";
import { KEYS } from "../../components/keys";
import { FIGURES, NAMES } from "../../theme";
import type { Line } from "./use-twins";

export type Which = "all" | "sure" | "listen" | "edits";

export const isOf = ({ kind }: Line, which: Which): boolean =>
  which === "all" ||
  (which === "sure" && kind === "sure") ||
  (which === "listen" && (kind === "same" || kind === "name")) ||
  (which === "edits" && (kind === "edit" || kind === "same backing"));

interface Props {
  all: readonly Line[];
  lines: readonly Line[];
  chosen: number;
  which: Which;
  onWhich: (which: Which) => void;
  onChoose: (place: number) => void;
  onSure: () => void;
  onOrder: () => void;
}

export function GroupList({ all, lines, chosen, which, onWhich, onChoose, onSure, onOrder }: Props) {
  return (
    <Box
      component="nav"
      aria-label="Groups of twins"
      sx={(theme) => ({
        ...{ bgcolor: theme.inks.panel, borderRight: 1, borderColor: "divider" },
        ...{ display: "flex", flexDirection: "column", minHeight: 0 },
      })}
    >
      <ListHead all={all} which={which} onWhich={onWhich} onSure={onSure} onOrder={onOrder} />
      <Lines lines={lines} chosen={chosen} onChoose={onChoose} />
    </Box>
  );
}

type HeadProps = Pick<Props, "all" | "which" | "onWhich" | "onSure" | "onOrder">;

function ListHead({ all, which, onWhich, onSure, onOrder }: HeadProps) {
  const count = (each: Which) => all.filter((line) => isOf(line, each)).length;
  const sure = all.filter((line) => line.kind === "sure" && !line.later).length;
  const bytes = all.reduce((sum, line) => sum + line.bytes, 0);
  return (
    <Box sx={{ p: 1.6, pb: 1.2, borderBottom: 1, borderColor: "divider" }}>
      <Typography variant="h2" component="h1">
        {all.length.toLocaleString("en")} {all.length === 1 ? "group" : "groups"}, {size(bytes)}
      </Typography>
      <ToggleButtonGroup
        exclusive
        size="small"
        fullWidth
        value={which}
        onChange={(_, value: Which | null) => value && onWhich(value)}
        aria-label="Which groups"
        sx={{ mt: 0.8, mb: 1 }}
      >
        {(["all", "sure", "listen", "edits"] as const).map((each) => (
          <ToggleButton
            key={each}
            value={each}
            sx={{ px: 0.4, py: 0.2, fontSize: "0.76rem", color: "text.primary" }}
          >
            {each} {count(each)}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.8 }}>
        <Button variant="contained" color="error" disabled={!sure} onClick={onSure}>
          Settle the {sure.toLocaleString("en")} sure…
        </Button>
        <Button onClick={onOrder}>
          What is kept… <KeyHint>{shown(KEYS.twins.order)}</KeyHint>
        </Button>
      </Box>
    </Box>
  );
}

function Lines({ lines, chosen, onChoose }: Pick<Props, "lines" | "chosen" | "onChoose">) {
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 48,
    overscan: 10,
  });
  useEffect(() => {
    if (lines.length) rows.scrollToIndex(chosen);
  }, [chosen, lines.length, rows]);
  return (
    <Box ref={scroller} sx={{ flex: 1, overflow: "auto" }} role="listbox" aria-label="Groups">
      <Box sx={{ height: rows.getTotalSize(), position: "relative" }}>
        {rows.getVirtualItems().map(({ index, start, key }) => {
          const line = lines[index];
          return (
            line && (
              <Box
                key={key}
                ref={rows.measureElement}
                data-index={index}
                sx={{ position: "absolute", left: 0, right: 0, top: 0, transform: `translateY(${start}px)` }}
              >
                <LineRow line={line} open={index === chosen} onChoose={() => onChoose(index)} />
              </Box>
            )
          );
        })}
      </Box>
    </Box>
  );
}

function LineRow({ line, open, onChoose }: { line: Line; open: boolean; onChoose: () => void }) {
  const doubtful = line.kind !== "sure";
  return (
    <Box
      component="button"
      type="button"
      role="option"
      aria-selected={open}
      data-group={line.title}
      onClick={onChoose}
      sx={({ inks }) => ({
        ...{ display: "grid", gridTemplateColumns: "minmax(0, 1fr) auto", width: "100%", textAlign: "left" },
        ...{ border: 0, borderBottom: `1px solid ${inks.rule}`, px: 1.6, py: 0.7, cursor: "pointer" },
        ...{ font: "inherit", bgcolor: open ? inks.ink : "transparent", color: open ? inks.paper : inks.ink },
      })}
    >
      <Box sx={{ ...oneLine, fontFamily: NAMES, fontWeight: 600 }}>
        {line.later && <span title="To be looked at once more">↻ </span>}
        {line.title || "Without a title"}
      </Box>
      <Box sx={{ fontFamily: FIGURES }}>{line.files}</Box>
      <Box
        sx={({ inks }) => ({
          ...oneLine,
          ...{ gridColumn: "1 / -1", fontSize: "0.78rem" },
          color: open ? inks.paper : doubtful ? inks.doubt : inks.faint,
        })}
        title={line.words}
      >
        {line.words}
      </Box>
    </Box>
  );
}

const oneLine = { overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" } as const;
