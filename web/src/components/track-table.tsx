/** Tracks as rows of a ledger, or as sleeves: any number of them, only those in sight fetched and drawn. */
import { Box, Button } from "@mui/material";
import { memo, useEffect, useRef, useState, type ReactNode } from "react";
import type { Picked } from "../api/client";
import type { Sort } from "../api/queries";
import { useRemembered } from "../settings";
import type { Dividers } from "./divided";
import { ColumnChooser } from "./column-chooser";
import { FitsPanel } from "./fits-panel";
import { KeyHint } from "./key-hint";
import { shown, useKeyMap } from "./key-map";
import { KEYS } from "./keys";
import { ListeningStrip } from "./listening-strip";
import { Sleeves } from "./sleeves";
import { TagPanel } from "./tag-panel";
import { PlaysPanel } from "./plays-panel";
import { setTagging, useTagging } from "./tagging";
import type { MenuAt } from "./item-menu";
import { TrackActionKeys, TrackActions, TrackMenu } from "./track-actions";
import { rowName } from "./track-table-row";
import { TrackRows } from "./track-rows";
import type { TrackSource } from "./tracks";
import { useKeys } from "./use-keys";
import { useListening } from "./use-listening";
import type { Selection } from "./use-selection";
import { useTableLayout } from "./use-table-layout";
import { useTrackActions, type Side, type TrackAction } from "./use-track-actions";
import { useWidth } from "./use-width";
import "./table.css";

export interface TrackTableProps {
  /** By what name its columns and its look are remembered. */
  list: string;
  source: TrackSource;
  selection: Selection;
  /** What it is sorted by, the first first; empty for its own order. */
  sorts: readonly Sort[];
  onSort: (sorts: Sort[]) => void;
  onOpen: (id: number, place: number) => void;
  onPutIntoCrate: (picked: Picked) => void;
  /** Puts a track after another of a list with an order by hand. */
  onPutAfter?: ((trackId: number, place: number) => void) | undefined;
  /** Rows can be dragged among themselves, not only elsewhere. */
  sortable?: boolean;
  /** What is noted on places of a list, by their ids. */
  notes?: Readonly<Record<number, string>> | undefined;
  /** What stands between its tracks. */
  dividers?: Dividers | undefined;
  /** Names of columns that are not among the usual ones here. */
  without?: readonly string[];
  /** What else can be done with the chosen tracks here. */
  extra?: TrackAction[];
  label: string;
  /** What is shown; when it becomes something else, the table starts from its top. */
  view: string;
}

const NONE: readonly string[] = [];

export function TrackTable(props: TrackTableProps) {
  const { source, selection, list } = props;
  const scroller = useRef<HTMLDivElement>(null);
  const layout = useTableLayout(list, props.without ?? NONE, useWidth(scroller));
  const [look, setLook] = useRemembered<LookName>(`look.${list}`, "rows");
  const [menu, setMenu] = useState<MenuAt | null>(null);
  const { side, setSide, close } = useSide();
  const listening = useListening(source, selection);
  const { actions, dialog } = useTrackActions(props, side, { setSide, play: listening.toggle });
  const other = look === "rows" ? "sleeves" : "rows";
  useKeys(KEYS.lists.sleeves, () => setLook(other));
  useKeys(KEYS.lists.menu, ({ target }) => {
    // What has the focus elsewhere is no track.
    const here = target === document.body || (target instanceof Node && scroller.current?.contains(target));
    if (here) setMenu(atRow(selection.focus));
  });
  const openMenu = (event: React.MouseEvent) => {
    event.preventDefault();
    if (event.clientX || event.clientY) setMenu({ left: event.clientX, top: event.clientY });
    else setMenu(atRow(selection.focus));
  };
  const drawn = { ...props, scroller, layout, onMenu: openMenu };
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column" }}>
      <Box sx={{ flex: 1, minHeight: 0, display: "flex" }}>
        {look === "rows" ? <TrackRows {...drawn} /> : <Sleeves {...drawn} />}
        {side === "tags" && <TagPanel picked={selection.picked()} onClose={close} />}
        {side === "plays" && <PlaysPanel track={source.trackAt(selection.focus)} onClose={close} />}
        {side === "fits" && (
          <FitsPanel
            track={source.trackAt(selection.focus)}
            onPutIntoCrate={props.onPutIntoCrate}
            onPutAfter={props.onPutAfter && ((id) => props.onPutAfter?.(id, selection.focus))}
            onLeave={() => scroller.current?.focus({ preventScroll: true })}
            onClose={close}
          />
        )}
      </Box>
      <ListeningStrip listening={listening} />
      <TrackActionKeys actions={actions} />
      <TrackActions chosen={selection.count} actions={actions} onMore={setMenu}>
        <OtherLook other={other} onChoose={setLook} />
        {look === "rows" && <ColumnChooser layout={layout} />}
      </TrackActions>
      <TrackMenu at={menu} actions={actions} onClose={() => setMenu(null)} />
      {dialog}
    </Box>
  );
}

type LookName = "rows" | "sleeves";

interface OtherLookProps {
  other: LookName;
  onChoose: (look: LookName) => void;
}

const OtherLook = memo(function OtherLook({ other, onChoose }: OtherLookProps) {
  useKeyMap();
  return (
    <Button size="small" onClick={() => onChoose(other)}>
      {other === "rows" ? "Rows" : "Sleeves"} <KeyHint>{shown(KEYS.lists.sleeves)}</KeyHint>
    </Button>
  );
});

/** What stands beside the rows. The tag card takes letters as long as it listens. */
function useSide() {
  const [side, setSide] = useRemembered<Side>("side", null);
  const listens = useTagging();
  useEffect(() => () => setTagging(false), []);
  return {
    side,
    setSide: (next: Side) => {
      const goOn = side === "tags" && next === null && !listens;
      setTagging(goOn || next === "tags");
      if (!goOn) setSide(next);
    },
    close: () => {
      setTagging(false);
      setSide(null);
    },
  };
}

function atRow(place: number): MenuAt {
  const box = document.getElementById(rowName(place))?.getBoundingClientRect();
  return box ? { left: box.left + 80, top: box.bottom } : { left: 200, top: 200 };
}

/** What both looks of a list are given. */
export interface LookProps extends TrackTableProps {
  scroller: React.RefObject<HTMLDivElement | null>;
  layout: ReturnType<typeof useTableLayout>;
  onMenu: (event: React.MouseEvent) => void;
}

export type Look = (props: LookProps) => ReactNode;
