/** The chain at the side of a running order: its picture, what it goes on to, and its keys. */
import { Box, Button } from "@mui/material";
import { KeyHint } from "../../components/key-hint";
import { shown } from "../../components/key-map";
import { KEYS } from "../../components/keys";
import { useKeys } from "../../components/use-keys";
import { ChainPicture } from "./chain-picture";
import { chainRows } from "./chain-rows";
import { ofEntry, type Acts, type Line } from "./side-lines";
import type { Chain } from "./use-chain";
import type { DjSet, Entry } from "./use-sets";

export function ChainHead({ chain, acts, onGone }: { chain: Chain; acts: Acts; onGone: () => void }) {
  return (
    <>
      <ChainPicture chain={chain} onGone={onGone} />
      {chain.at && <WayButtons chain={chain} acts={acts} />}
    </>
  );
}

/** What the chain can go on to, but no track of the way that led here; or with what one can begin. */
export function chainLines(chain: Chain, goesOn: Line[], set: DjSet, after: Entry | undefined): Line[] {
  const gone = new Set(chain.way.map(({ track_id }) => track_id));
  if (chain.at) return goesOn.filter(({ track_id }) => !gone.has(track_id));
  return [...(after ? [after] : []), ...set.tray].filter(({ on_shelf }) => on_shelf).map(ofEntry);
}

/** In the chain a line is gone on to, and what is taken away is the step one is at. */
export function chainActs(chain: Chain, onGone: () => void): Pick<Acts, "place" | "takeOut"> {
  return {
    place: ({ track_id }) => {
      if (track_id !== null) chain.goOn(track_id, onGone);
    },
    takeOut: () => undefined,
  };
}

interface ChainKeys {
  chain: Chain;
  active: boolean;
  setAt: (place: number) => void;
  acts: Acts;
}

/** Along the chain by key: back, to another step, away with one; and the way one went into the set. */
export function useChainKeys({ chain, active, setAt, acts }: ChainKeys) {
  const go = (act: () => void) => () => {
    if (!active) return;
    act();
    setAt(0);
  };
  const step = (by: 1 | -1) =>
    go(() => {
      const rows = chainRows(chain.steps);
      const to = rows[rows.findIndex(({ step: { id } }) => id === chain.at?.id) + by];
      if (chain.at && to) chain.goTo(to.step);
      else if (!chain.at) chain.goTo(rows[0]?.step);
    });
  const ids = idsOf(chain);
  useKeys(KEYS.sets.stepBack, go(chain.back));
  useKeys(
    KEYS.sets.begin,
    go(() => chain.goTo(undefined)),
  );
  useKeys(KEYS.sets.earlier, step(-1));
  useKeys(KEYS.sets.later, step(1));
  useKeys(KEYS.sets.takeOut, go(chain.takeBack));
  useKeys(KEYS.sets.way, () => active && ids.length && acts.placeAll(ids));
  useKeys(KEYS.sets.wayToTray, () => active && ids.length && acts.trayAll(ids));
}

function idsOf(chain: Chain): number[] {
  return chain.way.flatMap(({ on_shelf, track_id }) => (on_shelf && track_id !== null ? [track_id] : []));
}

function WayButtons({ chain, acts }: { chain: Chain; acts: Acts }) {
  const ids = idsOf(chain);
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.5, px: 1.6, py: 0.6 }}>
      <Button size="small" onClick={chain.back}>
        Back <KeyHint>{shown(KEYS.sets.stepBack)}</KeyHint>
      </Button>
      <Button size="small" onClick={() => chain.goTo(undefined)}>
        Begin another <KeyHint>{shown(KEYS.sets.begin)}</KeyHint>
      </Button>
      <Button size="small" disabled={!ids.length} onClick={() => acts.placeAll(ids)}>
        Place this way <KeyHint>{shown(KEYS.sets.way)}</KeyHint>
      </Button>
      <Button size="small" disabled={!ids.length} onClick={() => acts.trayAll(ids)}>
        Into the tray <KeyHint>{shown(KEYS.sets.wayToTray)}</KeyHint>
      </Button>
    </Box>
  );
}
