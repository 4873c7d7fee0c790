/** What was changed on players, here and there side by side, and which is to hold. */
import { Box, Button, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted } from "../../api/changes";
import { client, unwrap, type Schema, type Stick } from "../../api/client";
import { ago, fieldName, plural } from "../../components/format";
import { FIGURES } from "../../theme";
import type { StickActions } from "./use-stick-actions";

type Came = Schema["CameHomeOut"];
type Choice = "theirs" | "ours";

const COLUMNS = "minmax(120px, 1.2fr) minmax(90px, 0.9fr) minmax(0, 1.2fr) minmax(0, 1.2fr) 130px";

export function CameHome({ stick, act }: { stick: Stick; act: StickActions }) {
  const rows =
    useQuery({
      queryKey: ["sticks", "home", stick.id, stick.came_home],
      queryFn: () =>
        unwrap(client.GET("/api/sticks/{stick_id}/home", { params: { path: { stick_id: stick.id } } })),
    }).data ?? [];
  const [chosen, setChosen] = useState<Record<string, Choice>>({});
  const answer = (row: Came) => chosen[row.key] ?? row.choice;
  const open = rows.filter((row) => !answer(row));
  const taking = rows.filter((row) => answer(row) === "theirs").length;
  const take = () =>
    act.takeHome.mutate({
      choices: Object.fromEntries(
        rows.flatMap((row) => {
          const choice = answer(row);
          return choice ? [[row.key, choice] as const] : [];
        }),
      ),
    });
  const all = (choice: Choice) =>
    setChosen(Object.fromEntries(rows.filter((row) => !row.hold).map((row) => [row.key, choice])));
  if (!rows.length) return null;
  return (
    <Box component="section" aria-label="What came home">
      <Typography variant="h2">
        Came home with {plural(rows.length, "change")}
        <Box component="span" sx={{ ml: 1.5, fontSize: "0.84rem", fontWeight: 400, color: "text.secondary" }}>
          made on {[...new Set(rows.map(({ player }) => player))].join(" and ")}
        </Box>
      </Typography>
      <Box role="table" aria-label="Changes made on players" sx={{ mt: 1 }}>
        <Head />
        {rows.map((row) => (
          <CameRow
            key={row.key}
            row={row}
            answer={answer(row)}
            onAnswer={(choice) => setChosen({ ...chosen, [row.key]: choice })}
          />
        ))}
      </Box>
      <Box sx={{ display: "flex", gap: 1, alignItems: "center", mt: 1.2 }}>
        <Button variant="contained" color="error" disabled={act.takeHome.isPending} onClick={take}>
          {`Take ${taking}, keep ${rows.length - taking - open.length}`}
          {open.length ? `, ${open.length} to choose` : ""}
        </Button>
        <Button onClick={() => all("theirs")}>All from the player</Button>
        <Button onClick={() => all("ours")}>All as they are here</Button>
        <Box sx={{ ml: "auto", color: "text.secondary", fontSize: "0.84rem" }}>one step to undo</Box>
      </Box>
      {open.length > 0 && (
        <Box sx={{ fontSize: "0.84rem", color: "text.secondary", mt: 0.5 }}>
          {counted(open.length, "value")} {open.length === 1 ? "was" : "were"} changed on both sides and{" "}
          {open.length === 1 ? "stays" : "stay"} open until you choose.
        </Box>
      )}
    </Box>
  );
}

function Head() {
  return (
    <Box
      role="row"
      sx={{
        ...{ display: "grid", gridTemplateColumns: COLUMNS, gap: 1.5, py: 0.4 },
        ...{ fontSize: "0.75rem", fontWeight: 600, color: "text.secondary" },
      }}
    >
      {["Track", "What", "Here", "On the player", "Then"].map((name) => (
        <span key={name} role="columnheader">
          {name}
        </span>
      ))}
    </Box>
  );
}

interface RowProps {
  row: Came;
  answer: Choice | null;
  onAnswer: (choice: Choice) => void;
}

function CameRow({ row, answer, onAnswer }: RowProps) {
  return (
    <Box
      role="row"
      sx={{
        ...{ display: "grid", gridTemplateColumns: COLUMNS, gap: 1.5, py: 0.6, alignItems: "center" },
        ...{ borderTop: 1, borderColor: "divider", fontSize: "0.9rem" },
        ...(row.both && { boxShadow: (theme) => `inset 3px 0 0 ${theme.palette.warning.main}`, pl: 1 }),
      }}
    >
      <Box role="cell" sx={{ fontWeight: 600, overflowWrap: "anywhere" }}>
        {row.subject}
      </Box>
      <Box role="cell">
        {row.both && (
          <Box component="b" sx={{ color: "warning.main" }}>
            both changed,{" "}
          </Box>
        )}
        {fieldName(row.what)}
      </Box>
      <Side
        text={row.hold || row.here}
        when={row.here_at}
        chosen={answer === "ours"}
        label={`As it is here: ${row.subject}, ${fieldName(row.what)}`}
        onPick={() => onAnswer("ours")}
      />
      <Side
        text={row.there}
        when={row.there_at}
        chosen={answer === "theirs"}
        disabled={row.hold !== ""}
        label={`From the player: ${row.subject}, ${fieldName(row.what)}`}
        onPick={() => onAnswer("theirs")}
      />
      <Box role="cell" sx={{ fontSize: "0.8rem", color: answer ? "text.secondary" : "warning.main" }}>
        {row.hold ? whyHeld(row.hold) : answer ? ago(row.there_at) : "choose"}
      </Box>
    </Box>
  );
}

interface SideProps {
  text: string;
  when: string | null | undefined;
  chosen: boolean;
  disabled?: boolean;
  label: string;
  onPick: () => void;
}

function Side({ text, when, chosen, disabled, label, onPick }: SideProps) {
  return (
    <Box role="cell">
      <Button
        fullWidth
        disabled={disabled}
        aria-pressed={chosen}
        title={when ? `${label}, changed ${ago(when)}` : label}
        onClick={onPick}
        sx={{
          ...{ justifyContent: "flex-start", textAlign: "left", fontFamily: FIGURES, fontWeight: 400 },
          ...{ whiteSpace: "normal", overflowWrap: "anywhere" },
          ...{ borderWidth: 2, borderColor: chosen ? "info.main" : "transparent" },
        }}
      >
        {chosen ? "✓ " : ""}
        {text}
      </Button>
    </Box>
  );
}

const whyHeld = (hold: string): string => (hold.startsWith("locked") ? "the lock holds" : "cannot be taken");
