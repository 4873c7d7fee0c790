/** The crates at the side, which fold away, and what is open beside them. */
import { Box } from "@mui/material";
import type { ReactNode } from "react";
import { KEYS } from "../../components/keys";
import { FoldSign, Strip } from "../../components/strip";
import { useKeys } from "../../components/use-keys";
import { useRemembered } from "../../settings";

export function WithCards({ cards, children }: { cards: ReactNode; children: ReactNode }) {
  const [folded, setFolded] = useRemembered("crates side folded", false);
  const entry = KEYS.lists.foldSide;
  const fold = () => setFolded(!folded);
  useKeys(entry, fold);
  return (
    <Box
      sx={{
        ...{ flex: 1, minHeight: 0, display: "grid" },
        gridTemplateColumns: folded ? "auto minmax(0, 1fr)" : "250px minmax(0, 1fr)",
      }}
    >
      {folded ? (
        <Strip name="the crates" entry={entry} side="left" onClick={fold} />
      ) : (
        <Box sx={{ position: "relative", minHeight: 0, display: "grid" }}>
          {cards}
          <Box sx={{ position: "absolute", right: 2, bottom: 2 }}>
            <FoldSign name="the crates" entry={entry} side="left" onClick={fold} />
          </Box>
        </Box>
      )}
      {children}
    </Box>
  );
}
