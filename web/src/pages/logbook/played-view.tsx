/** What was played at a venue, or anywhere: how often, when last, how it went; and pairs that were played before. */
import { Box, Typography } from "@mui/material";
import { useQueries, useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef } from "react";
import { useNavigate } from "react-router";
import type { Schema } from "../../api/client";
import { counted } from "../../api/changes";
import { pairsQuery, PLAYED_PAGE, playedQuery, type PlayedOrder } from "../../api/queries";
import { useRemembered, useSettings } from "../../settings";
import { FIGURES, TYPE_PX } from "../../theme";
import type { Logbook } from "./use-logbook";
import { dayOf } from "./words";

const ROW_REM = 1.9;
const COLUMNS = "minmax(6rem, 2.2fr) minmax(5rem, 1.4fr) 3.6rem 6rem 6rem minmax(5rem, 1.2fr)";
const HEADS: { name: string; order?: PlayedOrder }[] = [
  { name: "Title", order: "title" },
  { name: "Artist" },
  { name: "Times", order: "times" },
  { name: "Last", order: "last" },
  { name: "First" },
  { name: "How it went", order: "well" },
];

export function PlayedView({ logbook }: { logbook: Logbook }) {
  const [order, setOrder] = useRemembered<PlayedOrder>("played order", "last");
  return (
    <Box
      sx={{
        flex: 1,
        minHeight: 0,
        display: "grid",
        gridTemplateColumns: "minmax(0, 1fr) 16rem",
        px: 2.5,
        gap: 3,
      }}
    >
      <Rows key={`${logbook.venue?.id ?? 0} ${order}`} logbook={logbook} order={order} onOrder={setOrder} />
      {logbook.venue ? (
        <Pairs venue={logbook.venue.id} />
      ) : (
        <Box sx={{ pt: 1.5, color: "text.secondary" }}>
          Choose a venue above to see what was played there alone, and which pairs came more than once.
        </Box>
      )}
    </Box>
  );
}

interface RowsProps {
  logbook: Logbook;
  order: PlayedOrder;
  onOrder: (order: PlayedOrder) => void;
}

function Rows({ logbook, order, onOrder }: RowsProps) {
  const venue = logbook.venue?.id ?? null;
  const scroller = useRef<HTMLDivElement>(null);
  const first = useQuery(playedQuery(venue, order, 0));
  const total = first.data?.total ?? 0;
  const height = Math.round(ROW_REM * TYPE_PX[useSettings().size]);
  const lines = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 12,
  });
  const items = lines.getVirtualItems();
  const pages = [...new Set(items.map(({ index }) => Math.floor(index / PLAYED_PAGE)))];
  const found = useQueries({ queries: pages.map((page) => playedQuery(venue, order, page)) });
  const rowAt = (index: number) =>
    found[pages.indexOf(Math.floor(index / PLAYED_PAGE))]?.data?.rows[index % PLAYED_PAGE];
  if (first.error) return <Box sx={{ p: 2, color: "error.main" }}>{first.error.message}</Box>;
  return (
    <Box sx={{ display: "flex", flexDirection: "column", minHeight: 0, pt: 1 }}>
      <Box sx={{ color: "text.secondary", fontSize: "0.85rem", mb: 0.5 }}>
        {counted(total, "track")} played {logbook.venue ? `at ${logbook.venue.name}` : "anywhere"}
      </Box>
      <Head order={order} onOrder={onOrder} />
      <Box ref={scroller} sx={{ flex: 1, minHeight: 0, overflow: "auto" }} data-testid="played">
        <Box sx={{ position: "relative", height: lines.getTotalSize() }}>
          {items.map(({ index, start }) => (
            <Row key={index} top={start} height={height} row={rowAt(index)} />
          ))}
        </Box>
      </Box>
    </Box>
  );
}

function Head({ order, onOrder }: { order: PlayedOrder; onOrder: (order: PlayedOrder) => void }) {
  return (
    <Box
      sx={{
        display: "grid",
        gridTemplateColumns: COLUMNS,
        gap: 1.2,
        borderBottom: 2,
        fontSize: "0.8rem",
        py: 0.4,
        "& > *": { overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" },
      }}
    >
      {HEADS.map(({ name, order: by }) => (
        <Box
          key={name}
          component={by ? "button" : "span"}
          onClick={by && (() => onOrder(by))}
          aria-pressed={by && by === order}
          sx={{
            ...{ border: 0, background: "none", p: 0, font: "inherit", color: "inherit", textAlign: "left" },
            ...{ cursor: by ? "pointer" : "default", fontWeight: by === order ? 700 : 500 },
          }}
        >
          {name}
          {by === order && " ↓"}
        </Box>
      ))}
    </Box>
  );
}

function Row({
  top,
  height,
  row,
}: {
  top: number;
  height: number;
  row: Schema["PlayedThereOut"] | undefined;
}) {
  const navigate = useNavigate();
  const figure = { fontFamily: FIGURES, fontSize: "0.8rem" };
  if (!row) return null;
  const went = [
    row.well > 0 && (row.well > 1 ? `went well ${row.well} ×` : "went well"),
    row.flat > 0 && "fell flat",
    row.asked > 0 && "asked for",
    row.never && "never again",
  ].filter(Boolean);
  return (
    <Box
      onDoubleClick={() => row.track_id !== null && void navigate(`/workbench/${row.track_id}`)}
      sx={{
        ...{
          position: "absolute",
          top,
          left: 0,
          right: 0,
          height,
          display: "grid",
          gridTemplateColumns: COLUMNS,
        },
        ...{ gap: 1.2, alignItems: "center", borderBottom: 1, borderColor: "divider" },
        "& > *": { overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" },
      }}
    >
      <span>
        {row.title}{" "}
        {row.track_id === null && (
          <Box component="i" sx={{ color: "warning.main", fontSize: "0.75rem" }}>
            not on the Shelf
          </Box>
        )}
      </span>
      <Box sx={{ color: "text.secondary" }}>{row.artist}</Box>
      <Box sx={figure}>{row.times}</Box>
      <Box sx={figure}>{dayOf(row.last_on)}</Box>
      <Box sx={figure}>{dayOf(row.first_on)}</Box>
      <Box
        sx={{
          color: row.never ? "error.main" : row.well ? "info.main" : "text.secondary",
          fontSize: "0.82rem",
        }}
      >
        {went.join(", ")}
      </Box>
    </Box>
  );
}

function Pairs({ venue }: { venue: number }) {
  const pairs = useQuery(pairsQuery(venue)).data;
  return (
    <Box component="aside" aria-label="Pairs" sx={{ overflow: "auto", pt: 1, pb: 2 }}>
      <Typography variant="h2">Two in a row, more than once</Typography>
      {pairs?.map((pair) => (
        <Box
          key={`${pair.first_id} ${pair.then_id}`}
          sx={{ py: 0.6, borderBottom: 1, borderColor: "divider", fontSize: "0.85rem" }}
        >
          {pair.first}, then {pair.then}{" "}
          <Box component="span" sx={{ color: "text.secondary" }}>
            {pair.nights} nights
          </Box>
        </Box>
      ))}
      {pairs?.length === 0 && (
        <Box sx={{ color: "text.secondary", mt: 1 }}>
          No two tracks followed each other at more than one night.
        </Box>
      )}
    </Box>
  );
}
