/** Sets of players' settings: made, changed, deleted. */
import { Box, Button, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import { Answers } from "../../components/answers";
import { FormDialog } from "../../components/form-dialog";
import { knownSettingsQuery, settingsQuery } from "./settings-query";

type Kept = Schema["SettingsOut"];

export function SettingsDialog({ onClose }: { onClose: () => void }) {
  const sets = useQuery(settingsQuery).data ?? [];
  const [chosen, setChosen] = useState<Kept | null>(null);
  const [name, setName] = useState("");
  const [answers, setAnswers] = useState<Record<string, string>>({});
  const body = { name: name.trim(), answers };
  const { keep, drop } = useSets(chosen, body);
  const show = (set: Kept | null) => {
    setChosen(set);
    setName(set?.name ?? "");
    setAnswers(set?.answers ?? {});
  };
  return (
    <FormDialog
      title="Players’ settings"
      action={chosen ? "Keep the changes" : "Keep as a new set"}
      width="sm"
      disabled={!name.trim() || keep.isPending}
      apart={
        chosen && (
          <Button sx={{ mr: "auto" }} onClick={() => drop.mutate(chosen.id, { onSuccess: () => show(null) })}>
            Delete “{chosen.name}”
          </Button>
        )
      }
      onSubmit={() => keep.mutate(undefined, { onSuccess: onClose })}
      onClose={onClose}
    >
      <Box sx={{ display: "flex", gap: 0.6, flexWrap: "wrap", mb: 1.5 }}>
        {sets.map((set) => (
          <Button key={set.id} aria-pressed={set.id === chosen?.id} onClick={() => show(set)}>
            {set.name}
          </Button>
        ))}
        {chosen && <Button onClick={() => show(null)}>A new set</Button>}
      </Box>
      <TextField
        autoFocus
        fullWidth
        size="small"
        margin="dense"
        label="Its name, such as that of a venue"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <Questions answers={answers} onAnswer={(name, answer) => setAnswers({ ...answers, [name]: answer })} />
      <Box sx={{ color: "text.secondary", fontSize: "0.84rem", mt: 1 }}>
        A player takes those that it knows, and its own for the others.
      </Box>
    </FormDialog>
  );
}

interface QuestionsProps {
  answers: Readonly<Record<string, string>>;
  onAnswer: (name: string, answer: string) => void;
}

function Questions({ answers, onAnswer }: QuestionsProps) {
  const known = useQuery(knownSettingsQuery).data ?? [];
  return (
    <Box sx={{ lineHeight: 2.1, mt: 1 }}>
      {known.map((setting) => (
        <Box key={setting.name}>
          {setting.says}{" "}
          <Answers
            label={setting.says}
            value={answers[setting.name] ?? setting.answers[0] ?? ""}
            answers={setting.answers.map((answer) => ({ value: answer, words: answer }))}
            onPick={(answer) => onAnswer(setting.name, answer)}
          />
          .
        </Box>
      ))}
    </Box>
  );
}

function useSets(chosen: Kept | null, body: Schema["SettingsIn"]) {
  return {
    keep: useChange(() =>
      chosen
        ? unwrap(
            client.PUT("/api/sticks/settings/{settings_id}", {
              params: { path: { settings_id: chosen.id } },
              body,
            }),
          )
        : unwrap(client.POST("/api/sticks/settings", { body })),
    ),
    drop: useChange((id: number) =>
      unwrap(client.DELETE("/api/sticks/settings/{settings_id}", { params: { path: { settings_id: id } } })),
    ),
  };
}
