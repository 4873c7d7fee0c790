/** The running order: each track with its time, and between two the joint in words. */
import { Box } from "@mui/material";
import { useEffect, useRef } from "react";
import { KeyRing } from "../../components/key-ring";
import { FIGURES, NAMES } from "../../theme";
import { usePickedUp, useSpot } from "./set-dragging";
import type { DjSet, Entry, Joint } from "./use-sets";

interface Props {
  set: DjSet;
  place: number;
  active: boolean;
  onChoose: (place: number) => void;
  onJoint: () => void;
  /** On the Workbench. */
  onOpen: (entry: Entry) => void;
}

const COLUMNS = "1.2rem 3.4rem minmax(5rem, 1fr) 4.2rem 7rem 3.4rem 4.8rem minmax(0, 0.5fr)";
const PINS: Record<string, string> = { first: "opens", last: "closes", here: "stays here" };

export function RunningOrder({ set, place, active, onChoose, onJoint, onOpen }: Props) {
  const joints = new Map(set.joints.map((joint) => [joint.out_id, joint]));
  return (
    <Box
      role="list"
      aria-label="Running order"
      sx={{ flex: 1, minHeight: 0, overflow: "auto", px: 2.2, pb: 2, fontSize: "0.9rem" }}
    >
      <Box
        sx={{
          ...{ display: "grid", gridTemplateColumns: COLUMNS, columnGap: 1, py: 0.6, zIndex: 1 },
          ...{
            position: "sticky",
            top: 0,
            bgcolor: "background.default",
            borderBottom: 1,
            borderColor: "divider",
          },
          ...{ fontSize: "0.78rem", fontWeight: 600 },
        }}
      >
        {["", "at", "Running order", "Tempo", "Key", "Energy", "Here", "Note"].map((name, column) => (
          <span key={column}>{name}</span>
        ))}
      </Box>
      {set.order.map((entry, at) => {
        const joint = joints.get(entry.id);
        return (
          <Box key={entry.id} onClick={() => onChoose(at)}>
            <EntryRow entry={entry} chosen={at === place} active={active} onOpen={() => onOpen(entry)} />
            {joint && (
              <JointLine
                joint={joint}
                chosen={at === place}
                onOpen={() => {
                  onChoose(at);
                  onJoint();
                }}
              />
            )}
          </Box>
        );
      })}
      <Behind />
    </Box>
  );
}

/** The room behind the last track, for what is let go there. */
function Behind() {
  const { setNode, isOver, id } = useSpot(null);
  return (
    <Box
      ref={setNode}
      data-drop={id}
      sx={(theme) => ({
        minHeight: "4rem",
        borderTop: `2px solid ${isOver ? theme.inks.chosen : "transparent"}`,
      })}
    />
  );
}

interface RowProps {
  entry: Entry;
  chosen: boolean;
  active: boolean;
  onOpen: () => void;
}

/** A row that can be picked up, and on which can be let go. */
function EntryBox({ entry, chosen, active, onOpen, children }: RowProps & { children: React.ReactNode }) {
  const row = useRef<HTMLDivElement>(null);
  const { setNode: setSpot, isOver, id: spot } = useSpot(entry.id);
  const hand = usePickedUp(`entry-${entry.id}`, { entry: entry.id, track_id: entry.track_id });
  useEffect(() => {
    if (chosen) row.current?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  return (
    <Box
      ref={(element: HTMLDivElement | null) => {
        row.current = element;
        setSpot(element);
        hand.setNode(element);
      }}
      {...hand.listeners}
      role="listitem"
      aria-current={chosen}
      data-entry={entry.title}
      data-drop={spot}
      onDoubleClick={onOpen}
      sx={(theme) => ({
        ...{ display: "grid", gridTemplateColumns: COLUMNS, columnGap: 1, alignItems: "center", py: 0.8 },
        ...{ cursor: "pointer", scrollMarginTop: "2.4rem", scrollMarginBottom: "2.4rem" },
        bgcolor: chosen ? theme.inks.chosenWash : undefined,
        outline: isOver
          ? `2px dashed ${theme.inks.chosen}`
          : chosen && active
            ? `1px solid ${theme.inks.chosen}`
            : undefined,
        opacity: hand.isDragging ? 0.5 : undefined,
      })}
    >
      {children}
    </Box>
  );
}

function EntryRow(row: RowProps) {
  const { entry, chosen } = row;
  const never = entry.cautions.some(({ kind }) => kind === "never" || kind === "missing" || kind === "away");
  return (
    <EntryBox {...row}>
      <Box
        component="span"
        title={PINS[entry.pin]}
        sx={{ color: entry.pin ? "secondary.main" : "text.secondary" }}
      >
        {entry.pin ? "■" : entry.with_next ? "┃" : ""}
      </Box>
      <Box sx={{ fontFamily: FIGURES, color: "text.secondary" }}>{entry.at}</Box>
      <Box sx={{ minWidth: 0 }}>
        <Box
          component="span"
          sx={{ fontFamily: NAMES, fontWeight: 600, color: never && !chosen ? "warning.main" : undefined }}
        >
          {entry.title || "without a title"}
        </Box>{" "}
        <Box component="span" sx={{ color: "text.secondary" }}>
          {entry.artist}
          {entry.explicit && " · explicit"}
          {entry.with_next && " · stays with the next"}
        </Box>
        <Against entry={entry} chosen={chosen} />
      </Box>
      <Box sx={{ fontFamily: FIGURES }}>{entry.bpm?.toFixed(2) ?? "–"}</Box>
      <Box sx={{ display: "flex", alignItems: "center", gap: 0.6, whiteSpace: "nowrap" }}>
        {entry.key ? (
          <>
            <KeyRing name={entry.key} /> {entry.key}
          </>
        ) : (
          "–"
        )}
      </Box>
      <Box sx={{ fontFamily: FIGURES }}>{entry.energy ?? "–"}</Box>
      <Here entry={entry} chosen={chosen} />
      <Box sx={{ color: "text.secondary", overflowWrap: "anywhere" }}>
        {[PINS[entry.pin], entry.note].filter(Boolean).join(": ")}
      </Box>
    </EntryBox>
  );
}

/** What speaks against a track, but that it was played there, which stands in a column of its own. */
function Against({ entry, chosen }: { entry: Entry; chosen: boolean }) {
  const cautions = entry.cautions.filter(({ kind }) => kind !== "here");
  if (!cautions.length) return null;
  return (
    <Box
      sx={{ color: chosen ? undefined : "warning.main", fontSize: "0.8rem" }}
      title={cautions.map(({ words, help }) => `${words}: ${help}`).join("\n")}
    >
      {cautions.map(({ words }) => words).join(" · ")}
    </Box>
  );
}

/** When it was played there last, in ochre if that is not long ago. */
function Here({ entry, chosen }: { entry: Entry; chosen: boolean }) {
  const lately = entry.cautions.find(({ kind }) => kind === "here");
  const times = entry.times_here === 1 ? "played here once" : `played here ${entry.times_here} times`;
  return (
    <Box
      sx={{ color: chosen ? undefined : lately ? "warning.main" : "text.secondary", whiteSpace: "nowrap" }}
      title={lately ? `${times}: ${lately.help}` : entry.times_here ? times : undefined}
    >
      {entry.last_here ? `${entry.last_here}${lately ? " !" : ""}` : "never"}
    </Box>
  );
}

function JointLine({ joint, chosen, onOpen }: { joint: Joint; chosen: boolean; onOpen: () => void }) {
  const warned = joint.cautions.length > 0;
  const words = [
    joint.settings.over_bars ? `${joint.settings.over_bars} bars over` : "cut",
    ...(joint.works === null ? [] : [joint.works ? "works" : "does not work"]),
    ...(warned ? joint.cautions.map(({ words: against }) => against) : joint.words),
    ...(joint.note ? [joint.note] : []),
  ];
  return (
    <Box sx={{ display: "flex", borderBottom: 1, borderColor: "divider", pl: "5.4rem" }}>
      <Box
        sx={(theme) => ({
          borderLeft: `2px ${warned ? "dashed" : "solid"} ${warned ? theme.inks.doubt : theme.inks.sure}`,
          ...{ pl: 1, py: 0.3, fontSize: "0.8rem", fontWeight: chosen ? 600 : 400, cursor: "pointer" },
          color: warned ? "warning.main" : "text.secondary",
        })}
        title={[
          ...joint.words,
          ...joint.cautions.map(({ words: against, help }) => `${against}: ${help}`),
        ].join("\n")}
        onDoubleClick={onOpen}
      >
        {words.join(" · ")}
        {joint.cautions[0]?.help && chosen && ` – ${joint.cautions[0].help}`}
      </Box>
    </Box>
  );
}
