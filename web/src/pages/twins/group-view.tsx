/** One group of twins: heard side by side, compared, and settled. */
import { Alert, Box, Button, Checkbox, FormControlLabel, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState, useSyncExternalStore } from "react";
import { CopyPlayer, type Copy } from "../../audio/copies";
import { engine } from "../../audio/engine";
import { KeyHint } from "../../components/key-hint";
import { shown } from "../../components/key-map";
import { KEYS } from "../../components/keys";
import { ActionKey, useKeys } from "../../components/use-keys";
import { useRemembered } from "../../settings";
import { CarriedBox } from "./carried-box";
import { CopiesPicture } from "./copies-picture";
import { CopiesTable, type Fate } from "./copies-table";
import { VersionsDialog } from "./versions-dialog";
import { carriedQuery, groupQuery, useTwinChanges, type Group, type Line, type Track } from "./use-twins";

const SEEK_S = 10;
const DIGITS = [
  KEYS.twins.one,
  KEYS.twins.two,
  KEYS.twins.three,
  KEYS.twins.four,
  KEYS.twins.five,
  KEYS.twins.six,
];

export function GroupView({ line, onDone }: { line: Line; onDone: () => void }) {
  const { data: group, error } = useQuery(groupQuery(line.track_ids));
  if (error) return <Alert severity="info">{error.message}</Alert>;
  return group ? (
    <OpenGroup key={[group.kept_id, ...group.track_ids].join()} line={line} group={group} onDone={onDone} />
  ) : null;
}

function OpenGroup({ line, group, onDone }: { line: Line; group: Group; onDone: () => void }) {
  const player = usePlayer(group.tracks);
  const choice = useChoice(line, group);
  const [linking, setLinking] = useState(false);
  const { settlement, aside } = choice;
  const carried = useQuery({ ...carriedQuery(settlement), enabled: settles(settlement) }).data ?? undefined;
  const changes = useTwinChanges();
  const ids = group.track_ids;
  const settle = () => {
    if (!carried || !settles(settlement) || changes.settle.isPending) return;
    changes.settle.mutate({ ...settlement, seal: carried.seal, aside }, { onSuccess: onDone });
  };
  const none = () => changes.none.mutate(ids, { onSuccess: onDone });
  const later = () => changes.later.mutate({ track_ids: ids, later: !line.later });
  useKeys(KEYS.twins.settle, settle);
  useKeys(KEYS.twins.none, () => ids.length > 1 && none());
  useKeys(KEYS.twins.versions, () => ids.length > 1 && setLinking(true));
  useKeys(KEYS.twins.later, later);
  useKeys(KEYS.twins.keep, () => choice.setFate(ids[player.snapshot().heard] ?? 0, "keep"));
  useKeys(KEYS.twins.stay, () => choice.toggleStay(ids[player.snapshot().heard] ?? 0));
  return (
    <Box sx={{ flex: 1, minWidth: 0, overflow: "auto", px: 2.6, py: 1.8 }} data-testid="twins">
      <GroupHead line={line} group={group}>
        <GroupActions
          later={line.later}
          alone={ids.length < 2}
          kept={ORDINALS[ids.indexOf(settlement.kept_id)] ?? "chosen"}
          ready={settles(settlement) && carried !== undefined && !changes.settle.isPending}
          onLater={later}
          onNone={none}
          onVersions={() => setLinking(true)}
          onSettle={settle}
        />
      </GroupHead>
      <CopiesPicture
        copies={player.copies}
        cues={group.tracks.map(({ points }) => points)}
        player={player.player}
      />
      <PlayLine player={player.player} group={group} />
      <CopiesTable group={group} fateOf={choice.fateOf} onFate={choice.setFate} />
      <CarriedBox
        group={group}
        carried={settles(settlement) ? carried : undefined}
        giveWay={settlement.copy_ids}
        aside={aside}
        onChoose={choice.choose}
      />
      <FormControlLabel
        sx={{ mt: 0.6 }}
        control={<Checkbox size="small" checked={aside} onChange={(_, on) => choice.setAside(on)} />}
        label="Put the files aside; else they are only taken off the Shelf"
      />
      {linking && <VersionsDialog group={group} onClose={() => setLinking(false)} onDone={onDone} />}
    </Box>
  );
}

interface ActionsProps {
  later: boolean;
  /** There is one track only, with files of its very sound. */
  alone: boolean;
  kept: string;
  ready: boolean;
  onLater: () => void;
  onNone: () => void;
  onVersions: () => void;
  onSettle: () => void;
}

function GroupActions({ later, alone, kept, ready, onLater, onNone, onVersions, onSettle }: ActionsProps) {
  return (
    <>
      <Button onClick={onLater}>
        {later ? "Not later" : "Later"} <KeyHint>{shown(KEYS.twins.later)}</KeyHint>
      </Button>
      <Button disabled={alone} onClick={onNone}>
        Not twins <KeyHint>{shown(KEYS.twins.none)}</KeyHint>
      </Button>
      <Button disabled={alone} onClick={onVersions}>
        Keep all, as versions… <KeyHint>{shown(KEYS.twins.versions)}</KeyHint>
      </Button>
      <Button variant="contained" color="error" disabled={!ready} onClick={onSettle}>
        Keep the {kept} <KeyHint>{shown(KEYS.twins.settle)}</KeyHint>
      </Button>
    </>
  );
}

const ORDINALS = ["first", "second", "third", "fourth", "fifth", "sixth"];

const settles = ({ copy_ids, copies = [] }: { copy_ids: number[]; copies?: string[] }): boolean =>
  copy_ids.length + copies.length > 0;

/** What becomes of each file, as proposed until something is chosen. */
function useChoice(line: Line, group: Group) {
  const areTwins = line.kind === "sure" || line.kind === "same";
  const [kept, setKept] = useState(group.kept_id);
  const [staying, setStaying] = useState<readonly number[]>(areTwins ? [] : group.track_ids);
  const [choices, setChoices] = useState<Record<string, number>>({});
  const [aside, setAside] = useRemembered("twins.aside", true);
  const fateOf = (id: number): Fate => (id === kept ? "keep" : staying.includes(id) ? "leave" : "aside");
  const setFate = (id: number, fate: Fate) => {
    if (fate === "keep") setKept(id);
    else if (id !== kept)
      setStaying(fate === "leave" ? [...staying, id] : staying.filter((each) => each !== id));
  };
  const settlement = {
    kept_id: kept,
    copy_ids: group.track_ids.filter((id) => fateOf(id) === "aside"),
    copies: group.copies.map(({ path }) => path),
    choices,
  };
  const choose = (field: string, from: number) => setChoices({ ...choices, [field]: from || kept });
  const toggleStay = (id: number) => setFate(id, fateOf(id) === "leave" ? "aside" : "leave");
  return { settlement, aside, setAside, fateOf, setFate, choose, toggleStay };
}

function GroupHead({ line, group, children }: { line: Line; group: Group; children: React.ReactNode }) {
  const likeness = Math.max(0, ...group.tracks.map((track) => track.likeness ?? 0));
  const times = ["", "once", "twice", "three times", "four times", "five times"][line.files];
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 1, mb: 1 }}>
      <Box sx={{ flex: 1, minWidth: 260 }}>
        <Typography variant="h1" component="h2">
          {line.title || "Without a title"}, {times ?? `${line.files} times`}
        </Typography>
        <Box sx={{ color: "text.secondary", fontSize: "0.88rem" }}>
          {line.artist} · {line.words}
          {likeness > 0 && `, ${likeness.toFixed(2)}`} · proposed: {group.reason}
        </Box>
      </Box>
      {children}
    </Box>
  );
}

/** The player of these files, as long as the group is open. */
function usePlayer(tracks: readonly Track[]) {
  const [player] = useState(() => new CopyPlayer());
  const copies = useMemo<Copy[]>(() => copiesOf(tracks), [tracks]);
  useEffect(() => {
    player.load(copies);
    return () => player.load([]);
  }, [player, copies]);
  return { player, copies, snapshot: player.snapshot };
}

/** All are played as loud as the quietest. */
function copiesOf(tracks: readonly Track[]): Copy[] {
  const quietest = Math.min(...tracks.map(({ lufs }) => lufs ?? 0));
  return tracks.map(({ track_id, duration_s, speed, offset_s, lufs }) => ({
    track: track_id,
    duration: duration_s,
    speed: speed ?? 1,
    offset: offset_s ?? 0,
    gain: lufs === null ? 1 : 10 ** ((quietest - lufs) / 20),
  }));
}

function PlayLine({ player, group }: { player: CopyPlayer; group: Group }) {
  const { playing, heard, problem } = useSyncExternalStore(player.subscribe, player.snapshot);
  const toggle = () => {
    engine.pause();
    void player.toggle();
  };
  useKeys(KEYS.twins.play, toggle);
  useKeys(KEYS.twins.back, () => player.seek(player.position() - SEEK_S));
  useKeys(KEYS.twins.forth, () => player.seek(player.position() + SEEK_S));
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1, mt: 0.8, fontSize: "0.84rem" }}>
      {DIGITS.slice(0, group.tracks.length).map((entry, place) => (
        <ActionKey key={entry.id} entry={entry} act={() => player.hear(place)} />
      ))}
      <Button size="small" onClick={toggle} data-playing={playing} data-heard={heard + 1}>
        {playing ? "Pause" : "Play"} <KeyHint>{shown(KEYS.twins.play)}</KeyHint>
      </Button>
      <Box sx={{ color: problem ? "error.main" : "text.secondary" }} role={problem ? "alert" : undefined}>
        {problem ?? `Copy ${heard + 1} is heard. ${saidOf(group)}`}
      </Box>
    </Box>
  );
}

function saidOf({ tracks }: Group): string {
  if (tracks.length < 2) return "The other files have the very same sound.";
  const keys = tracks.map((_, place) => place + 1).join(" ");
  const unknown = tracks.some(({ speed }) => speed === null);
  if (unknown) return `${keys} change the copy; their sound is not laid over each other: it differs.`;
  const apart = tracks
    .map(({ offset_s, speed }, place) => ({ place: place + 1, offset: offset_s ?? 0, speed: speed ?? 1 }))
    .filter(({ offset, speed }) => Math.abs(offset) >= 0.005 || speed !== 1)
    .map(({ place, offset, speed }) =>
      speed === 1
        ? `${place} starts ${Math.abs(offset).toFixed(2)} s ${offset > 0 ? "later" : "earlier"}`
        : `${place} runs ${(100 * Math.abs(1 / speed - 1)).toFixed(2)} % ${speed < 1 ? "faster" : "slower"}`,
    );
  return `${keys} change the copy while it plays, at the same place and loudness. ${apart.join(", ") || "All begin alike"}.`;
}
