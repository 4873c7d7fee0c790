/** Which crates a stick shall carry. */
import { Box, Checkbox, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import type { Stick } from "../../api/client";
import { cratesQuery, ruleCountsQuery } from "../../api/queries";
import { FIGURES } from "../../theme";

interface Props {
  stick: Stick;
  disabled: boolean;
  onChoose: (ids: number[]) => void;
}

export function CrateChoice({ stick, disabled, onChoose }: Props) {
  const crates = (useQuery(cratesQuery).data ?? []).filter((crate) => !crate.is_folder);
  const byRule = crates.some((crate) => crate.fills_itself);
  const counts = useQuery({ ...ruleCountsQuery, enabled: byRule }).data;
  const chosen = new Set(stick.crate_ids);
  const toggle = (id: number) => {
    const wanted = crates.filter((crate) => (crate.id === id ? !chosen.has(id) : chosen.has(crate.id)));
    onChoose(wanted.map((crate) => crate.id));
  };
  return (
    <Box>
      <Typography variant="h2" sx={{ mb: 0.6 }}>
        Crates to carry
      </Typography>
      {crates.map((crate) => (
        <Box
          key={crate.id}
          component="label"
          sx={{
            display: "flex",
            alignItems: "center",
            gap: 0.5,
            borderTop: 1,
            borderColor: "divider",
            py: 0.4,
            cursor: "pointer",
          }}
        >
          <Checkbox
            size="small"
            color="secondary"
            checked={chosen.has(crate.id)}
            disabled={disabled}
            onChange={() => toggle(crate.id)}
          />
          <Box sx={{ flex: 1, fontWeight: 500 }}>{crate.name}</Box>
          <Box sx={{ fontFamily: FIGURES, fontSize: "0.78rem", color: "text.secondary" }}>
            {crate.fills_itself ? `≡ ${counts?.get(crate.id)?.tracks ?? "…"}` : crate.tracks}
          </Box>
        </Box>
      ))}
      {!crates.length && (
        <Box sx={{ color: "text.secondary" }}>There is no crate yet. Make one in Crates.</Box>
      )}
    </Box>
  );
}
