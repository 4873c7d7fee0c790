/** The crates as cards to choose; tracks can be dropped on them. */
import { useDroppable } from "@dnd-kit/core";
import { Box, Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { counted } from "../../api/changes";
import type { Crate } from "../../api/client";
import { ruleCountsQuery } from "../../api/queries";
import { playingTime } from "../../components/format";
import { ColumnCard, CardColumn } from "../../components/card-column";
import { useRemembered } from "../../settings";
import { FolderRow } from "./folder-row";
import { allWithin, inTree } from "./folders";
import type { Making } from "./make-crate";

interface Props {
  crates: Crate[];
  open: number;
  onShow: (crate: Crate) => void;
  onMake: (making: Making) => void;
}

export function CrateCards({ crates, open, onShow, onMake }: Props) {
  const counts = useQuery({
    ...ruleCountsQuery,
    enabled: crates.some((crate) => crate.fills_itself),
  }).data;
  const [folded, setFolded] = useRemembered<number[]>("crates.folded", []);
  const fold = (id: number) =>
    setFolded(folded.includes(id) ? folded.filter((each) => each !== id) : [...folded, id]);
  return (
    <CardColumn
      label="Crates"
      heading={counted(crates.filter((crate) => !crate.is_folder).length, "crate")}
      action={<Button onClick={() => onMake({ kind: "hand", folder_id: null })}>Make a crate</Button>}
    >
      <Box sx={{ display: "flex", gap: 0.6, mb: 1, justifyContent: "space-between" }}>
        <Button
          title="A crate that fills itself by a rule"
          onClick={() => onMake({ kind: "rule", folder_id: null })}
        >
          ≡ One by rule
        </Button>
        <Button onClick={() => onMake({ kind: "folder", folder_id: null })}>A folder</Button>
      </Box>
      {inTree(crates, folded).map(({ crate, depth }) => (
        <Box key={crate.id} sx={{ pl: 1.6 * depth }}>
          {crate.is_folder ? (
            <FolderRow
              folder={crate}
              within={allWithin(crates, crate.id)}
              folded={folded.includes(crate.id)}
              onFold={() => fold(crate.id)}
              onMake={onMake}
            />
          ) : (
            <Card
              crate={crate}
              held={crate.fills_itself ? counts?.get(crate.id) : crate}
              open={crate.id === open}
              onShow={() => onShow(crate)}
            />
          )}
        </Box>
      ))}
    </CardColumn>
  );
}

interface CardProps {
  crate: Crate;
  /** How much it holds; not known yet for one that fills itself. */
  held: { tracks: number; duration_s: number } | undefined;
  open: boolean;
  onShow: () => void;
}

function Card({ crate, held, open, onShow }: CardProps) {
  const { fills_itself: itself } = crate;
  const { setNodeRef, isOver } = useDroppable({
    id: `card-${crate.id}`,
    data: { crate },
    disabled: itself,
  });
  const much = held ? `${counted(held.tracks, "track")}, ${playingTime(held.duration_s)}` : "…";
  return (
    <ColumnCard
      ref={setNodeRef}
      name={crate.name}
      says={`${itself ? "≡ " : ""}${much}${crate.wanted ? `, ${crate.wanted} wanted` : ""}`}
      open={open}
      over={isOver}
      corners="7px 7px 2px 2px"
      onShow={onShow}
    />
  );
}
