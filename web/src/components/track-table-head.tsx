/** The headings of the track table; a click sorts. */
import { Box } from "@mui/material";
import type { Column } from "@tanstack/react-table";
import type { Track } from "../api/client";
import type { SortName } from "../api/queries";
import { GAP_PX, MARGIN_PX } from "./track-columns";

export const HEAD = 30;

interface Props {
  columns: Column<Track>[];
  grid: string;
  sort: SortName;
  descending: boolean;
  onSort?: (sort: SortName) => void;
}

export function Head({ columns, grid, sort, descending, onSort }: Props) {
  return (
    <Box
      role="row"
      sx={(theme) => ({
        display: "grid",
        gridTemplateColumns: grid,
        columnGap: `${GAP_PX}px`,
        px: `${MARGIN_PX}px`,
        height: HEAD,
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
          order={column.columnDef.meta?.sort === sort ? (descending ? "descending" : "ascending") : undefined}
          onSort={onSort}
        />
      ))}
    </Box>
  );
}

interface HeadingProps {
  column: Column<Track>;
  order: "ascending" | "descending" | undefined;
  onSort?: (sort: SortName) => void;
}

function Heading({ column, order, onSort }: HeadingProps) {
  const name = column.columnDef.meta?.sort;
  const right = column.columnDef.meta?.right;
  return (
    <Box
      role="columnheader"
      aria-sort={order}
      sx={{ textAlign: right && "right", fontSize: "0.76rem", fontWeight: 600, minWidth: 0 }}
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
            color: order ? theme.inks.ink : theme.inks.faint,
          })}
        >
          {column.id}
          {order && (order === "descending" ? " ↓" : " ↑")}
        </Box>
      ) : (
        <Box component="span" sx={{ color: "text.secondary" }}>
          {column.id}
        </Box>
      )}
    </Box>
  );
}
