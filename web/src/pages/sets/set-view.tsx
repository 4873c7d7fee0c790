/** One set: the arc, the running order, and at the side what can come next, or the tray. */
import { Box } from "@mui/material";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { engine } from "../../audio/engine";
import { Empty } from "../../components/empty";
import { KEYS } from "../../components/keys";
import { NameDialog } from "../../components/name-dialog";
import { useKeys } from "../../components/use-keys";
import { rememberQueue } from "../workbench/queue-order";
import { ArcPicture } from "./arc-picture";
import { ClearanceDialog } from "./clearance-dialog";
import { JointDrawer } from "./joint-drawer";
import { OrderDialog } from "./order-dialog";
import { RunningOrder } from "./running-order";
import { SetDragging } from "./set-dragging";
import { SetHead } from "./set-head";
import { SheetDialog } from "./sheet-dialog";
import { playLine } from "./side-lines";
import { SidePanel } from "./side-panel";
import { WantDialog } from "./want-dialog";
import { useSetChanges, type DjSet, type Entry, type SetLine } from "./use-sets";

interface Props {
  set: DjSet;
  lines: readonly SetLine[];
  onOpen: (id: number) => void;
  onMake: () => void;
}

export type Asked = "order" | "sheet" | "joint" | "through" | "note" | "clearance" | "want" | null;

export function SetView({ set, lines, onOpen, onMake }: Props) {
  const changes = useSetChanges(set.id);
  const [at, setAt] = useState(0);
  const [inSide, setInSide] = useState(false);
  const [asked, setAsked] = useState<Asked>(null);
  const place = Math.min(at, Math.max(0, set.order.length - 1));
  const entry = set.order[place];
  const canHear = Boolean(entry?.on_shelf && set.order[place + 1]?.on_shelf);
  useOrderKeys({ set, place, inSide, setAt, changes });
  const open = useOpening(set);
  useKeys(KEYS.lists.open, () => !inSide && entry && open(entry));
  useAskKeys(set, entry, canHear, setAsked);
  useKeys(KEYS.sets.play, () => {
    if (!inSide && entry) playLine(entry);
  });
  useKeys(KEYS.sets.side, () => setInSide(true));
  useKeys(KEYS.sets.back, () => setInSide(false));
  useEffect(() => () => engine.pause(), []);
  return (
    <Columns {...{ set, changes }}>
      <Box sx={{ minWidth: 0, minHeight: 0, display: "flex", flexDirection: "column" }}>
        <SetHead set={set} lines={lines} changes={changes} onOpen={onOpen} onMake={onMake} onAsk={setAsked} />
        <ArcPicture
          {...{ set, chosen: place, onChoose: setAt }}
          key={set.id}
          onArc={(points, onError) => changes.arc.mutate(points, { onError })}
        />
        {set.order.length ? (
          <RunningOrder
            set={set}
            place={place}
            active={!inSide}
            onChoose={setAt}
            onJoint={() => setAsked("joint")}
            onOpen={open}
          />
        ) : (
          <NothingPlaced tray={set.tray.length} />
        )}
      </Box>
      <SidePanel
        set={set}
        after={entry}
        active={inSide}
        onActive={setInSide}
        onPlaced={() => setAt(place + 1)}
      />
      <Dialogs {...{ set, place, asked, changes }} onPlace={setAt} onClose={() => setAsked(null)} />
    </Columns>
  );
}

type ColumnsProps = React.ComponentProps<typeof SetDragging>;

/** The set and its side, between which tracks can be dragged. */
function Columns({ children, ...rest }: ColumnsProps) {
  const columns = "minmax(0, 1fr) minmax(260px, 26%)";
  return (
    <SetDragging {...rest}>
      <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: columns }}>{children}</Box>
    </SetDragging>
  );
}

function useAskKeys(set: DjSet, entry: Entry | undefined, canHear: boolean, ask: (asked: Asked) => void) {
  useKeys(KEYS.sets.order, () => set.order.length > 1 && ask("order"));
  useKeys(KEYS.sets.sheet, () => set.order.length > 0 && ask("sheet"));
  useKeys(KEYS.sets.want, () => ask("want"));
  useKeys(KEYS.sets.clearance, () => set.order.length > 0 && ask("clearance"));
  useKeys(KEYS.sets.joint, () => canHear && ask("joint"));
  useKeys(KEYS.sets.through, () => canHear && ask("through"));
  useKeys(KEYS.sets.note, () => entry && ask("note"));
}

/** Opens a track on the Workbench, where the others of the set come after it. */
function useOpening(set: DjSet): (entry: Entry) => void {
  const navigate = useNavigate();
  return ({ on_shelf, track_id }) => {
    if (!on_shelf || track_id === null) return;
    const here = [...set.order, ...set.tray].filter((each) => each.on_shelf);
    rememberQueue(
      set.name,
      here.flatMap((each) => each.track_id ?? []),
    );
    void navigate(`/workbench/${track_id}`);
  };
}

interface DialogsProps {
  set: DjSet;
  place: number;
  asked: Asked;
  changes: ReturnType<typeof useSetChanges>;
  onPlace: (place: number) => void;
  onClose: () => void;
}

function Dialogs({ set, place, asked, changes, onPlace, onClose }: DialogsProps) {
  const entry = set.order[place];
  if (asked === "order") return <OrderDialog set={set} place={place} changes={changes} onClose={onClose} />;
  const before = set.order[place + 1]?.id ?? null;
  if (asked === "want") return <WantDialog after={entry} {...{ before, changes, onClose }} />;
  if (asked === "clearance") return <ClearanceDialog set={set} onClose={onClose} />;
  if (asked === "sheet") return <SheetDialog set={set} onClose={onClose} />;
  if (asked === "joint" || asked === "through")
    return <JointDrawer {...{ set, place, changes, onPlace, onClose }} through={asked === "through"} />;
  if (asked === "note" && entry)
    return (
      <NameDialog
        title={`A note on “${entry.title}”`}
        label="Note"
        action="Save"
        initial={entry.note}
        optional
        onDone={(note) => changes.entry.mutate({ id: entry.id, body: { note } })}
        onClose={onClose}
      />
    );
  return null;
}

function NothingPlaced({ tray }: { tray: number }) {
  return (
    <Empty title="The running order is empty">
      <p>
        {tray
          ? "Place tracks from the tray at the right: choose one with → and ↑ ↓, then ↵."
          : "Collect first: on the Shelf or in a crate, Alt S puts what is chosen into this set’s tray."}
      </p>
    </Empty>
  );
}

interface OrderKeys {
  set: DjSet;
  place: number;
  inSide: boolean;
  setAt: (place: number) => void;
  changes: ReturnType<typeof useSetChanges>;
}

/** What is done with the chosen track of the running order by key. */
function useOrderKeys({ set, place, inSide, setAt, changes }: OrderKeys) {
  const { order } = set;
  const entry = order[place];
  const onEntry = (act: (entry: Entry) => void) => () => {
    if (entry && !inSide) act(entry);
  };
  const to = (other: number) => !inSide && setAt(Math.max(0, Math.min(order.length - 1, other)));
  const pin = (name: "first" | "last" | "here") =>
    onEntry(({ id, pin: has }) => changes.entry.mutate({ id, body: { pin: has === name ? "" : name } }));
  const shift = (by: 1 | -1) =>
    onEntry(({ id }) => {
      if (!order[place + by]) return;
      const before = order[by < 0 ? place - 1 : place + 2]?.id ?? null;
      changes.move.mutate({ entry_ids: [id], placed: true, before });
      setAt(place + by);
    });
  useKeys(KEYS.lists.move, () => to(place - 1));
  useKeys(KEYS.lists.down, () => to(place + 1));
  useKeys(KEYS.lists.first, () => to(0));
  useKeys(KEYS.lists.last, () => to(order.length - 1));
  useKeys(KEYS.sets.earlier, shift(-1));
  useKeys(KEYS.sets.later, shift(1));
  useKeys(KEYS.sets.first, pin("first"));
  useKeys(KEYS.sets.last, pin("last"));
  useKeys(KEYS.sets.here, pin("here"));
  useKeys(
    KEYS.sets.withNext,
    onEntry(({ id, with_next }) => changes.entry.mutate({ id, body: { with_next: !with_next } })),
  );
  useKeys(
    KEYS.sets.takeOut,
    onEntry(({ id }) => changes.move.mutate({ entry_ids: [id], placed: false, before: null })),
  );
}
