/** Where each value of a track comes from, all its sources side by side, and which of them wins for all tracks. */
import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schema } from "../../api/client";
import { valueRulesQuery, valuesQuery } from "../../api/queries";
import { fieldName } from "../../components/format";
import { FIGURES } from "../../theme";
import { RuleDialog } from "./rule-dialog";

type Value = Schema["ValueOut"];
type Rule = Schema["ValueRule"];
/** Long values are only told to be there. */
const LONG: readonly Value["field"][] = ["grid", "structure", "chapters", "quality"];

export function SourcesDialog({ id, onClose }: { id: number; onClose: () => void }) {
  const values = useQuery(valuesQuery(id)).data ?? [];
  const rules = useQuery(valueRulesQuery).data ?? [];
  const [asked, setAsked] = useState<Rule | null>(null);
  const fields = [...new Set(values.map((value) => value.field))];
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle>Where its values come from</DialogTitle>
      <DialogContent>
        {fields.map((field) => (
          <FieldLine
            key={field}
            values={values.filter((value) => value.field === field)}
            rule={rules.find((rule) => rule.field === field)}
            onRule={setAsked}
          />
        ))}
        <Box sx={{ color: "text.secondary", fontSize: "0.82rem", mt: 1.5 }}>
          A lock wins over everything, then what was done by hand. “Prefer” changes the order of the other
          sources for all tracks, after showing what that changes.
        </Box>
      </DialogContent>
      <DialogActions>
        <Button variant="contained" autoFocus onClick={onClose}>
          Close
        </Button>
      </DialogActions>
      {asked && <RuleDialog rule={asked} long={LONG.includes(asked.field)} onClose={() => setAsked(null)} />}
    </Dialog>
  );
}

interface LineProps {
  values: Value[];
  rule: Rule | undefined;
  onRule: (rule: Rule) => void;
}

function FieldLine({ values, rule, onRule }: LineProps) {
  const winner = values.find((value) => value.wins);
  const field = values[0]?.field;
  return (
    <Box sx={{ borderTop: 1, borderColor: "divider", py: 0.6 }}>
      <Box sx={{ fontWeight: 600, fontSize: "0.86rem" }}>{fieldName(field ?? "")}</Box>
      {values.map((value) => {
        const { origin } = value;
        const preferred =
          rule &&
          origin &&
          winner?.origin &&
          rule.order.includes(origin) &&
          rule.order.includes(winner.origin)
            ? { ...rule, order: [origin, ...rule.order.filter((each) => each !== origin)] }
            : null;
        return (
          <Box
            key={value.source}
            sx={{ display: "grid", gridTemplateColumns: "110px 1fr auto", gap: 1, alignItems: "center" }}
          >
            <Box sx={{ fontSize: "0.8rem", color: value.wins ? "info.main" : "text.secondary" }}>
              {value.wins ? "✓ " : ""}
              {value.source}
            </Box>
            <Box sx={{ fontFamily: FIGURES, fontSize: "0.8rem", overflowWrap: "anywhere" }}>
              {textOf(value)}
            </Box>
            {preferred && !value.wins && (
              <Button
                onClick={() => onRule(preferred)}
                sx={{ px: 0.8, py: 0 }}
                aria-label={`Prefer ${value.source} for ${field}`}
              >
                Prefer
              </Button>
            )}
          </Box>
        );
      })}
    </Box>
  );
}

function textOf(value: Value): string {
  const doubt = value.doubt ? `, doubt ${Math.round(value.doubt * 100)} of 100` : "";
  if (value.text === null) return `none${doubt}`;
  const text = value.field === "tempo" ? Number(value.text).toFixed(3) : value.text;
  return (LONG.includes(value.field) ? "there" : text) + doubt;
}
