/** Tracks as rows of a ledger: any number of them, only those in sight fetched and drawn. */
import { Box } from "@mui/material";
import { getCoreRowModel, useReactTable, type Table } from "@tanstack/react-table";
import { useVirtualizer, type Virtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef, useState } from "react";
import type { Track } from "../api/client";
import { useRate } from "../api/changes";
import type { SortName } from "../api/queries";
import { useSettings } from "../settings";
import { TYPE_PX } from "../theme";
import { AnalyseDialog } from "./analyse-dialog";
import { KEYS } from "./keys";
import { RepairDialog } from "./repair-dialog";
import { RereadDialog } from "./reread-dialog";
import { TemplateDialog } from "./template-dialog";
import { TrackActions } from "./track-actions";
import { COLUMNS, leftOut, PLACE_REM } from "./track-columns";
import { Head, HEAD } from "./track-table-head";
import { DraggableRow, rowName, SortableRow, useRowActions, type RowActions } from "./track-table-row";
import { inOrder, type TrackSource } from "./tracks";
import { useFixed } from "./use-fixed";
import type { Selection } from "./use-selection";
import { useWidth } from "./use-width";
import { useTableKeys } from "./use-table-keys";
import { WriteDialog } from "./write-dialog";
import "./table.css";

export interface TrackTableProps {
  source: TrackSource;
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

/** A dialog about the chosen tracks. */
interface Asked {
  what: (props: { ids: number[]; onClose: () => void }) => React.ReactNode;
  ids: number[];
}

type Rows = Virtualizer<HTMLDivElement, Element>;
const NONE: readonly string[] = [];

export function TrackTable(props: TrackTableProps) {
  const { source, selection, label, view } = props;
  const { size } = useSettings();
  const height = size === "large" ? 52 : 38;
  const scroller = useRef<HTMLDivElement>(null);
  const room = useWidth(scroller);
  const [asked, setAsked] = useState<Asked | null>(null);
  const rows: Rows = useVirtualizer({
    count: source.total ?? 0,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 16,
    scrollPaddingStart: HEAD,
  });
  useEffect(() => rows.measure(), [rows, height]);
  useEffect(() => rows.scrollToOffset(0), [rows, view]);
  useTableKeys(props, {
    page: () => Math.max(1, Math.floor((scroller.current?.clientHeight ?? 400) / height) - 1),
    reveal: (place) => rows.scrollToIndex(place),
    useTemplate: (ids) => setAsked({ what: TemplateDialog, ids }),
    repair: (ids) => setAsked({ what: RepairDialog, ids }),
    reread: (ids) => setAsked({ what: RereadDialog, ids }),
    analyse: (ids) => setAsked({ what: AnalyseDialog, ids }),
    write: (ids) => setAsked({ what: WriteDialog, ids }),
  });
  const ask = (what: Asked["what"]) => () => setAsked({ what, ids: inOrder(source, selection.ids) });
  const active = selection.focus >= 0 ? rowName(selection.focus) : undefined;
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column" }}>
      <Box
        ref={scroller}
        role="grid"
        tabIndex={0}
        aria-label={label}
        aria-rowcount={(source.total ?? 0) + 1}
        aria-multiselectable
        aria-activedescendant={active}
        sx={{ flex: 1, overflow: "auto", outlineOffset: -2 }}
        data-testid="rows"
      >
        <Body {...props} rows={rows} height={height} room={room} />
      </Box>
      <TrackActions
        chosen={selection.ids.size}
        actions={[
          { words: "Use a cue template", at: KEYS.lists.template, act: ask(TemplateDialog) },
          { words: "Analyse", at: KEYS.lists.analyse, act: ask(AnalyseDialog) },
          { words: "Repair texts", at: KEYS.lists.repair, act: ask(RepairDialog) },
          { words: "Read tags again", at: KEYS.lists.reread, act: ask(RereadDialog) },
          { words: "Write into files", at: KEYS.lists.write, act: ask(WriteDialog) },
        ]}
      />
      {asked && <asked.what ids={asked.ids} onClose={() => setAsked(null)} />}
    </Box>
  );
}

function Body(props: TrackTableProps & { rows: Rows; height: number; room: number }) {
  const { source, selection, rows, height, sort, descending, onSort, onOpen, sortable = false } = props;
  const items = rows.getVirtualItems();
  const [first, last] = [items[0]?.index ?? 0, items.at(-1)?.index ?? 0];
  const { show } = useFixed({ show: source.show });
  useEffect(() => show(first, last), [show, first, last]);
  const table = useTracksTable(
    items.flatMap((item) => source.trackAt(item.index) ?? []),
    props.without ?? NONE,
    props.room,
  );
  const columns = table.getVisibleLeafColumns();
  const grid = `${PLACE_REM}rem ${columns.map((column) => column.columnDef.meta?.width).join(" ")}`;
  const actions: RowActions = useRowActions({ open: onOpen, click: selection.click });
  const byId = new Map(table.getRowModel().rows.map((row) => [row.original.id, row]));
  const Row = sortable ? SortableRow : DraggableRow;
  return (
    <>
      <Head columns={columns} grid={grid} sort={sort} descending={descending} onSort={onSort} />
      <Box role="rowgroup" sx={{ height: rows.getTotalSize(), position: "relative" }}>
        {items.map(({ index, start }) => {
          const id = source.idAt(index);
          return id === undefined ? null : (
            <Row
              key={id}
              row={byId.get(id)}
              id={id}
              place={index}
              chosen={selection.ids.has(id)}
              focused={selection.focus === index}
              top={start}
              height={height}
              grid={grid}
              actions={actions}
            />
          );
        })}
      </Box>
    </>
  );
}

/** The table of the tracks in sight: its columns, without those that are left out or have no room. */
function useTracksTable(data: Track[], without: readonly string[], room: number): Table<Track> {
  const { size } = useSettings();
  const give = useRate();
  const { rate } = useFixed({ rate: (id: number, stars: number) => give.mutate({ ids: [id], stars }) });
  const columnVisibility = useMemo(() => {
    const left = leftOut(without, room, TYPE_PX[size]);
    return Object.fromEntries(left.map((name) => [name, false]));
  }, [without, room, size]);
  return useReactTable({
    data,
    columns: COLUMNS,
    state: { columnVisibility },
    meta: { rate },
    getCoreRowModel: getCoreRowModel(),
    getRowId: (track) => String(track.id),
    // Without pages of its own there is nothing to go back to the first page of; it would draw everything again for ever.
    autoResetAll: false,
  });
}
