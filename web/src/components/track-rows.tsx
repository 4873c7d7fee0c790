/** The rows of the track table. */
import { useDraggable } from "@dnd-kit/core";
import { Box } from "@mui/material";
import { getCoreRowModel, useReactTable, type SortingState, type Table } from "@tanstack/react-table";
import { useVirtualizer, type Virtualizer } from "@tanstack/react-virtual";
import { memo, useEffect, useMemo, useRef, useState, type ReactNode } from "react";
import type { Track } from "../api/client";
import { useRate } from "../api/changes";
import type { Sort } from "../api/queries";
import { useSettings, type Density } from "../settings";
import { TYPE_PX } from "../theme";
import { DividerRow } from "./divider-row";
import { step, useLines, type Lines } from "./divided";
import { useTableLook } from "./table-look";
import { COLUMNS, gridOf, type CellContext } from "./track-columns";
import { Head, HEAD_REM } from "./track-table-head";
import { PlainRow, rowName, SortableRow, type RowActions } from "./track-table-row";
import type { LookProps } from "./track-table";
import type { TableLayout } from "./use-table-layout";
import { useCellEdit, type CellHands } from "./use-cell-edit";
import { useFixed } from "./use-fixed";
import { useTableKeys } from "./use-table-keys";

type Rows = Virtualizer<HTMLDivElement, Element>;

/** Heights of rows in rem. */
const ROW_REM: Record<Density, number> = { close: 1.75, usual: 2.375, roomy: 3.25 };

export function TrackRows(props: LookProps) {
  const { source, selection, scroller, layout, label, view } = props;
  const { size, density } = useSettings();
  const rem = TYPE_PX[size];
  const height = Math.round(ROW_REM[density] * rem);
  const lines = useLines(source.total ?? 0, props.dividers);
  const rows: Rows = useVirtualizer({
    count: lines.count,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 16,
    scrollPaddingStart: HEAD_REM * rem,
  });
  useEffect(() => rows.measure(), [rows, height]);
  useEffect(() => rows.scrollToOffset(0), [rows, view]);
  const hands = useCellEdit(props, (place) => rows.scrollToIndex(lines.of(place)));
  useTableKeys(props, {
    page: () => Math.max(1, Math.floor((scroller.current?.clientHeight ?? 400) / height) - 1),
    across: 1,
    reveal: (place) => rows.scrollToIndex(lines.of(place)),
    step: (from, by) => step(lines, from, by),
  });
  return (
    <Box
      ref={scroller}
      role="grid"
      tabIndex={0}
      aria-label={label}
      aria-rowcount={(source.total ?? 0) + 1}
      aria-multiselectable
      aria-activedescendant={selection.focus >= 0 ? rowName(selection.focus) : undefined}
      onContextMenu={props.onMenu}
      // Columns may be wider together than the page.
      data-wide
      sx={{ flex: 1, minWidth: 0, overflow: "auto", outlineOffset: -2 }}
      data-testid="rows"
    >
      <Box sx={{ minWidth: layout.isOwn ? layout.leastPx : undefined }}>
        <Body {...props} rows={rows} height={height} lines={lines} hands={hands} />
      </Box>
    </Box>
  );
}

interface BodyProps extends LookProps {
  rows: Rows;
  height: number;
  lines: Lines;
  hands: CellHands;
}

function Body(props: BodyProps) {
  const { source, selection, rows, height, layout, lines, dividers, hands, sortable = false } = props;
  const items = rows.getVirtualItems();
  // Rows that come take the place of rows that go: text in what is there is sooner changed than rows are made.
  const slots = useSlots(items.length);
  const places = items.map(({ index }) => lines.at(index)).filter((place) => place >= 0);
  const [first, last] = [places[0] ?? 0, places.at(-1) ?? 0];
  const { show } = useFixed({ show: source.show });
  useEffect(() => show(first, last), [show, first, last]);
  const context = useCellContext();
  const grid = gridOf(layout.shown, layout.widths);
  const actions = useHands(props);
  const backed = props.sorts[0]?.sort === "backing";
  const Row = sortable ? SortableRow : PlainRow;
  return (
    <>
      <HeadOf layout={layout} grid={grid} sorts={props.sorts} onSort={props.onSort} />
      <DraggedFrom off={sortable} height={rows.getTotalSize()}>
        {items.map(({ index: line, start }) => {
          const index = lines.at(line);
          const section = dividers?.sections[-1 - index];
          if (dividers && section)
            return (
              <DividerRow key={`divider ${-1 - index}`} {...{ section, dividers, top: start, height }} />
            );
          const id = source.idAt(index);
          return id === undefined ? null : (
            <Row
              key={sortable ? id : line % slots}
              track={source.trackAt(index)}
              id={id}
              place={index}
              chosen={selection.has(id)}
              focused={selection.focus === index}
              begins={backed ? groupBegun(source.trackAt(index - 1), source.trackAt(index)) : undefined}
              top={start}
              height={height}
              grid={grid}
              columns={layout.shown}
              note={props.notes?.[id]}
              editing={hands.cell?.id === id ? hands.cell.column : undefined}
              typed={hands.cell?.id === id ? hands.cell.typed : undefined}
              context={context}
              actions={actions}
            />
          );
        })}
      </DraggedFrom>
    </>
  );
}

/** What rows do: a click on a cell of the one row that is chosen already may mean to type into it. */
function useHands({ selection, hands, onOpen }: BodyProps): RowActions {
  return useFixed<RowActions>({
    open: (id, place) => {
      hands.forget();
      onOpen(id, place);
    },
    click: (place, event) => {
      const again = selection.count === 1 && selection.focus === place && event.detail === 1;
      const plain = !event.shiftKey && !event.ctrlKey && !event.metaKey && event.button === 0;
      if (again && plain) hands.press(place, columnOf(event.target));
      else hands.forget();
      selection.click(place, event);
    },
    done: hands.done,
  });
}

function columnOf(target: EventTarget): string {
  const cell = target instanceof Element ? target.closest("[data-column]") : null;
  return cell?.getAttribute("data-column") ?? "";
}

/** How many rows there are to be drawn in: never fewer than before. */
function useSlots(needed: number): number {
  const [slots, setSlots] = useState(64);
  if (needed > slots) setSlots(needed * 2);
  return Math.max(slots, needed);
}

/** All rows as one thing that is dragged by whichever was pressed: rows that come and go stay light. */
function DraggedFrom({ off, height, children }: { off: boolean; height: number; children: ReactNode }) {
  const pressed = useRef<number | null>(null);
  const { setNodeRef, listeners } = useDraggable({ id: "rows", data: { pressed }, disabled: off });
  const press = (event: React.PointerEvent) => {
    const row = event.target instanceof Element ? event.target.closest("[data-track]") : null;
    pressed.current = row ? Number(row.getAttribute("data-track")) : null;
  };
  return (
    <div
      role="rowgroup"
      ref={setNodeRef}
      style={{ height, position: "relative" }}
      {...(off ? {} : listeners)}
      onPointerDownCapture={press}
    >
      {children}
    </div>
  );
}

function useCellContext(): CellContext {
  const give = useRate();
  const { rate } = useFixed({ rate: (id: number, stars: number) => give.mutate({ ids: [id], stars }) });
  const look = useTableLook();
  return useMemo(() => ({ rate, look }), [rate, look]);
}

interface HeadOfProps {
  layout: TableLayout;
  grid: string;
  sorts: readonly Sort[];
  onSort: (sorts: Sort[]) => void;
}

/** The headings; drawn again when columns or sorts are others, not while one scrolls. */
const HeadOf = memo(
  function HeadOf({ layout, grid, sorts, onSort }: HeadOfProps) {
    const table = useTracksTable(layout, sorts, onSort);
    return <Head columns={table.getVisibleLeafColumns()} grid={grid} layout={layout} />;
  },
  (before, after) =>
    before.grid === after.grid && before.sorts === after.sorts && before.layout.shown === after.layout.shown,
);

/** The name of the group over one backing that begins with a track, in a list that is sorted by them. */
function groupBegun(before: Track | undefined, track: Track | undefined): string | undefined {
  if (!track || before?.backing?.id === track.backing?.id) return undefined;
  return track.backing?.name ?? "No shared backing";
}

/** The table as the headings need it: its columns as they are laid out, and what it is sorted by. */
function useTracksTable(
  layout: TableLayout,
  sorts: readonly Sort[],
  onSort: (sorts: Sort[]) => void,
): Table<Track> {
  const sorting = useMemo(() => sortingOf(sorts), [sorts]);
  const columnVisibility = useMemo(() => visible(layout), [layout]);
  return useReactTable({
    data: NO_TRACKS,
    columns: COLUMNS,
    state: { columnVisibility, columnOrder: [...layout.shown], sorting },
    onSortingChange: (change) => onSort(sortsOf(typeof change === "function" ? change(sorting) : change)),
    manualSorting: true,
    enableSortingRemoval: false,
    maxMultiSortColCount: 4,
    getCoreRowModel: getCoreRowModel(),
    // Without pages of its own there is nothing to go back to the first page of; it would draw everything again for ever.
    autoResetAll: false,
  });
}

const NO_TRACKS: Track[] = [];

function visible(layout: TableLayout): Record<string, boolean> {
  return Object.fromEntries(COLUMNS.map(({ id }) => [id ?? "", layout.shown.includes(id ?? "")]));
}

/** Sorts by the names of their columns, as the table has them, and back. */
function sortingOf(sorts: readonly Sort[]): SortingState {
  return sorts.flatMap(({ sort, descending }) => {
    const column = COLUMNS.find((each) => each.meta?.sort === sort);
    return column?.id ? [{ id: column.id, desc: descending }] : [];
  });
}

function sortsOf(sorting: SortingState): Sort[] {
  return sorting.flatMap(({ id, desc }) => {
    const sort = COLUMNS.find((each) => each.id === id)?.meta?.sort;
    return sort ? [{ sort, descending: desc }] : [];
  });
}
