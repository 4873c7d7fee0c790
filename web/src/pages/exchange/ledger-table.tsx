/** The ledger: of each kind of information how much stays as it is, is changed, or is left here, and why. */
import { Box, ButtonBase } from "@mui/material";
import { useState } from "react";
import { FIGURES } from "../../theme";
import { LedgerRows } from "./ledger-rows";
import { Answers } from "../../components/answers";
import { FATES, type Choice, type Fate, type Ledger, type Order, type Target } from "./use-exchange";
import { linesOf, saidOf, type Line } from "./words";

const COLUMNS = "9rem minmax(6rem, 1fr) 4.6rem 4.6rem 4.6rem minmax(14rem, 1.7fr)";

interface Props {
  ledger: Ledger;
  target: Target;
  order: Order;
  onOption: (name: string, value: string) => void;
}

export function LedgerTable({ ledger, target, order, onOption }: Props) {
  const [open, setOpen] = useState<string | null>(null);
  return (
    <Box aria-label="Ledger" role="region">
      <Box
        sx={{
          ...{ display: "grid", gridTemplateColumns: COLUMNS, gap: 1.2, py: 0.5 },
          ...{ borderBottom: 1, borderColor: "divider", color: "text.secondary", fontSize: "0.78rem" },
        }}
      >
        <span>What</span>
        <span />
        {FATES.map((fate) => (
          <Box key={fate} sx={{ textAlign: "right" }}>
            {fate}
          </Box>
        ))}
        <span>how</span>
      </Box>
      {linesOf(ledger).map((line) => (
        <LedgerLine
          key={line.kind}
          line={line}
          open={open === line.kind}
          onOpen={() => setOpen(open === line.kind ? null : line.kind)}
          ledger={ledger}
          said={saidOf(line, ledger, target)}
          choices={target.choices.filter((choice) => choice.kind === line.kind)}
          order={order}
          onOption={onOption}
        />
      ))}
    </Box>
  );
}

interface LineProps {
  line: Line;
  open: boolean;
  onOpen: () => void;
  ledger: Ledger;
  said: string;
  choices: readonly Choice[];
  order: Order;
  onOption: (name: string, value: string) => void;
}

function LedgerLine({ line, open, onOpen, ledger, said, choices, order, onOption }: LineProps) {
  const some = line.counts.changed + line.counts["left here"] > 0;
  return (
    <Box sx={{ borderBottom: 1, borderColor: "divider" }} data-kind={line.kind}>
      <Box
        sx={{
          ...{ display: "grid", gridTemplateColumns: COLUMNS, gap: 1.2, alignItems: "center" },
          ...{ minHeight: "2.1rem", py: 0.3 },
        }}
      >
        <ButtonBase
          disabled={!some}
          aria-expanded={open}
          onClick={onOpen}
          title={some ? "Show each value" : "All of it stays as it is"}
          sx={{
            font: "inherit",
            justifyContent: "flex-start",
            fontWeight: 700,
            fontSize: "0.92rem",
            color: "text.primary",
          }}
        >
          <Box component="span" aria-hidden sx={{ width: "0.9rem", color: "text.secondary" }}>
            {some ? (open ? "▾" : "▸") : ""}
          </Box>
          {line.name}
        </ButtonBase>
        <FateBar counts={line.counts} />
        {FATES.map((fate) => (
          <FateCount key={fate} fate={fate} count={line.counts[fate]} />
        ))}
        <Box sx={{ fontSize: "0.86rem", lineHeight: 1.45 }}>
          <Sentence said={said} choices={choices} order={order} onOption={onOption} />
        </Box>
      </Box>
      {open && <LedgerRows jobId={ledger.job_id} kind={line.kind} />}
    </Box>
  );
}

const COLOURS: Record<Fate, string> = { "as it is": "sure", changed: "doubt", "left here": "now" };

/** Its parts differ in place and pattern too, not in colour alone. */
function FateBar({ counts }: { counts: Line["counts"] }) {
  const whole = FATES.reduce((sum, fate) => sum + counts[fate], 0);
  return (
    <Box aria-hidden sx={{ display: "flex", height: "0.75rem", gap: "1px" }}>
      {FATES.map((fate) => (
        <Box
          key={fate}
          sx={(theme) => ({
            flexGrow: counts[fate] / whole,
            minWidth: counts[fate] ? 3 : 0,
            bgcolor: theme.inks[COLOURS[fate] as "sure"],
            ...(fate === "left here" && {
              bgcolor: "transparent",
              background: `repeating-linear-gradient(90deg, ${theme.inks.now} 0 3px, transparent 3px 5px)`,
            }),
          })}
        />
      ))}
    </Box>
  );
}

function FateCount({ fate, count }: { fate: Fate; count: number }) {
  return (
    <Box
      sx={(theme) => ({
        ...{ fontFamily: FIGURES, fontSize: "0.84rem", textAlign: "right" },
        color:
          count && fate !== "as it is" ? theme.inks[COLOURS[fate] as "doubt"] : theme.palette.text.secondary,
        fontWeight: count ? 600 : 400,
      })}
    >
      {count.toLocaleString("en")}
    </Box>
  );
}

type SentenceProps = Pick<LineProps, "said" | "choices" | "order" | "onOption">;

/** What is done, in words of which some can be changed. */
function Sentence({ said, choices, order, onOption }: SentenceProps) {
  return (
    <>
      {choices.map((choice, at) => (
        <Box component="span" key={choice.name}>
          {at > 0 && "; "}
          <Answers
            label={choice.why}
            title={choice.why}
            value={String(order.options?.[choice.name] ?? choice.usual)}
            answers={choice.answers}
            onPick={(value) => onOption(choice.name, value)}
          />
        </Box>
      ))}
      {said && (choices.length ? `; ${said}` : said)}
    </>
  );
}
