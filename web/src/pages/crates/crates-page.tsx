import {
  closestCenter,
  DndContext,
  DragOverlay,
  PointerSensor,
  pointerWithin,
  useSensor,
  useSensors,
  type CollisionDetection,
  type DragEndEvent,
} from "@dnd-kit/core";
import { SortableContext, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { Box, Button, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate, useParams } from "react-router";
import type { Crate } from "../../api/client";
import {
  counted,
  cratesQuery,
  orderQuery,
  useMakeCrate,
  usePutIntoCrate,
  type SortName,
} from "../../api/queries";
import { Confirm } from "../../components/confirm";
import { Empty } from "../../components/empty";
import { playingTime } from "../../components/format";
import { KEYS } from "../../components/keys";
import { NameDialog } from "../../components/name-dialog";
import { PutIntoCrate } from "../../components/put-into-crate";
import { TrackTable } from "../../components/track-table";
import { useKeys } from "../../components/use-keys";
import { useSelection } from "../../components/use-selection";
import { useRemembered } from "../../settings";
import { rememberQueue } from "../workbench/queue-order";
import { CrateCards } from "./crate-cards";
import { useCrateActions } from "./use-crate-actions";

const LEFT_OUT = ["LUFS", "Added"];

/** Lists of tracks: the crates on the left, one of them open. */
export function CratesPage() {
  const { id } = useParams();
  const navigate = useNavigate();
  const crates = useQuery(cratesQuery).data;
  const make = useMakeCrate();
  const [naming, setNaming] = useState(false);
  const [last, setLast] = useRemembered<number | null>("crate", null);
  const open = crates?.find((crate) => crate.id === Number(id ?? last)) ?? crates?.[0];
  useEffect(() => {
    if (open && open.id !== last) setLast(open.id);
  }, [open, last]); // eslint-disable-line react-hooks/exhaustive-deps
  const show = (crate: { id: number }) => void navigate(`/crates/${crate.id}`);
  return (
    <>
      {open && crates ? (
        <OpenCrate key={open.id} crate={open} crates={crates} onShow={show} onMake={() => setNaming(true)} />
      ) : (
        crates && (
          <Empty title="No crates yet">
            <p>
              A crate is a list of tracks in an order of your own. Make one, then drag tracks onto it from the
              Shelf, or choose them and press P.
            </p>
            <Button variant="contained" color="error" onClick={() => setNaming(true)}>
              Make a crate
            </Button>
          </Empty>
        )
      )}
      {naming && (
        <NameDialog
          title="Make a crate"
          label="Name"
          action="Make"
          onClose={() => setNaming(false)}
          onDone={(name) => make.mutate(name, { onSuccess: show })}
        />
      )}
    </>
  );
}

interface OpenProps {
  crate: Crate;
  crates: Crate[];
  onShow: (crate: { id: number }) => void;
  onMake: () => void;
}

function OpenCrate({ crate, crates, onShow, onMake }: OpenProps) {
  const navigate = useNavigate();
  const [sort, setSort] = useRemembered<{ name: SortName; down: boolean }>(`crate.${crate.id}.sort`, {
    name: "crate",
    down: false,
  });
  const order = useQuery(orderQuery({ crate_id: crate.id, sort: sort.name, descending: sort.down })).data;
  const [moved, setMoved] = useState<{ from: typeof order; ids: number[] } | null>(null);
  const ids = (moved && moved.from === order ? moved.ids : order?.ids) ?? [];
  const selection = useSelection(ids);
  const actions = useCrateActions(crate);
  const [asking, setAsking] = useState<"rename" | "delete" | null>(null);
  const [putting, setPutting] = useState<number[] | null>(null);
  const byHand = sort.name === "crate";

  const chosen = () => ids.filter((id) => selection.ids.has(id));
  const reorder = (moving: number[], to: number) => {
    const rest = ids.filter((id) => !moving.includes(id));
    setMoved({ from: order, ids: [...rest.slice(0, to), ...moving, ...rest.slice(to)] });
    actions.move.mutate({ ids: moving, to }, { onError: () => setMoved(null) });
  };
  const shift = (by: 1 | -1) => {
    const first = ids.findIndex((id) => selection.ids.has(id));
    if (byHand && first >= 0) reorder(chosen(), Math.max(0, first + by));
  };
  const remove = () => selection.ids.size && actions.remove.mutate(chosen());
  useKeys("alt+up", () => shift(-1));
  useKeys("alt+down", () => shift(1));
  useKeys(KEYS.lists.remove, remove);
  const openTrack = (id: number) => {
    rememberQueue(crate.name, ids);
    void navigate(`/workbench/${id}`);
  };
  const sortBy = (name: SortName) => setSort({ name, down: sort.name === name ? !sort.down : false });

  return (
    <Dragging ids={ids} selected={selection.ids} byHand={byHand} onReorder={reorder}>
      <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "250px minmax(0, 1fr)" }}>
        <CrateCards crates={crates} open={crate.id} onShow={onShow} onMake={onMake} />
        <Box sx={{ display: "flex", flexDirection: "column", minHeight: 0 }}>
          <Box sx={{ display: "flex", alignItems: "center", gap: 1, px: 2, pt: 1.6, pb: 1.2 }}>
            <Box sx={{ flex: 1, minWidth: 0 }}>
              <Typography variant="h1" noWrap>
                {crate.name}
              </Typography>
              <Typography variant="overline">
                {counted(crate.tracks, "track")}, {playingTime(crate.duration_s)}
                {byHand ? ", in your order" : ""}
              </Typography>
            </Box>
            {!byHand && (
              <Button onClick={() => setSort({ name: "crate", down: false })}>Back to my order</Button>
            )}
            <Button disabled={!selection.ids.size} onClick={remove}>
              Take out
            </Button>
            <Button onClick={() => setAsking("rename")}>Rename</Button>
            <Button onClick={() => setAsking("delete")}>Delete</Button>
          </Box>
          {order && !ids.length ? (
            <Empty title="This crate is empty">
              <p>Go to the Shelf, choose tracks, and drag them here or press P.</p>
              <Button variant="contained" color="error" onClick={() => void navigate("/shelf")}>
                Go to the Shelf
              </Button>
            </Empty>
          ) : (
            <SortableContext items={ids} strategy={verticalListSortingStrategy} disabled={!byHand}>
              <TrackTable
                label={`Tracks of ${crate.name}`}
                order={ids}
                selection={selection}
                sort={sort.name}
                descending={sort.down}
                onSort={sortBy}
                onOpen={openTrack}
                onPutIntoCrate={setPutting}
                sortable
                without={LEFT_OUT}
                view={`${crate.id} ${sort.name} ${sort.down}`}
              />
            </SortableContext>
          )}
        </Box>
      </Box>
      {asking === "rename" && (
        <NameDialog
          title={`Rename “${crate.name}”`}
          label="Name"
          action="Rename"
          initial={crate.name}
          onClose={() => setAsking(null)}
          onDone={(name) => actions.rename.mutate(name)}
        />
      )}
      <Confirm
        open={asking === "delete"}
        title={`Delete “${crate.name}”?`}
        action="Delete the crate"
        onClose={() => setAsking(null)}
        onConfirm={() => actions.drop.mutate(undefined, { onSuccess: () => void navigate("/crates") })}
      >
        The list goes, with the order of its {counted(crate.tracks, "track")}. The tracks stay on the Shelf,
        and Undo brings the crate back.
      </Confirm>
      {putting && <PutIntoCrate ids={putting} onClose={() => setPutting(null)} />}
    </Dragging>
  );
}

/** Over a crate's card the card counts, else the nearest row. */
const collide: CollisionDetection = (args) => {
  const cards = args.droppableContainers.filter((container) => String(container.id).startsWith("card-"));
  const over = pointerWithin({ ...args, droppableContainers: cards });
  if (over.length) return over;
  return closestCenter({
    ...args,
    droppableContainers: args.droppableContainers.filter((container) => !cards.includes(container)),
  });
};

interface DraggingProps {
  ids: number[];
  selected: ReadonlySet<number>;
  byHand: boolean;
  onReorder: (moving: number[], to: number) => void;
  children: React.ReactNode;
}

function Dragging({ ids, selected, byHand, onReorder, children }: DraggingProps) {
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const put = usePutIntoCrate();
  const [dragged, setDragged] = useState<number[]>([]);
  const drop = ({ active, over }: DragEndEvent) => {
    const crate = over?.data.current?.["crate"] as Crate | undefined;
    if (crate) put.mutate({ crate, ids: dragged });
    else if (over && byHand && active.id !== over.id) {
      const target = ids.indexOf(Number(over.id));
      const before = ids
        .slice(0, target + (ids.indexOf(Number(active.id)) < target ? 1 : 0))
        .filter((id) => !dragged.includes(id));
      onReorder(dragged, before.length);
    }
    setDragged([]);
  };
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={collide}
      onDragEnd={drop}
      onDragCancel={() => setDragged([])}
      onDragStart={({ active }) =>
        setDragged(
          selected.has(Number(active.id)) ? ids.filter((id) => selected.has(id)) : [Number(active.id)],
        )
      }
    >
      {children}
      <DragOverlay dropAnimation={null}>
        {dragged.length > 0 && (
          <Box
            sx={{
              display: "inline-block",
              bgcolor: "secondary.main",
              color: "secondary.contrastText",
              px: 1.5,
              py: 0.6,
              borderRadius: "4px",
              fontWeight: 600,
              boxShadow: 3,
            }}
          >
            {counted(dragged.length, "track")}
          </Box>
        )}
      </DragOverlay>
    </DndContext>
  );
}
