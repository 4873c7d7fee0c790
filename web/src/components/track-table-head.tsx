/** The headings of the track table: a click sorts, with Shift further; they are dragged to another place, and their
 * edges to another width. */
import { Box } from "@mui/material";
import type { Column } from "@tanstack/react-table";
import { useState } from "react";
import type { Track } from "../api/client";
import { useSettings } from "../settings";
import { TYPE_PX } from "../theme";
import { useItemMenu, type ItemMenu } from "./item-menu";
import { GAP_PX, MARGIN_PX, NAMES } from "./track-columns";
import type { TableLayout } from "./use-table-layout";

export const HEAD_REM = 1.9;

interface Props {
  columns: Column<Track>[];
  grid: string;
  layout: TableLayout;
}

export function Head({ columns, grid, layout }: Props) {
  const [dragged, setDragged] = useState<string | null>(null);
  return (
    <Box
      role="row"
      sx={(theme) => ({
        display: "grid",
        gridTemplateColumns: grid,
        columnGap: `${GAP_PX}px`,
        px: `${MARGIN_PX}px`,
        height: `${HEAD_REM}rem`,
        alignItems: "center",
        borderBottom: `2px solid ${theme.inks.ink}`,
        position: "sticky",
        top: 0,
        zIndex: 1,
        bgcolor: "background.paper",
      })}
    >
      <span role="columnheader" aria-label="Place" />
      {columns.map((column) => (
        <Heading
          key={column.id}
          column={column}
          layout={layout}
          onWiden={(rem) => layout.widen(column.id, rem)}
          onDrag={() => setDragged(column.id)}
          onDrop={() => {
            if (dragged && dragged !== column.id) layout.move(dragged, layout.columns.indexOf(column.id));
            setDragged(null);
          }}
        />
      ))}
    </Box>
  );
}

interface HeadingProps {
  column: Column<Track>;
  layout: TableLayout;
  onWiden: (rem: number) => void;
  onDrag: () => void;
  onDrop: () => void;
}

function Heading({ column, layout, onWiden, onDrag, onDrop }: HeadingProps) {
  const menu = useHeadingMenu(column, layout);
  const sorted = column.getIsSorted();
  const right = column.columnDef.meta?.right;
  return (
    <Box
      role="columnheader"
      aria-sort={sorted ? (sorted === "desc" ? "descending" : "ascending") : undefined}
      draggable
      {...menu.handlers}
      onDragStart={(event: React.DragEvent) => {
        event.dataTransfer.setData("text/plain", column.id);
        onDrag();
      }}
      onDragOver={(event: React.DragEvent) => event.preventDefault()}
      onDrop={(event: React.DragEvent) => {
        event.preventDefault();
        onDrop();
      }}
      sx={{
        ...{ textAlign: right ? "right" : undefined, fontSize: "0.76rem", fontWeight: 600, minWidth: 0 },
        ...{ position: "relative", whiteSpace: "nowrap", overflow: "hidden", textOverflow: "ellipsis" },
      }}
    >
      {column.getCanSort() ? (
        <SortButton column={column} />
      ) : (
        <Box component="span" sx={{ color: "text.secondary" }}>
          {column.id}
        </Box>
      )}
      <Edge onWiden={onWiden} />
      {menu.menu}
    </Box>
  );
}

/** How it is sorted, and which columns there are. */
function useHeadingMenu(column: Column<Track>, layout: TableLayout): ItemMenu {
  const sort = (down: boolean, further: boolean) => () => column.toggleSorting(down, further);
  const off = !column.getCanSort();
  return useItemMenu(`Column ${column.id}`, () => [
    { words: "Sort upwards", act: sort(false, false), off },
    { words: "Sort downwards", act: sort(true, false), off },
    { words: "As a further sort", act: sort(false, true), hint: "⇧", off },
    { words: "Hide this column", act: () => layout.show(column.id, false), off: layout.columns.length < 2 },
    { words: "The usual columns", act: layout.reset },
    ...NAMES.map((name, place) => {
      const on = layout.columns.includes(name);
      return { words: name, on, act: () => layout.show(name, !on), apart: place === 0 };
    }),
  ]);
}

function SortButton({ column }: { column: Column<Track> }) {
  const sorted = column.getIsSorted();
  const place = column.getSortIndex();
  const sort = (event: React.MouseEvent) => column.toggleSorting(undefined, event.shiftKey);
  return (
    <Box
      component="button"
      type="button"
      title={`Sort by ${column.id.toLowerCase()}; with ⇧ as a further sort`}
      onClick={sort}
      sx={(theme) => ({
        font: "inherit",
        border: 0,
        p: 0,
        background: "none",
        cursor: "pointer",
        color: sorted ? theme.inks.ink : theme.inks.faint,
      })}
    >
      {column.id}
      {sorted && (sorted === "desc" ? " ↓" : " ↑")}
      {sorted && place > 0 && <sup>{place + 1}</sup>}
    </Box>
  );
}

/** The right edge of a heading, by which its column is made wider or narrower. */
function Edge({ onWiden }: { onWiden: (rem: number) => void }) {
  const rem = TYPE_PX[useSettings().size];
  const begin = (event: React.PointerEvent<HTMLSpanElement>) => {
    event.preventDefault();
    event.stopPropagation();
    const edge = event.currentTarget;
    const width = edge.parentElement?.getBoundingClientRect().width ?? 0;
    const from = event.clientX;
    const move = (now: PointerEvent) => onWiden((width + now.clientX - from) / rem);
    edge.setPointerCapture(event.pointerId);
    edge.addEventListener("pointermove", move);
    edge.addEventListener("pointerup", () => edge.removeEventListener("pointermove", move), { once: true });
  };
  return (
    <Box
      component="span"
      aria-hidden
      className="edge"
      draggable
      onDragStart={(event: React.DragEvent) => {
        event.preventDefault();
        event.stopPropagation();
      }}
      onPointerDown={begin}
      sx={{
        ...{ position: "absolute", right: 0, top: 0, bottom: 0, width: 7, cursor: "col-resize" },
        "&:hover": { borderRight: 2, borderColor: "secondary.main" },
      }}
    />
  );
}
