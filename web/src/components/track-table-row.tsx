/** One row of the track table; it can be dragged elsewhere, or among its neighbours. */
import { useDraggable } from "@dnd-kit/core";
import { useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import type { ColumnMeta } from "@tanstack/react-table";
import { memo } from "react";
import type { Track } from "../api/client";
import { CellEdit, type Onward } from "./cell-edit";
import { META, type CellContext } from "./track-columns";
import { typedValue } from "./use-cell-edit";

export interface SleeveActions {
  open: (id: number, place: number) => void;
  click: (place: number, event: React.MouseEvent) => void;
}

export interface RowActions extends SleeveActions {
  /** What was typed into the cell in hand, and where to go on. */
  done: (text: string | null, onward: Onward) => void;
}

export interface RowProps {
  /** Undefined while it is fetched. */
  track: Track | undefined;
  id: number;
  place: number;
  chosen: boolean;
  focused: boolean;
  /** The name of the group that begins with it. */
  begins?: string | undefined;
  top: number;
  height: number;
  grid: string;
  columns: readonly string[];
  /** What is noted on its place. */
  note?: string | undefined;
  /** The column that is typed into, and what was typed there and refused. */
  editing?: string | undefined;
  typed?: string | undefined;
  context: CellContext;
  actions: RowActions;
}

export const rowName = (place: number): string => `track-row-${place}`;

/** A row that is dragged, if at all, by what it lies in. */
export const PlainRow = memo(function PlainRow(props: RowProps) {
  return <Row {...props} handle={STILL} dragging={false} />;
});

const STILL = {};

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

function Row(props: DrawnProps) {
  const { track, id, place, chosen, focused, begins, top, height, grid, columns, note, context, actions } =
    props;
  const { editing, typed } = props;
  const look = `row${focused ? " focused" : ""}${props.dragging ? " dragging" : ""}${begins ? " begins" : ""}`;
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
      style={{ top, height, transform: props.shift, gridTemplateColumns: grid }}
      onClick={(event) => actions.click(place, event)}
      onDoubleClick={() => actions.open(id, place)}
      onContextMenu={(event) => {
        if (!chosen) actions.click(place, event);
      }}
      {...props.handle}
    >
      <span role="gridcell" className="place">
        {place + 1}
      </span>
      {begins && <span className="group">{begins}</span>}
      {track && <Cells track={track} {...{ columns, note, context, editing, typed }} onDone={actions.done} />}
    </div>
  );
}

interface CellsProps {
  track: Track;
  columns: readonly string[];
  note: string | undefined;
  context: CellContext;
  editing: string | undefined;
  typed: string | undefined;
  onDone: RowActions["done"];
}

function classOf(meta: ColumnMeta<Track, unknown> | undefined): string {
  return `cell${meta?.right ? " right" : ""}${meta?.look ? ` ${meta.look}` : ""}`;
}

/** Apart from the row, so that dragging and choosing do not draw them again; drawn when what they show is another. */
const Cells = memo(function Cells(props: CellsProps) {
  const { track, columns, note, context, editing, typed, onDone } = props;
  return columns.map((name) => {
    const meta = META.get(name);
    if (name === editing && meta?.edits)
      return (
        <div key={name} role="gridcell" className="cell">
          <CellEdit
            label={`${name} of ${track.title}`}
            value={typedValue(track, meta.edits)}
            typed={typed}
            onDone={onDone}
          />
        </div>
      );
    return (
      <div key={name} role="gridcell" className={classOf(meta)} data-column={name}>
        {meta?.cell(track, context)}
        {note && name === "Title" && (
          <span className="place-note" title={note}>
            {note}
          </span>
        )}
      </div>
    );
  });
});

interface SleeveProps {
  id: number;
  place: number;
  chosen: boolean;
  focused: boolean;
  box: { top: number; left: number; width: number; height: number };
  actions: SleeveActions;
  children: React.ReactNode;
}

/** A track of the other look: as a row it can be chosen, opened and dragged. */
export function DraggableSleeve(props: SleeveProps) {
  const drag = useDraggable({ id: props.id });
  return (
    <Sleeve {...props} handle={{ ref: drag.setNodeRef, ...drag.listeners }} dragging={drag.isDragging} />
  );
}

type DrawnSleeve = SleeveProps & { handle: object; dragging: boolean };

function Sleeve({ id, place, chosen, focused, box, actions, children, handle, dragging }: DrawnSleeve) {
  return (
    // Keys are the list's, as for rows.
    // eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/interactive-supports-focus
    <div
      role="option"
      id={rowName(place)}
      aria-selected={chosen}
      data-track={id}
      className={`sleeve${focused ? " focused" : ""}${dragging ? " dragging" : ""}`}
      style={box}
      onClick={(event) => actions.click(place, event)}
      onDoubleClick={() => actions.open(id, place)}
      onContextMenu={(event) => {
        if (!chosen) actions.click(place, event);
      }}
      {...handle}
    >
      {children}
    </div>
  );
}
