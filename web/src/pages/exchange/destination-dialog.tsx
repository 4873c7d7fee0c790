/** A new destination: which library, where it lies, and what it is called. */
import { Box, Button, FormControlLabel, Radio, RadioGroup, TextField } from "@mui/material";
import { useState } from "react";
import { FormDialog } from "../../components/form-dialog";
import { FIGURES } from "../../theme";
import { FolderChooser } from "../arrivals/folder-chooser";
import { useDestinationActions, type Destination, type Target } from "./use-exchange";
import { newOrder } from "./words";

interface Props {
  targets: readonly Target[];
  onMade: (made: Destination) => void;
  onClose: () => void;
}

export function DestinationDialog({ targets, onMade, onClose }: Props) {
  const [kind, setKind] = useState(targets[0]?.name);
  const target = targets.find((each) => each.name === kind);
  const [name, setName] = useState<string | null>(null);
  const [place, setPlace] = useState("");
  const { make } = useDestinationActions();
  const called = name ?? (target ? `My ${target.label}` : "");
  const submit = () => {
    if (!target) return;
    const body = { name: called, order: newOrder(target, place.trim()) };
    make.mutate(body, {
      onSuccess: (made) => {
        onMade(made);
        onClose();
      },
    });
  };
  return (
    <FormDialog
      title="Where to?"
      action="Keep this destination"
      width="sm"
      disabled={!target || !called.trim() || !place.trim() || make.isPending}
      content={{ display: "flex", flexDirection: "column", gap: 1.5 }}
      onSubmit={submit}
      onClose={onClose}
    >
      <TargetChoice targets={targets} value={kind} onChange={setKind} />
      <TextField
        size="small"
        label="Name"
        value={called}
        onChange={(event) => setName(event.target.value)}
        slotProps={{ htmlInput: { maxLength: 80 } }}
      />
      <PlaceField target={target} place={place} onPlace={setPlace} />
      {target?.in_files && (
        <Box sx={{ fontSize: "0.84rem", color: "text.secondary" }}>
          {target.label} keeps cues, grids and texts in the audio files’ own tags: writing changes the tags of
          your files. Their sound stays to the byte, and their old tags are kept.
        </Box>
      )}
    </FormDialog>
  );
}

interface PlaceProps {
  target: Target | undefined;
  place: string;
  onPlace: (place: string) => void;
}

function PlaceField({ target, place, onPlace }: PlaceProps) {
  const [choosing, setChoosing] = useState(false);
  return (
    <>
      <Box sx={{ display: "flex", gap: 1 }}>
        <TextField
          size="small"
          fullWidth
          label={
            target?.file_name
              ? "Folder or file that it is written to"
              : "Folder that its lists are written to"
          }
          value={place}
          onChange={(event) => onPlace(event.target.value)}
          slotProps={{ htmlInput: { style: { fontFamily: FIGURES } } }}
        />
        <Button onClick={() => setChoosing(true)}>Choose…</Button>
      </Box>
      {choosing && (
        <FolderChooser
          title="Where the library is written"
          action="Choose this folder"
          onChoose={([chosen]) => chosen && onPlace(chosen)}
          onClose={() => setChoosing(false)}
        />
      )}
    </>
  );
}

interface ChoiceProps {
  targets: readonly Target[];
  value: Target["name"] | undefined;
  onChange: (name: Target["name"]) => void;
}

export function TargetChoice({ targets, value, onChange }: ChoiceProps) {
  return (
    <RadioGroup
      aria-label="Library"
      value={value ?? ""}
      onChange={(event) => onChange(event.target.value as Target["name"])}
    >
      {targets.map((each) => (
        <FormControlLabel
          key={each.name}
          value={each.name}
          control={<Radio size="small" />}
          label={
            <>
              <b>{each.label}</b>{" "}
              <Box component="span" sx={{ color: "text.secondary", fontSize: "0.84rem" }}>
                {each.says}
              </Box>
            </>
          }
        />
      ))}
    </RadioGroup>
  );
}
