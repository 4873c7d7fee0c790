/** A folder shown as one list: what its crates hold, each track once. */
import { Box, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted } from "../../api/changes";
import type { Crate, Picked } from "../../api/client";
import { ruleCountsQuery, type Sort } from "../../api/queries";
import { WithSide } from "../../components/with-side";
import { Empty } from "../../components/empty";
import { playingTime } from "../../components/format";
import { PutIntoCrate } from "../../components/put-into-crate";
import { TrackTable } from "../../components/track-table";
import { ShelfDragging } from "../shelf/crate-drop";
import { ListMenu } from "./list-menu";
import { Note } from "./note";
import { useDividers } from "./use-dividers";
import { useFilled, useOpenFilled } from "./use-filled";

const LEFT_OUT = ["LUFS", "Added"];
const BY_TITLE: Sort[] = [{ sort: "title", descending: false }];

export function FolderCrate({ folder, cards }: { folder: Crate; cards: React.ReactNode }) {
  const { source, selection, sorts, setSorts, ids } = useFilled(folder, BY_TITLE);
  const { dividers } = useDividers(folder, sorts, false);
  const [putting, setPutting] = useState<Picked | null>(null);
  const open = useOpenFilled(folder, ids);
  const count = useQuery(ruleCountsQuery).data?.get(folder.id);
  return (
    <ShelfDragging selection={selection} shown>
      <WithSide name="the crates" remembered="crates side folded" side={cards}>
        <Box sx={{ display: "flex", flexDirection: "column", minHeight: 0 }}>
          <Box sx={{ display: "flex", alignItems: "center", gap: 1, px: 2, pt: 1.6, pb: 1 }}>
            <Box sx={{ flex: 1, minWidth: 0 }}>
              <Typography variant="h1" noWrap>
                {folder.name}
              </Typography>
              <Typography variant="overline">
                {count ? `${counted(count.tracks, "track")}, ${playingTime(count.duration_s)}, ` : ""}all that
                is in this folder, each once
              </Typography>
              <Note crate={folder} />
            </Box>
            <ListMenu crate={folder} sorts={sorts} />
          </Box>
          {source.total === 0 ? (
            <Empty title="Nothing is in this folder">
              <p>Drag crates onto it, or make one in it.</p>
            </Empty>
          ) : (
            <TrackTable
              label={`Tracks of ${folder.name}`}
              list={`crate.${folder.id}`}
              source={source}
              selection={selection}
              sorts={sorts}
              onSort={setSorts}
              onOpen={open}
              onPutIntoCrate={setPutting}
              dividers={dividers}
              without={LEFT_OUT}
              view={`${folder.id} ${JSON.stringify(sorts)}`}
            />
          )}
        </Box>
      </WithSide>
      {putting && <PutIntoCrate picked={putting} onClose={() => setPutting(null)} />}
    </ShelfDragging>
  );
}
