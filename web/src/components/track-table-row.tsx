/** One row of the track table; it can be dragged elsewhere, or among its neighbours. */
import { useDraggable } from "@dnd-kit/core";
import { useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { flexRender, type Row as TableRow } from "@tanstack/react-table";
import { memo } from "react";
import type { Track } from "../api/client";
import { useFixed } from "./use-fixed";

export interface RowActions {
  open: (id: number) => void;
  click: (place: number, event: React.MouseEvent) => void;
}

export interface RowProps {
  row: TableRow<Track> | undefined;
  id: number;
  place: number;
  chosen: boolean;
  focused: boolean;
  top: number;
  height: number;
  grid: string;
  actions: RowActions;
}

export const rowName = (place: number): string => `track-row-${place}`;

export const DraggableRow = memo(function DraggableRow(props: RowProps) {
  const drag = useDraggable({ id: props.id });
  return <Row {...props} handle={{ ref: drag.setNodeRef, ...drag.listeners }} dragging={drag.isDragging} />;
});

export const SortableRow = memo(function SortableRow(props: RowProps) {
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

type DrawnProps = RowProps & { handle: object; dragging: boolean; shift?: string };

function Row({
  row,
  id,
  place,
  chosen,
  focused,
  top,
  height,
  grid,
  actions,
  handle,
  dragging,
  shift,
}: DrawnProps) {
  const look = `row${focused ? " focused" : ""}${dragging ? " dragging" : ""}`;
  return (
    // Keys are the table's: it has the focus and says by aria-activedescendant which row they act on.
    // eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/interactive-supports-focus
    <div
      role="row"
      id={rowName(place)}
      aria-selected={chosen}
      aria-rowindex={place + 2}
      data-track={id}
      className={look}
      style={{ top, height, transform: shift, gridTemplateColumns: grid }}
      onClick={(event) => actions.click(place, event)}
      onDoubleClick={() => actions.open(id)}
      {...handle}
    >
      <span role="gridcell" className="place">
        {place + 1}
      </span>
      {row && <Cells row={row} track={row.original} />}
    </div>
  );
}

/** Apart from the row, so that dragging and choosing do not draw them again; drawn when the track is another. */
const Cells = memo(
  function Cells({ row }: { row: TableRow<Track>; track: Track }) {
    return row.getVisibleCells().map((cell) => (
      <div
        key={cell.id}
        role="gridcell"
        className={cell.column.columnDef.meta?.right ? "cell right" : "cell"}
      >
        {flexRender(cell.column.columnDef.cell, cell.getContext())}
      </div>
    ));
  },
  (before, after) =>
    before.track === after.track &&
    before.row.getVisibleCells().length === after.row.getVisibleCells().length,
);

/** The same functions for ever, doing what the newest ones do: so rows are drawn again only when they show something else. */
export function useRowActions(newest: RowActions): RowActions {
  return useFixed(newest);
}
