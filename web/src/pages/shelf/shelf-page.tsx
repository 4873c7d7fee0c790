import {
  DndContext,
  DragOverlay,
  MeasuringStrategy,
  PointerSensor,
  pointerWithin,
  useSensor,
  useSensors,
  type DragEndEvent,
} from "@dnd-kit/core";
import { Box, Button, Chip, InputBase } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { useNavigate } from "react-router";
import { counted, indexQuery, orderQuery, usePutIntoCrate } from "../../api/queries";
import { Empty } from "../../components/empty";
import { PutIntoCrate } from "../../components/put-into-crate";
import { TrackTable } from "../../components/track-table";
import { useSelection } from "../../components/use-selection";
import { rememberQueue } from "../workbench/queue-order";
import { CrateDrop, crateOf } from "./crate-drop";
import { ShelfIndex } from "./shelf-index";
import { useShelfQuery, type Filters } from "./use-shelf-query";

const NONE: number[] = [];
/** The crates to drop on appear only after a drag has begun. */
const MEASURING = { droppable: { strategy: MeasuringStrategy.Always } };

/** The whole collection: its index of pictures, a search, and the table. */
export function ShelfPage() {
  const { query, change, sortBy, clear } = useShelfQuery();
  const navigate = useNavigate();
  const order = useQuery(orderQuery(query));
  const index = useQuery({ ...indexQuery(useDeferredValue(query)), enabled: order.isSuccess }).data;
  const ids = order.data?.ids ?? NONE;
  const selection = useSelection(ids);
  const [putting, setPutting] = useState<number[] | null>(null);
  const [cleared, setCleared] = useState(0);
  const showAll = () => {
    clear();
    setCleared(cleared + 1);
  };
  const open = (id: number) => {
    rememberQueue("The Shelf", ids);
    void navigate(`/workbench/${id}`);
  };
  if (order.data?.total === 0) {
    return (
      <Empty title="The Shelf is empty">
        <p>Bring music in first: Vinyl reads it where it lies.</p>
        <Button variant="contained" color="error" onClick={() => void navigate("/arrivals")}>
          Go to Arrivals
        </Button>
      </Empty>
    );
  }
  return (
    <Dragging selected={selection.ids} order={ids}>
      {index && <ShelfIndex index={index} query={query} onChange={change} />}
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
        <Search key={cleared} text={query.q ?? ""} onChange={(q) => change({ q })} />
        <Chips query={query} onChange={change} />
        <Box sx={{ flex: 1 }} />
        <Box sx={{ fontSize: "0.8rem", color: "text.secondary" }} data-testid="count">
          <Box component="b" sx={{ color: "text.primary" }}>
            {ids.length.toLocaleString("en")}
          </Box>{" "}
          of {counted(order.data?.total ?? 0, "track")}
          {selection.ids.size > 1 && `, ${selection.ids.size.toLocaleString("en")} chosen`}
        </Box>
        <Button
          disabled={!selection.ids.size}
          onClick={() => setPutting(ids.filter((id) => selection.ids.has(id)))}
        >
          Put into a crate…
        </Button>
      </Box>
      {order.data && !ids.length ? (
        <Empty title="No track is like that">
          <p>Take a filter away, or search for fewer words.</p>
          <Button onClick={showAll}>Show all tracks</Button>
        </Empty>
      ) : (
        <TrackTable
          label="Tracks"
          view={JSON.stringify(query)}
          order={ids}
          selection={selection}
          sort={query.sort ?? "added_at"}
          descending={query.descending ?? false}
          onSort={sortBy}
          onOpen={open}
          onPutIntoCrate={setPutting}
        />
      )}
      {putting && <PutIntoCrate ids={putting} onClose={() => setPutting(null)} />}
    </Dragging>
  );
}

/** Dragging rows opens a panel of crates to drop them on. */
function Dragging({
  selected,
  order,
  children,
}: {
  selected: ReadonlySet<number>;
  order: readonly number[];
  children: React.ReactNode;
}) {
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const put = usePutIntoCrate();
  const [dragged, setDragged] = useState<number[] | null>(null);
  const drop = (event: DragEndEvent) => {
    const crate = crateOf(event.over);
    if (crate && dragged) put.mutate({ crate, ids: dragged });
    setDragged(null);
  };
  return (
    <DndContext
      sensors={sensors}
      autoScroll={false}
      collisionDetection={pointerWithin}
      measuring={MEASURING}
      onDragEnd={drop}
      onDragCancel={() => setDragged(null)}
      onDragStart={({ active }) =>
        setDragged(
          selected.has(Number(active.id)) ? order.filter((id) => selected.has(id)) : [Number(active.id)],
        )
      }
    >
      {children}
      {dragged && <CrateDrop />}
      <DragOverlay dropAnimation={null}>
        {dragged && (
          <Box
            sx={{
              display: "inline-block",
              bgcolor: "secondary.main",
              color: "secondary.contrastText",
              px: 1.5,
              py: 0.6,
              borderRadius: "4px",
              fontWeight: 600,
              boxShadow: 3,
            }}
          >
            {counted(dragged.length, "track")}
          </Box>
        )}
      </DragOverlay>
    </DndContext>
  );
}

function Search({ text, onChange }: { text: string; onChange: (text: string) => void }) {
  return (
    <InputBase
      id="shelf-search"
      defaultValue={text}
      placeholder="Find by title, artist, album, style or label"
      onChange={(e) => onChange(e.target.value)}
      onKeyDown={(e) => {
        if (e.key === "Escape") {
          (e.target as HTMLInputElement).value = "";
          onChange("");
          (e.target as HTMLElement).blur();
        } else if (e.key === "Enter" || e.key === "ArrowDown") {
          e.preventDefault();
          (e.target as HTMLElement).blur();
        }
      }}
      inputProps={{ "aria-label": "Find on the Shelf" }}
      sx={(theme) => ({
        width: 310,
        bgcolor: "background.paper",
        border: `2px solid ${theme.inks.ink}`,
        borderRadius: "4px",
        px: 1.2,
        fontSize: "0.9rem",
        height: 30,
      })}
    />
  );
}

function Chips({
  query,
  onChange,
}: {
  query: Filters;
  onChange: (changes: Partial<Record<keyof Filters, null>>) => void;
}) {
  const chips: { text: string; drop: Partial<Record<keyof Filters, null>> }[] = [];
  if (query.bpm_from !== undefined || query.bpm_to !== undefined)
    chips.push({
      text: `tempo ${query.bpm_from ?? ""} to ${query.bpm_to ?? ""}`,
      drop: { bpm_from: null, bpm_to: null },
    });
  if (query.key) chips.push({ text: `key fits ${query.key}`, drop: { key: null } });
  if (query.genre) chips.push({ text: query.genre, drop: { genre: null } });
  if (query.month) chips.push({ text: `added ${query.month}`, drop: { month: null } });
  if (query.rating_from)
    chips.push({ text: `${query.rating_from} stars or more`, drop: { rating_from: null } });
  return chips.map(({ text, drop }) => (
    <Chip
      key={text}
      label={text}
      color="secondary"
      size="small"
      onDelete={() => onChange(drop)}
      sx={{ borderRadius: "3px", fontWeight: 600 }}
    />
  ));
}
