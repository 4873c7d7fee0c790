/** The Shelf: the whole collection, its index of pictures, a search, and the table. */
import { Box, Button } from "@mui/material";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { counted } from "../../api/changes";
import type { Picked } from "../../api/client";
import { idsQuery, picturesQuery, type Found, type PictureName, type Sort } from "../../api/queries";
import { Empty } from "../../components/empty";
import { KEYS } from "../../components/keys";
import { PutIntoCrate } from "../../components/put-into-crate";
import { TrackTable } from "../../components/track-table";
import { useFound, type TrackSource } from "../../components/tracks";
import { useFixed } from "../../components/use-fixed";
import { useKeys } from "../../components/use-keys";
import { useRested } from "../../components/use-rested";
import { useSelection } from "../../components/use-selection";
import { LONGEST, rememberQueue } from "../workbench/queue-order";
import { ShelfDragging } from "./crate-drop";
import { useShownPictures, type Shown } from "./pictures";
import { SearchLine } from "./search-line";
import { Chips, Only } from "./shelf-filters";
import { PictureChoice, ShelfIndex } from "./shelf-index";
import { KeepAsRule } from "./keep-as-rule";
import { conditionOf, useShelfQuery, type Changes, type Filters } from "./use-shelf-query";

export function ShelfPage() {
  const { filters, marked, found, sorts, change, sortBy, clear } = useShelfQuery();
  const source = useFound(found);
  const selection = useSelection(source);
  const shown = useShownPictures();
  const rested = useRested(filters.q, REST_MS) === filters.q;
  const pictures = usePictures(found, shown, source.settled && rested);
  const [putting, setPutting] = useState<Picked | null>(null);
  const [cleared, setCleared] = useState(0);
  const open = useOpen(found);
  // Rows that are still those of the words before are not chosen.
  const { toRows } = useFixed({ toRows: () => source.settled && selection.move(0, false) });
  useKeys(KEYS.lists.pictures, shown.fold);
  if (source.library === 0) return <NothingYet />;
  const showAll = () => {
    clear();
    setCleared(cleared + 1);
  };
  return (
    <ShelfDragging selection={selection}>
      {pictures && <ShelfIndex index={pictures} filters={marked} onChange={change} shown={shown} />}
      <FilterBar
        key={cleared}
        filters={filters}
        marked={marked}
        source={source}
        sorts={sorts}
        shown={shown}
        onChange={change}
        onRows={toRows}
      />
      {source.failure !== null ? (
        <Empty title="This could not be read">{source.failure}</Empty>
      ) : source.total === 0 ? (
        <NothingFound onShowAll={showAll} />
      ) : (
        <TrackTable
          list="shelf"
          label="Tracks"
          view={JSON.stringify(found)}
          source={source}
          selection={selection}
          sorts={sorts}
          onSort={sortBy}
          onOpen={(id, place) => void open(id, place)}
          onPutIntoCrate={setPutting}
        />
      )}
      {putting && <PutIntoCrate picked={putting} onClose={() => setPutting(null)} />}
    </ShelfDragging>
  );
}

/** For so long nobody has typed before the pictures are counted again. */
const REST_MS = 400;

/** The counts of the pictures that stand there, asked for once the rows have come. */
function usePictures(found: Found, { pictures, folded }: Shown, ready: boolean) {
  const names = pictures.filter((picture): picture is PictureName => !picture.startsWith("tags "));
  const tags = names.length < pictures.length;
  return useQuery({ ...picturesQuery(found.where, names, tags), enabled: ready && !folded }).data;
}

/** Opens a track on the Workbench, with what the Shelf shows around it as the list to go through. */
function useOpen(found: Found) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  return async (id: number, place: number) => {
    const first = Math.max(0, place - LONGEST / 2);
    const { ids } = await queries.fetchQuery(idsQuery(found, first, LONGEST));
    rememberQueue("The Shelf", ids);
    void navigate(`/workbench/${id}`);
  };
}

interface BarProps {
  filters: Filters;
  /** The filters without the words. */
  marked: Filters;
  source: TrackSource;
  sorts: readonly Sort[];
  shown: Shown;
  onChange: (changes: Changes) => void;
  onRows: () => void;
}

/** The search, the filters that are on, and how much they leave. */
function FilterBar({ filters, marked, source, sorts, shown, onChange, onRows }: BarProps) {
  const [begun] = useState(filters.q ?? "");
  return (
    <Box
      sx={(theme) => ({
        display: "flex",
        alignItems: "center",
        flexWrap: "wrap",
        gap: 1,
        px: 2,
        py: 0.7,
        bgcolor: theme.inks.bar,
        borderBlock: 1,
        borderColor: "divider",
        flex: "none",
      })}
    >
      <SearchLine begun={begun} marked={marked} onChange={onChange} onRows={onRows} />
      <Only value={filters.only ?? ""} onChange={onChange} />
      <Chips filters={marked} onChange={onChange} />
      <KeepAsRule
        where={conditionOf({ ...filters, ...(source.readAs && { q: source.readAs }) })}
        sorts={sorts}
      />
      {source.readAs && (
        <Box role="status" sx={{ fontSize: "0.8rem", color: "warning.main" }}>
          Nothing is written so; found as “{source.readAs}”
        </Box>
      )}
      <Box sx={{ flex: 1 }} />
      <Box sx={{ fontSize: "0.8rem", color: "text.secondary" }} data-testid="count">
        {source.total !== null && (
          <>
            <Box component="b" sx={{ color: "text.primary" }}>
              {source.total.toLocaleString("en")}
            </Box>{" "}
            of {counted(source.library ?? 0, "track")}
          </>
        )}
      </Box>
      <PictureChoice chosen={shown} />
    </Box>
  );
}

function NothingFound({ onShowAll }: { onShowAll: () => void }) {
  return (
    <Empty title="No track is like that">
      <p>Take a filter away, or search for fewer words.</p>
      <Button onClick={onShowAll}>Show all tracks</Button>
    </Empty>
  );
}

function NothingYet() {
  const navigate = useNavigate();
  return (
    <Empty title="The Shelf is empty">
      <p>Bring music in first: Vinyl reads it where it lies.</p>
      <Button variant="contained" color="error" onClick={() => void navigate("/arrivals")}>
        Go to Arrivals
      </Button>
    </Empty>
  );
}
