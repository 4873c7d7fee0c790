/** The Shelf: the whole collection, its index of pictures, a search, and the table. */
import { Box, Button } from "@mui/material";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { counted } from "../../api/changes";
import type { Offered, Picked } from "../../api/client";
import {
  idsQuery,
  limitsQuery,
  picturesQuery,
  type Found,
  type PictureName,
  type Sort,
} from "../../api/queries";
import { Empty } from "../../components/empty";
import { FirstSteps } from "../../components/first-steps";
import { KEYS } from "../../components/keys";
import { PutIntoCrate } from "../../components/put-into-crate";
import { TrackTable } from "../../components/track-table";
import { useFound, type TrackSource } from "../../components/tracks";
import { useFixed } from "../../components/use-fixed";
import { useKeys } from "../../components/use-keys";
import { useRested } from "../../components/use-rested";
import { WithSide } from "../../components/with-side";
import { useSelection } from "../../components/use-selection";
import { LONGEST, rememberQueue } from "../workbench/queue-order";
import { ShelfDragging } from "./crate-drop";
import { FolderTree } from "./folder-tree";
import { useShownPictures, type Shown } from "./pictures";
import { SearchLine } from "./search-line";
import { Chips, Only } from "./shelf-filters";
import { PictureChoice, ShelfIndex } from "./shelf-index";
import { KeepAsRule } from "./keep-as-rule";
import {
  changesByAll,
  conditionOf,
  sortsOf,
  useShelfQuery,
  type Changes,
  type Filters,
} from "./use-shelf-query";
import { useToRows } from "./use-to-rows";

export function ShelfPage() {
  const { filters, marked, found, sorts, change, sortBy, clear } = useShelfQuery();
  const source = useFound(found);
  const selection = useSelection(source);
  const shown = useShownPictures();
  const rested = useRested(filters.q, REST_MS) === filters.q;
  const pictures = usePictures(found, shown, source.settled && rested);
  const [putting, setPutting] = useState<Picked | null>(null);
  // What stands in the search, where something else than typing has put it there.
  const [put, setPut] = useState({ times: 0, text: filters.q ?? "" });
  const open = useOpen(found);
  const { toRows } = useFixed({ toRows: useToRows(source, selection, (id, place) => void open(id, place)) });
  useKeys(KEYS.lists.pictures, shown.fold);
  if (source.library === 0) return <NothingYet />;
  const showAll = () => {
    clear();
    setPut({ times: put.times + 1, text: "" });
  };
  const take = (offer: Offered) => {
    change({ ...changesByAll(offer, marked), q: offer.rest }, sortsOf(offer));
    setPut({ times: put.times + 1, text: offer.rest });
  };
  return (
    <ShelfDragging selection={selection}>
      {pictures && <ShelfIndex index={pictures} filters={marked} onChange={change} shown={shown} />}
      <FilterBar
        key={put.times}
        begun={put.text}
        filters={filters}
        marked={marked}
        source={source}
        sorts={sorts}
        shown={shown}
        onChange={change}
        onRows={toRows}
      />
      <WithFolders folder={filters.folder} onChange={change}>
        {source.failure !== null ? (
          <Empty title="This could not be read">{source.failure}</Empty>
        ) : source.total === 0 ? (
          <NothingFound text={filters.q ?? ""} onTake={take} onShowAll={showAll} />
        ) : (
          <TrackTable
            list="shelf"
            label="Tracks"
            view={JSON.stringify(found)}
            source={source}
            selection={selection}
            sorts={sorts}
            onSort={sortBy}
            onOpen={(id, place) => void open(id, place)}
            onPutIntoCrate={setPutting}
          />
        )}
      </WithFolders>
      {putting && <PutIntoCrate picked={putting} onClose={() => setPutting(null)} />}
    </ShelfDragging>
  );
}

interface WithFoldersProps {
  folder: string | undefined;
  onChange: (changes: Changes) => void;
  children: React.ReactNode;
}

function WithFolders({ folder, onChange, children }: WithFoldersProps) {
  const [byKey, setByKey] = useState(false);
  useKeys(KEYS.lists.foldSide, () => setByKey(true));
  const tree = <FolderTree chosen={folder} onChoose={(folder) => onChange({ folder })} takesFocus={byKey} />;
  return (
    <WithSide name="the folders" remembered="shelf side folded" foldedAtFirst side={tree}>
      {children}
    </WithSide>
  );
}

const MOST_OFFERED = 5;
/** For so long nobody has typed before the pictures are counted again. */
const REST_MS = 400;

/** The counts of the pictures that stand there, asked for once the rows have come. */
function usePictures(found: Found, { pictures, folded }: Shown, ready: boolean) {
  const names = pictures.filter((picture): picture is PictureName => !picture.startsWith("tags "));
  const tags = names.length < pictures.length;
  return useQuery({ ...picturesQuery(found.where, names, tags), enabled: ready && !folded }).data;
}

/** Opens a track on the Workbench, with what the Shelf shows around it as the list to go through. */
function useOpen(found: Found) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  return async (id: number, place: number) => {
    const first = Math.max(0, place - LONGEST / 2);
    const { ids } = await queries.fetchQuery(idsQuery(found, first, LONGEST));
    rememberQueue("The Shelf", ids);
    void navigate(`/workbench/${id}`);
  };
}

interface BarProps {
  /** What stands in the search at first. */
  begun: string;
  filters: Filters;
  /** The filters without the words. */
  marked: Filters;
  source: TrackSource;
  sorts: readonly Sort[];
  shown: Shown;
  onChange: (changes: Changes, sorts?: readonly Sort[]) => void;
  onRows: () => void;
}

/** The search, the filters that are on, and how much they leave. */
function FilterBar({ begun, filters, marked, source, sorts, shown, onChange, onRows }: BarProps) {
  return (
    <Box
      sx={(theme) => ({
        display: "flex",
        alignItems: "center",
        flexWrap: "wrap",
        gap: 1,
        px: 2,
        py: 0.7,
        bgcolor: theme.inks.bar,
        borderBlock: 1,
        borderColor: "divider",
        flex: "none",
      })}
    >
      <SearchLine begun={begun} marked={marked} onChange={onChange} onRows={onRows} />
      <Only value={filters.only ?? ""} onChange={onChange} />
      <Chips filters={marked} onChange={onChange} />
      <KeepAsRule
        where={conditionOf({ ...filters, ...(source.readAs && { q: source.readAs }) })}
        sorts={sorts}
      />
      {source.readAs && (
        <Box role="status" sx={{ fontSize: "0.8rem", color: "warning.main" }}>
          Nothing is written so; found as “{source.readAs}”
        </Box>
      )}
      <Box sx={{ flex: 1 }} />
      <Box sx={{ fontSize: "0.8rem", color: "text.secondary" }} data-testid="count">
        {source.total !== null && (
          <>
            <Box component="b" sx={{ color: "text.primary" }}>
              {source.total.toLocaleString("en")}
            </Box>{" "}
            of {counted(source.library ?? 0, "track")}
          </>
        )}
      </Box>
      <PictureChoice chosen={shown} />
    </Box>
  );
}

interface NothingProps {
  /** The words that were looked for. */
  text: string;
  onTake: (offer: Offered) => void;
  onShowAll: () => void;
}

/** What to do where nothing is found: what the words may mean as limits, or all tracks. */
function NothingFound({ text, onTake, onShowAll }: NothingProps) {
  const { data: offers = [], isLoading } = useQuery(limitsQuery(text));
  // Of those that say the same, the last leaves the fewest words over.
  const limits = [...new Map(offers.filter(({ where }) => where).map((each) => [each.words, each])).values()];
  // What is offered later would move the buttons under the finger.
  if (isLoading) return null;
  return (
    <Empty title={text ? `No track has the words “${text}”` : "No track meets all these limits"}>
      {text.trim() && limits.length > 0 && (
        <>
          <p>They may be meant as a limit:</p>
          <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.8, mb: 1.5 }}>
            {limits.slice(0, MOST_OFFERED).map((offer) => (
              <Button key={offer.words} onClick={() => onTake(offer)}>
                {offer.words}
              </Button>
            ))}
          </Box>
        </>
      )}
      <p>
        {text ? "Search for fewer words, or take a limit away." : "Take a limit away."} Limits can be said in
        plain words: “120 to 126 bpm, not played since October”.
      </p>
      <Button onClick={onShowAll}>Show all tracks</Button>
    </Empty>
  );
}

function NothingYet() {
  const navigate = useNavigate();
  return (
    <Empty title="The Shelf is empty">
      <p>Bring music in first: Vinyl reads it where it lies.</p>
      <Button variant="contained" color="error" onClick={() => void navigate("/arrivals")}>
        Go to Arrivals
      </Button>
      <FirstSteps />
    </Empty>
  );
}
