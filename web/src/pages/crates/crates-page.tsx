/** Crates: lists of tracks, the crates on the left, one of them open. */
import { SortableContext, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { Box, Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { useMakeCrate } from "../../api/changes";
import type { Crate, Picked } from "../../api/client";
import { cratesQuery } from "../../api/queries";
import { Empty } from "../../components/empty";
import { KEYS } from "../../components/keys";
import { NameDialog } from "../../components/name-dialog";
import { PutIntoCrate } from "../../components/put-into-crate";
import { TrackTable } from "../../components/track-table";
import { useKeys } from "../../components/use-keys";
import { useRemembered } from "../../settings";
import { rememberQueue } from "../workbench/queue-order";
import { CrateCards } from "./crate-cards";
import { CrateHead } from "./crate-head";
import { CrateDragging } from "./dragging";
import { Wanted } from "./wanted";
import { useOpenCrate } from "./use-open-crate";

const LEFT_OUT = ["LUFS", "Added"];

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
  }, [open, last, setLast]);
  const show = (crate: { id: number }) => void navigate(`/crates/${crate.id}`);
  return (
    <>
      {open && crates ? (
        <OpenCrate key={open.id} crate={open} crates={crates} onShow={show} onMake={() => setNaming(true)} />
      ) : (
        crates && <NoCrates onMake={() => setNaming(true)} />
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

function NoCrates({ onMake }: { onMake: () => void }) {
  return (
    <Empty title="No crates yet">
      <p>
        A crate is a list of tracks in an order of your own. Make one, then drag tracks onto it from the
        Shelf, or choose them and press P.
      </p>
      <Button variant="contained" color="error" onClick={onMake}>
        Make a crate
      </Button>
    </Empty>
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
  const open = useOpenCrate(crate);
  const { sorts, setSorts, ids, source, selection, reorder, remove, shift, byHand } = open;
  const [putting, setPutting] = useState<Picked | null>(null);
  useKeys(KEYS.lists.reorder, () => shift(-1));
  useKeys(KEYS.lists.reorderDown, () => shift(1));
  const openTrack = (id: number) => {
    rememberQueue(crate.name, ids);
    void navigate(`/workbench/${id}`);
  };
  return (
    <CrateDragging ids={ids} chosen={selection.has} byHand={byHand} onReorder={reorder}>
      <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "250px minmax(0, 1fr)" }}>
        <CrateCards crates={crates} open={crate.id} onShow={onShow} onMake={onMake} />
        <Box sx={{ display: "flex", flexDirection: "column", minHeight: 0 }}>
          <CrateHead crate={crate} open={open} />
          <Wanted crate={crate} />
          {source.total === 0 ? (
            <EmptyCrate onGo={() => void navigate("/shelf")} />
          ) : (
            <SortableContext items={ids} strategy={verticalListSortingStrategy} disabled={!byHand}>
              <TrackTable
                label={`Tracks of ${crate.name}`}
                source={source}
                selection={selection}
                list={`crate.${crate.id}`}
                sorts={sorts}
                onSort={setSorts}
                onOpen={openTrack}
                onPutIntoCrate={setPutting}
                sortable
                without={LEFT_OUT}
                extra={[{ words: "Take out of this crate", at: KEYS.lists.remove, act: remove }]}
                view={`${crate.id} ${JSON.stringify(sorts)}`}
              />
            </SortableContext>
          )}
        </Box>
      </Box>
      {putting && <PutIntoCrate picked={putting} onClose={() => setPutting(null)} />}
    </CrateDragging>
  );
}

function EmptyCrate({ onGo }: { onGo: () => void }) {
  return (
    <Empty title="This crate is empty">
      <p>Go to the Shelf, choose tracks, and drag them here or press P.</p>
      <Button variant="contained" color="error" onClick={onGo}>
        Go to the Shelf
      </Button>
    </Empty>
  );
}
