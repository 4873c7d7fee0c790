/** What is carried over to the kept file, what differs, which word is taken, and what would be lost. */
import { Box, Button } from "@mui/material";
import { fieldName, size } from "../../components/format";
import type { Carried, Group } from "./use-twins";

interface Props {
  group: Group;
  carried: Carried | undefined;
  giveWay: readonly number[];
  aside: boolean;
  onChoose: (field: string, from: number) => void;
}

export function CarriedBox({ group, carried, giveWay, aside, onChoose }: Props) {
  const files = giveWay.length + group.copies.length;
  const bytes =
    group.tracks
      .filter(({ track_id }) => giveWay.includes(track_id))
      .reduce((sum, each) => sum + each.size_bytes, 0) +
    group.copies.reduce((sum, each) => sum + each.size_bytes, 0);
  if (!files)
    return <Framed>Choose which file gives way: nothing is carried over, and nothing changes yet.</Framed>;
  const where = aside
    ? `put aside, ${size(bytes)} come free once they are thrown away`
    : "only taken off the Shelf, and lie where they are";
  return (
    <Framed>
      <Box data-testid="carried">
        <b>Carried over to the kept file:</b>{" "}
        {carried?.carried.length ? `${carried.carried.join(", ")}.` : "nothing is needed, it has all."}{" "}
        {files === 1 ? "One file is" : `${files} files are`} {where}. One step to undo.
      </Box>
      {carried?.lost.map((each) => (
        <Box key={each} role="alert" sx={{ color: "error.main", mt: 0.5 }}>
          Not carried over: {each}.
        </Box>
      ))}
      {carried?.differs.map((each) => (
        <Box
          key={`${each.field} ${each.from_id}`}
          sx={{ display: "flex", alignItems: "baseline", gap: 1, mt: 0.4, color: "warning.main" }}
        >
          <span>
            Differs: {fieldName(each.field)} {each.kept || "none"} / {each.other}
            {each.by_hand && ", set by hand"};{" "}
            {each.carried ? "the other’s is taken" : "the kept file’s stays"}.
          </span>
          <Button
            size="small"
            sx={{ py: 0, px: 0.7, fontSize: "0.74rem", whiteSpace: "nowrap" }}
            onClick={() => onChoose(each.field, each.carried ? 0 : each.from_id)}
          >
            {each.carried ? "Keep its own" : "Take the other"}
          </Button>
        </Box>
      ))}
    </Framed>
  );
}

function Framed({ children }: { children: React.ReactNode }) {
  return (
    <Box
      sx={(theme) => ({
        border: `2px solid ${theme.inks.ink}`,
        px: 1.8,
        py: 1.2,
        mt: 1.5,
        fontSize: "0.88rem",
      })}
    >
      {children}
    </Box>
  );
}
