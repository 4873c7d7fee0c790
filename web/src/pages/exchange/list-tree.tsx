/** The lists of the library as a tree with ticks: a folder is ticked whole, in part, or not. */
import { Box, Checkbox } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import type { Crate } from "../../api/client";
import { cratesQuery, ruleCountsQuery } from "../../api/queries";
import { FIGURES } from "../../theme";
import { allWithin, inTree } from "../crates/folders";

interface Props {
  /** Ids of the lists that are ticked; null for all of them. */
  chosen: readonly number[] | null;
  onChoose: (ids: number[]) => void;
}

export function ListTree({ chosen, onChoose }: Props) {
  const crates = useQuery(cratesQuery).data ?? [];
  const counts = useQuery({ ...ruleCountsQuery, enabled: crates.some((c) => c.fills_itself) }).data;
  const lists = crates.filter((crate) => !crate.is_folder).map(({ id }) => id);
  const ticked = new Set(chosen ?? lists);
  const under = (crate: Crate) =>
    crate.is_folder
      ? allWithin(crates, crate.id).flatMap((each) => (each.is_folder ? [] : [each.id]))
      : [crate.id];
  const toggle = (crate: Crate) => {
    const ids = under(crate);
    const all = ids.every((id) => ticked.has(id));
    onChoose(lists.filter((id) => (ids.includes(id) ? !all : ticked.has(id))));
  };
  return (
    <Box role="group" aria-label="Lists that go">
      {inTree(crates).map(({ crate, depth }) => {
        const ids = under(crate);
        const some = ids.filter((id) => ticked.has(id)).length;
        const tracks = crate.fills_itself ? (counts?.get(crate.id)?.tracks ?? null) : crate.tracks;
        return (
          <TreeRow
            key={crate.id}
            crate={crate}
            depth={depth}
            state={some === 0 ? "none" : some === ids.length ? "all" : "some"}
            figure={crate.is_folder ? `${some} of ${ids.length}` : (tracks?.toLocaleString("en") ?? "…")}
            disabled={!ids.length}
            onToggle={() => toggle(crate)}
          />
        );
      })}
      {!crates.length && (
        <Box sx={{ color: "text.secondary" }}>There is no list yet. Make one in Crates.</Box>
      )}
    </Box>
  );
}

interface RowProps {
  crate: Crate;
  depth: number;
  state: "none" | "some" | "all";
  figure: string;
  disabled: boolean;
  onToggle: () => void;
}

function TreeRow({ crate, depth, state, figure, disabled, onToggle }: RowProps) {
  return (
    <Box
      component="label"
      sx={{
        ...{ display: "flex", alignItems: "center", gap: 0.5, pl: 1.4 * depth, cursor: "pointer" },
        ...{ borderTop: 1, borderColor: "divider", minHeight: "1.9rem" },
      }}
    >
      <Checkbox
        size="small"
        color="secondary"
        sx={{ p: 0.3 }}
        checked={state === "all"}
        indeterminate={state === "some"}
        disabled={disabled}
        onChange={onToggle}
      />
      <Box
        title={crate.name}
        sx={{
          ...{ flex: 1, minWidth: 0, overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" },
          fontWeight: crate.is_folder ? 700 : 500,
        }}
      >
        {crate.name}
        {crate.fills_itself && <span aria-label="fills itself"> ≡</span>}
      </Box>
      <Box sx={{ fontFamily: FIGURES, fontSize: "0.78rem", color: "text.secondary" }}>{figure}</Box>
    </Box>
  );
}
