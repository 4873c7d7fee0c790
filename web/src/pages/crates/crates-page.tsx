/** Crates: lists of tracks, the crates on the left, one of them open. */
import { DndContext } from "@dnd-kit/core";
import { SortableContext, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { Box, Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { usePutIntoCrate } from "../../api/changes";
import type { Crate, Picked } from "../../api/client";
import { cratesQuery } from "../../api/queries";
import { WithSide } from "../../components/with-side";
import { Empty } from "../../components/empty";
import { FirstSteps } from "../../components/first-steps";
import { KEYS } from "../../components/keys";
import { PutIntoCrate } from "../../components/put-into-crate";
import type { Dividers } from "../../components/divided";
import { TrackTable } from "../../components/track-table";
import { useKeys } from "../../components/use-keys";
import { useRemembered } from "../../settings";
import { rememberQueue } from "../workbench/queue-order";
import { CrateCards } from "./crate-cards";
import { CrateHead } from "./crate-head";
import { DividerDialog } from "./divider-dialog";
import { CrateDragging } from "./dragging";
import { FolderCrate } from "./folder-crate";
import { MakeCrate, type Making } from "./make-crate";
import { RuleCrate } from "./rule/rule-crate";
import { Wanted } from "./wanted";
import { useNoting } from "./note-dialog";
import { useDividers } from "./use-dividers";
import { useOpenCrate, type OpenCrateState } from "./use-open-crate";
import { usePasting } from "./use-pasting";

const LEFT_OUT = ["LUFS", "Added"];

export function CratesPage() {
  const { id } = useParams();
  const navigate = useNavigate();
  const crates = useQuery(cratesQuery).data;
  const [making, setMaking] = useState<Making | null>(null);
  const [last, setLast] = useRemembered<number | null>("crate", null);
  const lists = crates?.filter((crate) => !crate.is_folder);
  const open = crates?.find((crate) => crate.id === Number(id ?? last)) ?? lists?.[0];
  useEffect(() => {
    if (open && open.id !== last) setLast(open.id);
  }, [open, last, setLast]);
  const show = (crate: { id: number }) => void navigate(`/crates/${crate.id}`);
  const cards = crates && (
    <CrateCards crates={crates} open={open?.id ?? 0} onShow={show} onMake={setMaking} />
  );
  return (
    <>
      {open?.fills_itself && <RuleCrate key={open.id} crate={open} cards={cards} />}
      {open?.is_folder && <FolderCrate key={open.id} folder={open} cards={cards} />}
      {open && !open.fills_itself && !open.is_folder && (
        <OpenCrate key={open.id} crate={open} cards={cards} />
      )}
      {crates && !open && <NoCrates cards={crates.length ? cards : null} onMake={setMaking} />}
      <MakeCrate making={making} onMade={show} onClose={() => setMaking(null)} />
    </>
  );
}

interface NoProps {
  /** The folders, if there are any. */
  cards: React.ReactNode;
  onMake: (making: Making) => void;
}

function NoCrates({ cards, onMake }: NoProps) {
  const nothing = (
    <Empty title="No crates yet">
      <p>
        A crate is a list of tracks in an order of your own. Make one, then drag tracks onto it from the
        Shelf, or choose them and press P. Or say what belongs into it, and it fills itself.
      </p>
      <Box sx={{ display: "flex", gap: 1 }}>
        <Button variant="contained" color="error" onClick={() => onMake({ kind: "hand", folder_id: null })}>
          Make a crate
        </Button>
        <Button onClick={() => onMake({ kind: "rule", folder_id: null })}>Make one that fills itself</Button>
      </Box>
      <FirstSteps />
    </Empty>
  );
  if (!cards) return nothing;
  return (
    <DndContext>
      <WithSide name="the crates" remembered="crates side folded" side={cards}>
        {nothing}
      </WithSide>
    </DndContext>
  );
}

interface OpenProps {
  crate: Crate;
  cards: React.ReactNode;
}

function OpenCrate({ crate, cards }: OpenProps) {
  const navigate = useNavigate();
  const open = useOpenCrate(crate);
  const { sorts, setSorts, ids, source, selection, remove, byHand } = open;
  const [putting, setPutting] = useState<Picked | null>(null);
  const { dividers, writing, setWriting } = useDividers(crate, sorts, byHand);
  useShifting(open, dividers);
  const divide = () => byHand && !crate.divided_by && setWriting({ at: Math.max(0, selection.focus) });
  useKeys(KEYS.lists.divider, divide);
  usePasting(crate, open);
  const openTrack = (id: number) => {
    rememberQueue(crate.name, open.trackIds());
    void navigate(`/workbench/${source.trackIdOf(id)}`);
  };
  const noting = useNoting(open);
  const put = usePutIntoCrate();
  const putAfter = (id: number, place: number) => put.mutate({ crate, chosen: { ids: [id] }, at: place + 1 });
  return (
    <CrateDragging open={open}>
      <WithSide name="the crates" remembered="crates side folded" side={cards}>
        <Box sx={{ display: "flex", flexDirection: "column", minHeight: 0 }}>
          <CrateHead crate={crate} open={open} onDivider={divide} />
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
                onPutAfter={byHand ? putAfter : undefined}
                dividers={dividers}
                sortable
                without={LEFT_OUT}
                extra={[
                  { words: "Note on this place", at: KEYS.lists.note, act: noting.ask },
                  { words: "Take out of this crate", at: KEYS.lists.remove, act: remove },
                ]}
                notes={open.notes}
                view={`${crate.id} ${JSON.stringify(sorts)}`}
              />
            </SortableContext>
          )}
        </Box>
      </WithSide>
      {putting && <PutIntoCrate picked={putting} onClose={() => setPutting(null)} />}
      {noting.dialog}
      {writing && <DividerDialog crate={crate} writing={writing} onClose={() => setWriting(null)} />}
    </CrateDragging>
  );
}

/** What is chosen moves up and down by key. */
function useShifting({ shift }: OpenCrateState, { sections }: Dividers): void {
  const starts = sections.filter((each) => each.divider_id !== null).map(({ at }) => at);
  useKeys(KEYS.lists.reorder, () => shift(-1, starts));
  useKeys(KEYS.lists.reorderDown, () => shift(1, starts));
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
