/** Something at the left side, which folds away, and what is open beside it. */
import { Box } from "@mui/material";
import type { ReactNode } from "react";
import { useRemembered } from "../settings";
import { KEYS } from "./keys";
import { FoldSign, Strip } from "./strip";
import { useKeys } from "./use-keys";

interface Props {
  /** As it is said after "Fold:". */
  name: string;
  /** Under which name it is remembered whether it is folded. */
  remembered: string;
  foldedAtFirst?: boolean;
  side: ReactNode;
  children: ReactNode;
}

export function WithSide({ name, remembered, foldedAtFirst = false, side, children }: Props) {
  const [folded, setFolded] = useRemembered(remembered, foldedAtFirst);
  const entry = KEYS.lists.foldSide;
  const fold = () => setFolded(!folded);
  useKeys(entry, fold);
  return (
    <Box
      sx={{
        ...{ flex: 1, minHeight: 0, display: "grid", gridTemplateRows: "minmax(0, 1fr)" },
        gridTemplateColumns: folded ? "auto minmax(0, 1fr)" : "250px minmax(0, 1fr)",
      }}
    >
      {folded ? (
        <Strip name={name} entry={entry} side="left" onClick={fold} />
      ) : (
        <Box sx={{ position: "relative", minHeight: 0, display: "grid" }}>
          {side}
          <Box sx={{ position: "absolute", right: 2, bottom: 2 }}>
            <FoldSign name={name} entry={entry} side="left" onClick={fold} />
          </Box>
        </Box>
      )}
      {children}
    </Box>
  );
}
