/** The crates as cards to choose; tracks can be dropped on them. */
import { Box, Button, TextField } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useEffectEvent, useRef, useState } from "react";
import { counted } from "../../api/changes";
import type { Crate } from "../../api/client";
import { ruleCountsQuery } from "../../api/queries";
import { playingTime } from "../../components/format";
import { ColumnCard, CardColumn } from "../../components/card-column";
import { KEYS } from "../../components/keys";
import { useKeys } from "../../components/use-keys";
import { useRemembered } from "../../settings";
import { cueColour } from "../../theme";
import { useCrateMenu } from "./crate-menu";
import { FolderRow } from "./folder-row";
import { allWithin, shownOf, type Node } from "./folders";
import { useCard } from "./list-dragging";
import type { Making } from "./make-crate";
import { RenameField } from "./rename-field";
import { TreeMenu } from "./tree-menu";

interface Props {
  crates: Crate[];
  open: number;
  onShow: (crate: Crate) => void;
  onMake: (making: Making) => void;
}

export function CrateCards({ crates, open, onShow, onMake }: Props) {
  const counts = useQuery({
    ...ruleCountsQuery,
    enabled: crates.some((crate) => crate.fills_itself),
  }).data;
  const { folded, fold, text, setText, shown } = useTree(crates);
  const [renaming, setRenaming] = useState<number | null>(null);
  useKeys(KEYS.lists.rename, () => setRenaming(open));
  const cardOf = (crate: Crate) => {
    const own = {
      open: crate.id === open,
      onShow: () => onShow(crate),
      onRename: () => setRenaming(crate.id),
    };
    if (renaming === crate.id) return <RenameField crate={crate} onClose={() => setRenaming(null)} />;
    if (!crate.is_folder)
      return <Card crate={crate} held={crate.fills_itself ? counts?.get(crate.id) : crate} {...own} />;
    return (
      <FolderRow
        {...own}
        folder={crate}
        within={allWithin(crates, crate.id)}
        folded={folded.includes(crate.id)}
        onFold={() => fold(crate.id)}
        onMake={onMake}
      />
    );
  };
  const { scroller, items, total, measure } = useCardsInSight(shown, open);
  return (
    <CardColumn
      label="Crates"
      heading={counted(crates.filter((crate) => !crate.is_folder).length, "crate")}
      scroller={scroller}
      top={
        <>
          <Others onMake={onMake} />
          {crates.length > MANY && <FindCrate text={text} onText={setText} />}
        </>
      }
      action={<Most onMake={onMake} />}
    >
      <Box sx={{ minHeight: total, pt: `${items[0]?.start ?? 0}px`, boxSizing: "border-box" }}>
        {items.map(({ index, key }) => {
          const node = shown[index];
          return (
            node && (
              <Box key={key} ref={measure} data-index={index} sx={{ pl: 1.6 * node.depth }}>
                {cardOf(node.crate)}
              </Box>
            )
          );
        })}
      </Box>
    </CardColumn>
  );
}

/** What of the tree is shown, as it is folded or looked through. */
function useTree(crates: Crate[]) {
  const [folded, setFolded] = useRemembered<number[]>("crates.folded", []);
  const [text, setText] = useState("");
  const fold = (id: number) =>
    setFolded(folded.includes(id) ? folded.filter((each) => each !== id) : [...folded, id]);
  return { folded, fold, text, setText, shown: shownOf(crates, folded, text) };
}

const CARD_PX = 41;

/** The cards in sight: there may be thousands. The open one is brought into it. */
function useCardsInSight(shown: readonly Node[], open: number) {
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: shown.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => CARD_PX,
    getItemKey: (index) => shown[index]?.crate.id ?? index,
    overscan: 12,
  });
  const place = shown.findIndex(({ crate }) => crate.id === open);
  const reveal = useEffectEvent(() => place >= 0 && rows.scrollToIndex(place, { align: "auto" }));
  useEffect(() => void reveal(), [open]);
  const [items, total] = [rows.getVirtualItems(), rows.getTotalSize()];
  return { scroller, items, total, measure: rows.measureElement };
}

function Most({ onMake }: { onMake: (making: Making) => void }) {
  return (
    <Box sx={{ whiteSpace: "nowrap" }}>
      <Button onClick={() => onMake({ kind: "hand", folder_id: null })}>Make a crate</Button>
      <TreeMenu />
    </Box>
  );
}

function Others({ onMake }: { onMake: (making: Making) => void }) {
  return (
    <Box sx={{ display: "flex", gap: 0.6, mb: 1, justifyContent: "space-between" }}>
      <Button
        title="A crate that fills itself by a rule"
        onClick={() => onMake({ kind: "rule", folder_id: null })}
      >
        ≡ One by rule
      </Button>
      <Button onClick={() => onMake({ kind: "folder", folder_id: null })}>A folder</Button>
    </Box>
  );
}

function FindCrate({ text, onText }: { text: string; onText: (text: string) => void }) {
  return (
    <TextField
      size="small"
      fullWidth
      placeholder="Find a crate"
      value={text}
      onChange={(event) => onText(event.target.value)}
      onKeyDown={(event) => event.key === "Escape" && onText("")}
      slotProps={{ htmlInput: { "aria-label": "Find a crate" } }}
      sx={{ mb: 1 }}
    />
  );
}

/** So many crates are overlooked without help. */
const MANY = 20;

interface CardProps {
  crate: Crate;
  /** How much it holds; not known yet for one that fills itself. */
  held: { tracks: number; duration_s: number } | undefined;
  open: boolean;
  onShow: () => void;
  onRename: () => void;
}

function Card({ crate, held, open, onShow, onRename }: CardProps) {
  const { inks } = useTheme();
  const { fills_itself: itself } = crate;
  const { ref, handle, over, dragging } = useCard(crate);
  const menu = useCrateMenu(crate, { onShow, onRename });
  const much = held ? `${counted(held.tracks, "track")}, ${playingTime(held.duration_s)}` : "…";
  return (
    <>
      <ColumnCard
        menu={menu}
        ref={ref}
        handle={handle}
        dragging={dragging}
        sign={crate.sign}
        edge={crate.colour ? cueColour(crate.colour, inks) : undefined}
        figure={`${itself ? "≡ " : ""}${held?.tracks.toLocaleString("en") ?? "…"}${crate.wanted ? ` +${crate.wanted}` : ""}`}
        name={crate.name}
        says={`${itself ? "Fills itself: " : ""}${much}${crate.wanted ? `, ${crate.wanted} wanted` : ""}`}
        open={open}
        over={over}
        corners="7px 7px 2px 2px"
        onShow={onShow}
        onRename={onRename}
      />
      {menu.menu}
      {menu.asked}
    </>
  );
}
