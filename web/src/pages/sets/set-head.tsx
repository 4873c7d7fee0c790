/** The head of a set: which it is, where and when, how long against its slot, and what is done with it as a whole. */
import { Box, Button, Typography } from "@mui/material";
import { useState } from "react";
import { Confirm } from "../../components/confirm";
import { day, plural } from "../../components/format";
import { useItemMenu } from "../../components/item-menu";
import { KeyHint } from "../../components/key-hint";
import { shown } from "../../components/key-map";
import { KEYS } from "../../components/keys";
import { FIGURES } from "../../theme";
import { isWarned } from "./arc-picture";
import { SetDialog } from "./set-dialog";
import type { Asked } from "./set-view";
import { useSetMaking, type DjSet, type SetLine, type useSetChanges } from "./use-sets";

/** What a set goes out as. */
const FILES = [
  { form: "text", words: "As text" },
  { form: "m3u8", words: "As a playlist" },
  { form: "cue", words: "As a cue sheet, with the times planned" },
  { form: "csv", words: "As a table" },
] as const;

interface Props {
  set: DjSet;
  lines: readonly SetLine[];
  changes: ReturnType<typeof useSetChanges>;
  onOpen: (id: number) => void;
  onMake: () => void;
  onAsk: (what: Asked) => void;
}

export function SetHead({ set, lines, changes, onOpen, onMake, onAsk }: Props) {
  const [asked, setAsked] = useState<"facts" | "copy" | "delete" | null>(null);
  const others = useItemMenu("Sets", () => [
    ...lines.map((line) => ({
      words: [line.name, line.on_day && day(line.on_day)].filter(Boolean).join(", "),
      on: line.id === set.id,
      act: () => onOpen(line.id),
    })),
    { words: "Make a set…", hint: shown(KEYS.sets.make), act: onMake, apart: true },
  ]);
  const more = useItemMenu("What else can be done with this set", () => [
    { words: "Name, venue, date and time…", act: () => setAsked("facts") },
    { words: "For another date…", act: () => setAsked("copy") },
    { words: "Make a crate of it", act: () => changes.crate.mutate(undefined), off: !set.order.length },
    { words: "Want a track that you do not have…", hint: shown(KEYS.sets.want), act: () => onAsk("want") },
    {
      words: "Clearance…",
      hint: shown(KEYS.sets.clearance),
      act: () => onAsk("clearance"),
      off: !set.order.length,
    },
    ...FILES.map(({ form, words }) => ({
      words,
      act: () => window.open(`/api/sets/${set.id}/file?form=${form}`),
      off: !set.order.length,
    })),
    {
      words: "Players hold the key",
      on: set.key_held,
      act: () => changes.change.mutate({ key_held: !set.key_held }),
    },
    { words: "Delete this set…", act: () => setAsked("delete"), apart: true },
  ]);
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 1, px: 2.2, pt: 1.2, pb: 0.6 }}>
      <Button
        onClick={(event) => others.openAt(event.currentTarget)}
        title="Another set, or a new one"
        sx={{ border: 0, px: 0, minWidth: 0, textAlign: "left" }}
      >
        <Typography variant="h1" component="h1">
          {set.name} ▾
        </Typography>
      </Button>
      {others.menu}
      <Where set={set} />
      <Sums set={set} />
      <Button onClick={() => onAsk("order")} disabled={set.order.length < 2}>
        Order… <KeyHint>{shown(KEYS.sets.order)}</KeyHint>
      </Button>
      <Button onClick={() => onAsk("sheet")} disabled={!set.order.length}>
        Sheet <KeyHint>{shown(KEYS.sets.sheet)}</KeyHint>
      </Button>
      <Button onClick={(event) => more.openAt(event.currentTarget)}>More…</Button>
      {more.menu}
      <Dialogs set={set} asked={asked} changes={changes} onOpen={onOpen} onClose={() => setAsked(null)} />
    </Box>
  );
}

function Where({ set }: { set: DjSet }) {
  const times = set.begins && set.ends ? `${set.begins} to ${set.ends}` : set.begins;
  const words = [set.venue || "no venue yet", set.on_day && day(set.on_day), times]
    .filter(Boolean)
    .join(", ");
  return <Box sx={{ flex: 1, minWidth: 120, color: "text.secondary", fontSize: "0.88rem" }}>{words}</Box>;
}

/** Hours and minutes, as "2:51". */
const hours = (seconds: number): string => {
  const minutes = Math.round(seconds / 60);
  return `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, "0")}`;
};

/** How long it is, and how much speaks against it. */
function Sums({ set }: { set: DjSet }) {
  const warned = set.order.filter((entry) => isWarned(set, entry)).length;
  const over = set.slot_s !== null && set.lasts_s > set.slot_s;
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 1.6, fontSize: "0.84rem" }} data-testid="sums">
      <Box sx={{ fontFamily: FIGURES, color: over ? "warning.main" : undefined }}>
        <b>{hours(set.lasts_s)}</b>
        {set.slot_s !== null && ` of ${hours(set.slot_s)}`}
      </Box>
      <Box>{plural(set.order.length, "track")}</Box>
      {warned > 0 && <Box sx={{ color: "warning.main" }}>{warned} to look at</Box>}
    </Box>
  );
}

interface DialogsProps extends Pick<Props, "set" | "changes" | "onOpen"> {
  asked: "facts" | "copy" | "delete" | null;
  onClose: () => void;
}

function Dialogs({ set, changes, onOpen, asked, onClose }: DialogsProps) {
  const { copy, remove } = useSetMaking();
  if (asked === "facts")
    return (
      <SetDialog
        title="The set"
        action="Save"
        facts={set}
        onDone={({ name, venue, on_day, begins, ends }) =>
          changes.change.mutate({ name, venue, on_day, begins, ends })
        }
        onClose={onClose}
      />
    );
  if (asked === "copy")
    return (
      <SetDialog
        title="The same for another date"
        action="Copy it"
        facts={{ ...set, on_day: "" }}
        onDone={(body) => copy.mutate({ id: set.id, body }, { onSuccess: (made) => onOpen(made.id) })}
        onClose={onClose}
      />
    );
  return (
    <Confirm
      open={asked === "delete"}
      title={`Delete “${set.name}”?`}
      action="Delete it"
      onConfirm={() => remove.mutate(set.id)}
      onClose={onClose}
    >
      Its tray, its running order and its notes go; the tracks stay on the Shelf. Ctrl Z brings it back.
    </Confirm>
  );
}
