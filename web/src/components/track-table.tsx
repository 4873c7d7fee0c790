import { useDraggable } from "@dnd-kit/core";
import { useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { Box } from "@mui/material";
import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, useEffect, useMemo, useRef, useState } from "react";
import type { Track } from "../api/client";
import { useRate, type SortName } from "../api/queries";
import { useSettings } from "../settings";
import { KEYS } from "./keys";
import { TemplateDialog } from "./template-dialog";
import { COLUMNS, gridOf, type Column } from "./track-columns";
import { useKeys } from "./use-keys";
import "./table.css";
import { useRows } from "./use-rows";
import type { Selection } from "./use-selection";

const HEAD = 30;

interface Props {
  order: readonly number[];
  selection: Selection;
  sort: SortName;
  descending: boolean;
  onSort?: (sort: SortName) => void;
  onOpen: (id: number) => void;
  onPutIntoCrate: (ids: number[]) => void;
  /** Rows can be dragged among themselves, not only elsewhere. */
  sortable?: boolean;
  /** Names of columns to leave out. */
  without?: readonly string[];
  label: string;
  /** What is shown; when it becomes something else, the table starts from its top. */
  view: string;
}

const NONE: readonly string[] = [];
/** What gives way to large type. */
const TOO_WIDE = ["LUFS", "Style", "Energy"];

/** Tracks as rows of a ledger: any number of them, only those in sight drawn. */
export function TrackTable({
  order,
  selection,
  sort,
  descending,
  onSort,
  onOpen,
  onPutIntoCrate,
  sortable = false,
  without = NONE,
  label,
  view,
}: Props) {
  const { size } = useSettings();
  const columns = useMemo(() => {
    const left = size === "large" ? [...without, ...TOO_WIDE] : without;
    return COLUMNS.filter((column) => !left.includes(column.name));
  }, [without, size]);
  const height = size === "large" ? 52 : 38;
  const [templateFor, setTemplateFor] = useState<number[] | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: order.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 16,
    scrollPaddingStart: HEAD,
  });
  useEffect(() => rows.measure(), [rows, height]);
  const items = rows.getVirtualItems();
  const tracks = useRows(order, items[0]?.index ?? 0, items.at(-1)?.index ?? 0);
  const rate = useRate();
  const actions = useRowActions({
    open: onOpen,
    click: selection.click,
    rate: (id, stars) => rate.mutate({ ids: [id], stars }),
  });
  useEffect(() => rows.scrollToOffset(0), [rows, view]);
  const chosen = () => order.filter((id) => selection.ids.has(id));

  const moveTo = (to: number, extend: boolean) => {
    selection.move(to, extend);
    rows.scrollToIndex(Math.max(0, Math.min(order.length - 1, to)));
  };
  const page = () => Math.max(1, Math.floor((scroller.current?.clientHeight ?? 400) / height) - 1);
  useKeys("up, shift+up", (e) => moveTo(selection.focus - 1, e.shiftKey));
  useKeys("down, shift+down", (e) => moveTo(selection.focus + 1, e.shiftKey));
  useKeys("pageup, shift+pageup", (e) => moveTo(selection.focus - page(), e.shiftKey));
  useKeys("pagedown, shift+pagedown", (e) => moveTo(selection.focus + page(), e.shiftKey));
  useKeys("home, shift+home", (e) => moveTo(0, e.shiftKey));
  useKeys("end, shift+end", (e) => moveTo(order.length - 1, e.shiftKey));
  useKeys(KEYS.lists.all, () => selection.all());
  useKeys(KEYS.lists.none, () => selection.clear());
  useKeys(KEYS.lists.open, () => {
    const id = order[selection.focus];
    if (id !== undefined) onOpen(id);
  });
  useKeys(KEYS.lists.crate, () => selection.ids.size && onPutIntoCrate(chosen()));
  useKeys(KEYS.lists.template, () => selection.ids.size && setTemplateFor(chosen()));
  useKeys(KEYS.lists.rate, (e) => {
    const stars = Number(e.key);
    if (selection.ids.size) rate.mutate({ ids: chosen(), stars });
  });

  return (
    <Box
      role="grid"
      aria-label={label}
      aria-rowcount={order.length}
      aria-multiselectable
      sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column" }}
    >
      <Box
        ref={scroller}
        tabIndex={0}
        aria-label={`${label}, rows`}
        sx={{ flex: 1, overflow: "auto", outlineOffset: -2 }}
        data-testid="rows"
      >
        <Head columns={columns} sort={sort} descending={descending} onSort={onSort} />
        <Box sx={{ height: rows.getTotalSize(), position: "relative" }}>
          {items.map((item) => {
            const id = order[item.index];
            if (id === undefined) return null;
            const shared = {
              columns,
              track: tracks.get(id),
              id,
              place: item.index,
              chosen: selection.ids.has(id),
              focused: selection.focus === item.index,
              top: item.start,
              height,
              actions,
            };
            return sortable ? <SortableRow key={id} {...shared} /> : <DraggableRow key={id} {...shared} />;
          })}
        </Box>
      </Box>
      {templateFor && <TemplateDialog ids={templateFor} onClose={() => setTemplateFor(null)} />}
    </Box>
  );
}

/** The same functions for ever, doing what the newest ones do: so rows are drawn again only when they show something else. */
function useRowActions(newest: RowActions): RowActions {
  const latest = useRef(newest);
  useEffect(() => {
    latest.current = newest;
  });
  return useMemo(
    () => ({
      open: (id) => latest.current.open(id),
      rate: (id, stars) => latest.current.rate(id, stars),
      click: (place, event) => latest.current.click(place, event),
    }),
    [],
  );
}

function Head({
  columns,
  sort,
  descending,
  onSort,
}: {
  columns: Column[];
  sort: SortName;
  descending: boolean;
  onSort?: (sort: SortName) => void;
}) {
  return (
    <Box
      role="row"
      sx={(theme) => ({
        display: "grid",
        gridTemplateColumns: gridOf(columns),
        columnGap: "12px",
        px: "16px",
        height: HEAD,
        alignItems: "center",
        borderBottom: `2px solid ${theme.inks.ink}`,
        position: "sticky",
        top: 0,
        zIndex: 1,
        bgcolor: "background.paper",
      })}
    >
      <span />
      {columns.map((column) => {
        const { sort: name } = column;
        const active = name === sort;
        return (
          <Box
            key={column.name}
            role="columnheader"
            aria-sort={active ? (descending ? "descending" : "ascending") : undefined}
            sx={{ textAlign: column.align, fontSize: "0.76rem", fontWeight: 600, minWidth: 0 }}
          >
            {name && onSort ? (
              <Box
                component="button"
                type="button"
                onClick={() => onSort(name)}
                sx={(theme) => ({
                  font: "inherit",
                  border: 0,
                  p: 0,
                  background: "none",
                  cursor: "pointer",
                  color: active ? theme.inks.ink : theme.inks.faint,
                })}
              >
                {column.name}
                {active && (descending ? " ↓" : " ↑")}
              </Box>
            ) : (
              <Box component="span" sx={{ color: "text.secondary" }}>
                {column.name}
              </Box>
            )}
          </Box>
        );
      })}
    </Box>
  );
}

interface RowActions {
  open: (id: number) => void;
  rate: (id: number, stars: number) => void;
  click: (place: number, event: React.MouseEvent) => void;
}

interface RowProps {
  columns: Column[];
  track: Track | undefined;
  id: number;
  place: number;
  chosen: boolean;
  focused: boolean;
  top: number;
  height: number;
  actions: RowActions;
}

const DraggableRow = memo(function DraggableRow(props: RowProps) {
  const drag = useDraggable({ id: props.id });
  return <Row {...props} handle={{ ref: drag.setNodeRef, ...drag.listeners }} dragging={drag.isDragging} />;
});

const SortableRow = memo(function SortableRow(props: RowProps) {
  const drag = useSortable({ id: props.id });
  return (
    <Row
      {...props}
      handle={{ ref: drag.setNodeRef, ...drag.listeners }}
      dragging={drag.isDragging}
      shift={CSS.Translate.toString(drag.transform)}
    />
  );
});

function Row({
  columns,
  track,
  id,
  place,
  chosen,
  focused,
  top,
  height,
  actions,
  handle,
  dragging,
  shift,
}: RowProps & { handle: object; dragging: boolean; shift?: string }) {
  const look = `row${focused ? " focused" : ""}${dragging ? " dragging" : ""}`;
  return (
    <div
      role="row"
      aria-selected={chosen}
      aria-rowindex={place + 1}
      data-track={id}
      className={look}
      style={{ top, height, transform: shift, gridTemplateColumns: gridOf(columns) }}
      onClick={(event) => actions.click(place, event)}
      onDoubleClick={() => actions.open(id)}
      {...handle}
    >
      <span className="place">{place + 1}</span>
      {track && <Cells columns={columns} track={track} rate={actions.rate} />}
    </div>
  );
}

/** Apart from the row, so that dragging and choosing do not draw them again. */
const Cells = memo(function Cells({
  columns,
  track,
  rate,
}: {
  columns: Column[];
  track: Track;
  rate: RowActions["rate"];
}) {
  return columns.map((column) => (
    <div key={column.name} role="gridcell" className={column.align ? "cell right" : "cell"}>
      {column.show(track, (stars) => rate(track.id, stars))}
    </div>
  ));
});
