/** Hearing one chosen track go over into another, wherever tracks are chosen; nothing of it is kept but whether it works. */
import { useQueries } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Picked } from "../../api/client";
import { workbenchQuery } from "../../api/queries";
import { useSay } from "../messages";
import { MixDrawer } from "./mix-drawer";
import type { MixSettings, Pair } from "./use-mix";

const USUAL: MixSettings = { over_bars: 16, meet: "first" };

export function HearInto({ picked, onClose }: { picked: Picked; onClose: () => void }) {
  const say = useSay();
  const ids = picked.count === 2 ? (picked.chosen.ids ?? []) : [];
  const [turned, setTurned] = useState(false);
  const found = useQueries({ queries: ids.map((id) => workbenchQuery(id)) });
  const [first, second] = found.map(({ data }) => data?.track);
  const isTwo = ids.length === 2;
  useEffect(() => {
    if (isTwo) return;
    say("Choose two tracks: the first goes over into the second.");
    onClose();
  }, [isTwo, say, onClose]);
  if (!first || !second) return null;
  const pair = turned ? { out: second, into: first } : { out: first, into: second };
  const turn = () => {
    setTurned(!turned);
    return true;
  };
  return <Tried key={pair.out.id} pair={pair} onTurn={turn} onClose={onClose} />;
}

function Tried({ pair, onTurn, onClose }: { pair: Pair; onTurn: () => boolean; onClose: () => void }) {
  const [settings, setSettings] = useState(USUAL);
  return (
    <MixDrawer
      {...{ pair, settings, onClose }}
      keyHeld
      onSettings={setSettings}
      onStep={onTurn}
      steps="the other way round"
    />
  );
}
