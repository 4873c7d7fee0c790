/** The Shelf: the whole collection, its index of pictures, a search, and the table. */
import { Box, Button } from "@mui/material";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { useNavigate } from "react-router";
import { counted } from "../../api/changes";
import { idsQuery, picturesQuery } from "../../api/queries";
import { Empty } from "../../components/empty";
import { PutIntoCrate } from "../../components/put-into-crate";
import { TrackTable } from "../../components/track-table";
import { inOrder, useFound, type TrackSource } from "../../components/tracks";
import { useSelection, type Selection } from "../../components/use-selection";
import { rememberQueue } from "../workbench/queue-order";
import { ShelfDragging } from "./crate-drop";
import { Chips, Only, Search } from "./shelf-filters";
import { ShelfIndex } from "./shelf-index";
import { useShelfQuery, type Changes, type Filters } from "./use-shelf-query";

export function ShelfPage() {
  const { filters, found, change, sortBy, clear } = useShelfQuery();
  const source = useFound(found);
  const selection = useSelection(source);
  const pictures = useQuery({
    ...picturesQuery(useDeferredValue(found.where)),
    enabled: source.total !== null,
  }).data;
  const [putting, setPutting] = useState<number[] | null>(null);
  const [cleared, setCleared] = useState(0);
  const open = useOpen(found);
  if (source.library === 0) return <NothingYet />;
  return (
    <ShelfDragging selected={inOrder(source, selection.ids)}>
      {pictures && <ShelfIndex index={pictures} filters={filters} onChange={change} />}
      <FilterBar
        key={cleared}
        filters={filters}
        source={source}
        selection={selection}
        onChange={change}
        onPut={() => setPutting(inOrder(source, selection.ids))}
      />
      {source.total === 0 ? (
        <Empty title="No track is like that">
          <p>Take a filter away, or search for fewer words.</p>
          <Button
            onClick={() => {
              clear();
              setCleared(cleared + 1);
            }}
          >
            Show all tracks
          </Button>
        </Empty>
      ) : (
        <TrackTable
          label="Tracks"
          view={JSON.stringify(found)}
          source={source}
          selection={selection}
          sort={found.sort}
          descending={found.descending}
          onSort={sortBy}
          onOpen={(id) => void open(id)}
          onPutIntoCrate={setPutting}
        />
      )}
      {putting && <PutIntoCrate ids={putting} onClose={() => setPutting(null)} />}
    </ShelfDragging>
  );
}

/** Opens a track on the Workbench, with what the Shelf shows as the list to go through. */
function useOpen(found: Parameters<typeof idsQuery>[0]) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  return async (id: number) => {
    const { ids } = await queries.fetchQuery(idsQuery(found));
    rememberQueue("The Shelf", ids);
    void navigate(`/workbench/${id}`);
  };
}

interface BarProps {
  filters: Filters;
  source: TrackSource;
  selection: Selection;
  onChange: (changes: Changes) => void;
  onPut: () => void;
}

/** The search, the filters that are on, and how much they leave. */
function FilterBar({ filters, source, selection, onChange, onPut }: BarProps) {
  const chosen = selection.ids.size;
  return (
    <Box
      sx={(theme) => ({
        display: "flex",
        alignItems: "center",
        gap: 1,
        px: 2,
        py: 0.7,
        bgcolor: theme.inks.bar,
        borderBlock: 1,
        borderColor: "divider",
        flex: "none",
      })}
    >
      <Search text={filters.q ?? ""} onChange={(q) => onChange({ q })} />
      <Only value={filters.only ?? ""} onChange={onChange} />
      <Chips filters={filters} onChange={onChange} />
      <Box sx={{ flex: 1 }} />
      <Box sx={{ fontSize: "0.8rem", color: "text.secondary" }} data-testid="count">
        <Box component="b" sx={{ color: "text.primary" }}>
          {(source.total ?? 0).toLocaleString("en")}
        </Box>{" "}
        of {counted(source.library ?? 0, "track")}
        {chosen > 1 && `, ${chosen.toLocaleString("en")} chosen`}
      </Box>
      <Button disabled={!chosen} onClick={onPut}>
        Put into a crate…
      </Button>
    </Box>
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
