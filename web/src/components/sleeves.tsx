/** Tracks as sleeves: pictures side by side, chosen and gone through as the rows are. */
import { Box } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect } from "react";
import type { Track } from "../api/client";
import { useSettings } from "../settings";
import { NAMES, TYPE_PX } from "../theme";
import { useTableLook, type TableLook } from "./table-look";
import type { LookProps } from "./track-table";
import { DraggableSleeve, rowName } from "./track-table-row";
import { useFixed } from "./use-fixed";
import { useTableKeys } from "./use-table-keys";
import { useWidth } from "./use-width";

const SLEEVE_REM = 9.5;
const TEXT_REM = 3.6;
const GAP_PX = 14;

/** The lines of sleeves in sight, and how large a sleeve is. */
function useLines(props: LookProps) {
  const { source, scroller, view } = props;
  const rem = TYPE_PX[useSettings().size];
  const room = useWidth(scroller);
  const width = SLEEVE_REM * rem;
  const height = width + TEXT_REM * rem;
  const across = Math.max(1, Number.isFinite(room) ? Math.floor((room - GAP_PX) / (width + GAP_PX)) : 6);
  const lines = useVirtualizer({
    count: Math.ceil((source.total ?? 0) / across),
    getScrollElement: () => scroller.current,
    estimateSize: () => height + GAP_PX,
    overscan: 2,
  });
  useEffect(() => lines.measure(), [lines, height, across]);
  useEffect(() => lines.scrollToOffset(0), [lines, view]);
  useTableKeys(props, {
    page: () => Math.max(1, Math.floor((scroller.current?.clientHeight ?? 400) / height)),
    across,
    reveal: (place) => lines.scrollToIndex(Math.floor(place / across)),
  });
  return { lines, width, height, across };
}

export function Sleeves(props: LookProps) {
  const { source, selection, scroller, label, onOpen } = props;
  const look = useTableLook();
  const { lines, width, height, across } = useLines(props);
  const items = lines.getVirtualItems();
  const [first, last] = [(items[0]?.index ?? 0) * across, ((items.at(-1)?.index ?? 0) + 1) * across];
  const { show } = useFixed({ show: source.show });
  useEffect(() => show(first, last), [show, first, last]);
  const places = items.flatMap(({ index, start }) =>
    Array.from({ length: across }, (_, i) => ({ place: index * across + i, top: start, column: i })),
  );
  return (
    <Box
      ref={scroller}
      role="listbox"
      tabIndex={0}
      aria-label={label}
      aria-multiselectable
      aria-activedescendant={selection.focus >= 0 ? rowName(selection.focus) : undefined}
      onContextMenu={props.onMenu}
      sx={{ flex: 1, minWidth: 0, overflow: "auto", outlineOffset: -2, px: `${GAP_PX}px`, pt: 1.5 }}
      data-testid="sleeves"
    >
      <Box role="presentation" sx={{ height: lines.getTotalSize(), position: "relative" }}>
        {places.map(({ place, top, column }) => {
          const track = source.trackAt(place);
          const id = source.idAt(place);
          return (
            track &&
            id !== undefined && (
              <DraggableSleeve
                key={id}
                id={id}
                place={place}
                chosen={selection.has(id)}
                focused={selection.focus === place}
                box={{ top, left: column * (width + GAP_PX), width, height }}
                actions={{ open: onOpen, click: selection.click }}
              >
                <Face track={track} width={width} look={look} />
              </DraggableSleeve>
            )
          );
        })}
      </Box>
    </Box>
  );
}

function Face({ track, width, look }: { track: Track; width: number; look: TableLook }) {
  const figures = [track.bpm?.toFixed(1), track.key && look.keyName(track.key)].filter(Boolean).join("  ");
  return (
    <>
      {track.has_picture ? (
        <img
          src={`/api/tracks/${track.id}/picture`}
          alt=""
          loading="lazy"
          draggable={false}
          style={{ width, height: width, objectFit: "cover", display: "block" }}
        />
      ) : (
        <Blank track={track} width={width} />
      )}
      <div className="title cell">{track.title}</div>
      <div className="faint cell">{track.artist}</div>
      <div className="figure cell">{figures}</div>
    </>
  );
}

/** A sleeve without a picture is a plain one with the first letters of its title. */
function Blank({ track, width }: { track: Track; width: number }) {
  const { inks } = useTheme();
  return (
    <div
      aria-hidden
      style={{
        ...{ width, height: width, background: inks.bar, color: inks.faint, display: "flex" },
        ...{ alignItems: "flex-end", padding: 10, boxSizing: "border-box", fontFamily: NAMES },
        ...{ fontSize: width / 4, fontWeight: 700, overflow: "hidden" },
      }}
    >
      {[...track.title].slice(0, 3).join("")}
    </div>
  );
}
