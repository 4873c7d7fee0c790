/** The chain as it was gone: each step a line to press, with the ways between them drawn at its left. */
import { Box, ButtonBase } from "@mui/material";
import { useMemo } from "react";
import { intoSight } from "../../components/use-steps";
import { NAMES } from "../../theme";
import { chainRows, type ChainRow } from "./chain-rows";
import type { Chain } from "./use-chain";
import type { ChainStep } from "./use-sets";

const ROW_REM = 1.7;
const COLUMN_PX = 14;
const UNIT = 20;
const HELD = { "": "", tray: "in the tray", order: "placed" } as const;

export function ChainPicture({ chain, onGone }: { chain: Chain; onGone: () => void }) {
  const rows = useMemo(() => chainRows(chain.steps), [chain.steps]);
  if (!rows.length) return null;
  const columns = 1 + Math.max(...rows.map(({ column }) => column));
  const on = new Set(chain.way.map(({ id }) => id));
  return (
    <Box
      role="group"
      aria-label="The chain"
      sx={{ maxHeight: "38%", flex: "none", overflow: "auto", borderBottom: 1, borderColor: "divider" }}
    >
      <Box sx={{ position: "relative" }}>
        <Ways rows={rows} columns={columns} on={on} />
        {rows.map(({ step, column }) => (
          <Step
            key={step.id}
            step={step}
            indentPx={(column + 1) * COLUMN_PX}
            here={step.id === chain.at?.id}
            onWay={on.has(step.id)}
            onGo={() => {
              chain.goTo(step);
              onGone();
            }}
          />
        ))}
      </Box>
    </Box>
  );
}

interface StepProps {
  step: ChainStep;
  indentPx: number;
  here: boolean;
  onWay: boolean;
  onGo: () => void;
}

function Step({ step, indentPx, here, onWay, onGo }: StepProps) {
  const said = [step.on_shelf ? HELD[step.held] : "no longer on the Shelf", step.artist].filter(Boolean);
  return (
    <ButtonBase
      ref={here ? intoSight : undefined}
      data-step={step.title}
      aria-current={here ? "step" : undefined}
      onClick={onGo}
      sx={(theme) => ({
        ...{
          display: "flex",
          justifyContent: "flex-start",
          width: "100%",
          height: `${ROW_REM}rem`,
          gap: 0.8,
        },
        ...{ pl: `${indentPx + 12}px`, pr: 1, fontSize: "0.86rem", whiteSpace: "nowrap" },
        fontFamily: NAMES,
        color: onWay ? "text.primary" : "text.secondary",
        bgcolor: here ? theme.inks.chosenWash : undefined,
        fontWeight: here ? 600 : undefined,
      })}
    >
      <Box
        component="span"
        sx={{ flexShrink: 0, maxWidth: "75%", overflow: "hidden", textOverflow: "ellipsis" }}
      >
        {step.title || "without a title"}
      </Box>
      <Box
        component="span"
        sx={{ color: "text.secondary", fontWeight: 400, overflow: "hidden", textOverflow: "ellipsis" }}
      >
        {said.join(" · ")}
      </Box>
    </ButtonBase>
  );
}

interface WaysProps {
  rows: readonly ChainRow[];
  columns: number;
  on: ReadonlySet<number>;
}

/** A row is UNIT high here, and as high as a line of type on the page. */
function Ways({ rows, columns, on }: WaysProps) {
  const width = (columns + 1) * COLUMN_PX;
  const x = (column: number) => (column + 0.8) * COLUMN_PX;
  const y = (row: number) => (row + 0.5) * UNIT;
  return (
    <Box
      component="svg"
      aria-hidden
      viewBox={`0 0 ${width} ${rows.length * UNIT}`}
      preserveAspectRatio="none"
      sx={{
        ...{ position: "absolute", left: 0, top: 0, width, height: `${rows.length * ROW_REM}rem`, zIndex: 1 },
        ...{ pointerEvents: "none", color: "text.secondary" },
        "& path": { fill: "none", stroke: "currentColor", vectorEffect: "non-scaling-stroke" },
      }}
    >
      {rows.map(({ step, column, on: next, branches }, row) => (
        <g key={step.id}>
          {next !== null && <path d={`M${x(column)} ${y(row)}V${y(next)}`} strokeWidth={1.2} />}
          {branches && <path d={`M${x(column - 1)} ${y(row)}H${x(column)}`} strokeWidth={1.2} />}
          <path d={`M${x(column)} ${y(row)}h0`} strokeLinecap="round" strokeWidth={on.has(step.id) ? 9 : 6} />
        </g>
      ))}
    </Box>
  );
}
