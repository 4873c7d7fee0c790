/** All that can be done with the chosen tracks of a list: the one set that keys, strip and menu share. */
import { useMemo, useState, type ReactNode } from "react";
import { counted, lastCrate, useEditValues, useNotePlayed, usePutIntoCrate } from "../api/changes";
import type { Picked } from "../api/client";
import { AnalyseDialog } from "./analyse-dialog";
import { BackingDialog } from "./backing-dialog";
import { keepCopy } from "./clipboard";
import { DeleteCuesDialog } from "./delete-cues-dialog";
import { EditDialog } from "./edit-dialog";
import { KEYS, type KeyEntry } from "./keys";
import { HearInto } from "./mix/hear-into";
import { LocksDialog } from "./locks-dialog";
import { useSay } from "./messages";
import { OffShelfDialog } from "./off-shelf-dialog";
import { RepairDialog } from "./repair-dialog";
import { RereadDialog } from "./reread-dialog";
import { askName } from "./tagging";
import { TemplateDialog } from "./template-dialog";
import type { TrackTableProps } from "./track-table";
import { useFixed } from "./use-fixed";
import { PutIntoSet } from "./put-into-set";
import { VersionsDialog } from "./versions-dialog";
import { WriteDialog } from "./write-dialog";

export interface TrackAction {
  words: string;
  at: KeyEntry;
  act: () => void;
  /** Stands in the strip, not in the menu alone. */
  often?: boolean;
  /** A line in the menu before it. */
  apart?: boolean;
}

type What = (props: { picked: Picked; onClose: () => void }) => ReactNode;
export type Side = "tags" | "fits" | "plays" | null;

interface Hands {
  setSide: (side: Side) => void;
  play: () => void;
}

export function useTrackActions(props: TrackTableProps, side: Side, hands: Hands) {
  const { source, selection } = props;
  const { lists } = KEYS;
  const [asked, setAsked] = useState<{ what: What; picked: Picked } | null>(null);
  const edit = useEditValues();
  const played = useNotePlayed();
  const intoCrates = useIntoCrates(props);
  const focused = source.trackAt(selection.focus);
  const ask = (what: What) => () => {
    if (selection.count) setAsked({ what, picked: selection.picked() });
  };
  const mark = (name: "never again" | "wanted", is: boolean | undefined) => () =>
    selection.count && edit.mutate({ ...selection.picked().chosen, values: { [name]: is ? "no" : "yes" } });
  const { never_again: never, wanted } = focused ?? {};
  const open = () => {
    const id = source.idAt(selection.focus);
    if (id !== undefined) props.onOpen(id, selection.focus);
  };
  const show = (which: Side) => () => hands.setSide(side === which ? null : which);
  const actions: TrackAction[] = [
    { words: "Open on the Workbench", at: lists.open, act: open },
    { words: "Play from its main part", at: lists.play, act: hands.play },
    { words: "Fits this", at: lists.fits, act: show("fits"), often: true },
    { words: "Where it was played", at: lists.history, act: show("plays") },
    { words: "Tags", at: lists.tags, act: show("tags"), often: true, apart: true },
    {
      words: "Tag by name, or a new one",
      at: lists.tagName,
      act: () => {
        hands.setSide("tags");
        askName();
      },
    },
    { words: "Edit", at: lists.edit, act: ask(EditDialog), often: true },
    {
      words: never ? "Play again after all" : "Never again",
      at: lists.never,
      act: mark("never again", never),
    },
    {
      words: wanted ? "No longer wanted" : "Wanted in a better file",
      at: lists.wanted,
      act: mark("wanted", wanted),
    },
    { words: "Shared backing", at: lists.backing, act: ask(BackingDialog) },
    { words: "Versions of one work", at: lists.versions, act: ask(VersionsDialog) },
    {
      words: "Note as played now",
      at: lists.played,
      act: () => selection.count && played.mutate(selection.picked().chosen),
    },
    ...intoCrates,
    ...forSets(ask),
    ...(props.extra ?? []),
    ...preparing(ask),
    ...withFiles(ask),
  ];
  const dialog = asked && <asked.what picked={asked.picked} onClose={() => setAsked(null)} />;
  return { actions: useSteady(actions), dialog };
}

type Ask = (what: What) => () => void;

function forSets(ask: Ask): TrackAction[] {
  const { lists } = KEYS;
  return [
    { words: "Put into the tray of a set", at: lists.intoSet, act: ask(PutIntoSet) },
    { words: "Hear one go over into the other", at: lists.hearInto, act: ask(HearInto) },
  ];
}

function preparing(ask: Ask): TrackAction[] {
  const { lists } = KEYS;
  return [
    { words: "Use a cue template", at: lists.template, act: ask(TemplateDialog), often: true },
    { words: "Delete cues", at: lists.deleteCues, act: ask(DeleteCuesDialog) },
    { words: "Lock or unlock", at: lists.lock, act: ask(LocksDialog) },
    { words: "Analyse", at: lists.analyse, act: ask(AnalyseDialog), often: true },
  ];
}

function withFiles(ask: Ask): TrackAction[] {
  const { lists } = KEYS;
  return [
    { words: "Repair texts", at: lists.repair, act: ask(RepairDialog), apart: true },
    { words: "Read tags again", at: lists.reread, act: ask(RereadDialog) },
    { words: "Write into files", at: lists.write, act: ask(WriteDialog) },
    { words: "Take off the Shelf", at: lists.offShelf, act: ask(OffShelfDialog), apart: true },
  ];
}

/** The ways of the chosen tracks into crates. */
function useIntoCrates({ selection, onPutIntoCrate }: TrackTableProps): TrackAction[] {
  const put = usePutIntoCrate();
  const say = useSay();
  const { lists } = KEYS;
  const intoLast = () => {
    const crate = lastCrate();
    if (!crate) say("No crate was used yet: put tracks into one first (P).");
    else if (selection.count) put.mutate({ crate, chosen: selection.picked().chosen });
  };
  const copy = () => {
    if (!selection.count) return;
    keepCopy(selection.picked().chosen);
    say(`${counted(selection.count, "track")} copied: paste them in a crate.`);
  };
  return [
    {
      words: "Put into a crate",
      at: lists.crate,
      act: () => selection.count && onPutIntoCrate(selection.picked()),
      often: true,
      apart: true,
    },
    { words: "Put into the crate used last", at: lists.lastCrate, act: intoLast },
    { words: "Copy", at: lists.copy, act: copy },
  ];
}

const said = (actions: TrackAction[]): string => actions.map(({ words, at }) => `${at.id} ${words}`).join();

/** The same actions until they are said otherwise; they do what the newest ones do. */
function useSteady(newest: TrackAction[]): TrackAction[] {
  const acts = useFixed(Object.fromEntries(newest.map(({ at, act }) => [at.id, act])));
  const [actions, setActions] = useState(newest);
  if (said(actions) !== said(newest)) setActions(newest);
  return useMemo(
    () => actions.map((action) => ({ ...action, act: acts[action.at.id] ?? action.act })),
    [actions, acts],
  );
}
