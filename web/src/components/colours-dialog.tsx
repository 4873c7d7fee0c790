/** Names, signs and shades of the colours of cues, or of tracks. */
import { Box, Button, DialogContentText, TextField } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schema } from "../api/client";
import { useChange } from "../api/changes";
import { coloursQuery, trackColoursQuery } from "../api/queries";
import { FormDialog } from "./form-dialog";
import { readableOn } from "../drawing/flags";
import { cueColour } from "../theme";

type Colour = Schema["CueColourBody"];

type Of = "cues" | "tracks";

/** What each colour is called, or means, and the sign that stands beside it. */
export function ColoursDialog({ of = "cues", onClose }: { of?: Of; onClose: () => void }) {
  const ofCues = useQuery({ ...coloursQuery, enabled: of === "cues" }).data;
  const ofTracks = useQuery({ ...trackColoursQuery, enabled: of === "tracks" }).data;
  const stored = of === "cues" ? ofCues : ofTracks;
  return stored ? <Form of={of} stored={stored} onClose={onClose} /> : null;
}

function Form({ of, stored, onClose }: { of: Of; stored: Colour[]; onClose: () => void }) {
  const [colours, setColours] = useState(stored);
  const path = of === "cues" ? "/api/cue-colours" : "/api/track-colours";
  const save = useChange((body: Colour[]) => unwrap(client.PUT(path, { body })));
  const set = (place: number, change: Partial<Colour>) =>
    setColours(colours.map((colour, i) => (i === place ? { ...colour, ...change } : colour)));
  const submit = () => {
    save.mutate(colours, { onSuccess: onClose });
  };
  return (
    <FormDialog
      title={`Colours of ${of}`}
      action="Save"
      apart={
        colours.some((colour) => colour.hex) && (
          <Button
            sx={{ mr: "auto" }}
            onClick={() => setColours(colours.map((colour) => ({ ...colour, hex: null })))}
          >
            Shades of the look
          </Button>
        )
      }
      onSubmit={submit}
      onClose={onClose}
    >
      {colours.map((colour, i) => (
        <ColourRow key={colour.colour} colour={colour} onChange={(change) => set(i, change)} />
      ))}
      <DialogContentText sx={{ fontSize: "0.82rem", mt: 1.5 }}>
        Click a colour to choose its shade; one of your own stays the same in both looks. The sign (a shape, a
        letter or two) stands where the colour alone would not tell.
      </DialogContentText>
    </FormDialog>
  );
}

interface RowProps {
  colour: Colour;
  onChange: (change: Partial<Colour>) => void;
}

function ColourRow({ colour, onChange }: RowProps) {
  const { inks } = useTheme();
  return (
    <Box sx={{ display: "flex", gap: 1, alignItems: "center", mt: 1 }}>
      <Shade
        shade={colour.hex ?? cueColour(colour.colour, inks)}
        sign={colour.sign}
        name={colour.colour}
        onChange={(hex) => onChange({ hex })}
      />
      <TextField
        size="small"
        label="Name"
        value={colour.name}
        onChange={(e) => onChange({ name: e.target.value })}
        slotProps={{ htmlInput: { maxLength: 40, "aria-label": `Name of ${colour.colour}` } }}
        sx={{ flex: 1 }}
      />
      <TextField
        size="small"
        label="Sign"
        value={colour.sign}
        onChange={(e) => onChange({ sign: e.target.value })}
        slotProps={{ htmlInput: { maxLength: 2, "aria-label": `Sign of ${colour.colour}` } }}
        sx={{ width: 70 }}
      />
    </Box>
  );
}

function Shade({
  shade,
  sign,
  name,
  onChange,
}: {
  shade: string;
  sign: string;
  name: string;
  onChange: (hex: string) => void;
}) {
  return (
    <Box
      component="label"
      title={`Shade of ${name}`}
      sx={{
        width: 30,
        height: 30,
        borderRadius: "2px",
        bgcolor: shade,
        color: readableOn(shade),
        display: "grid",
        placeItems: "center",
        flex: "none",
        cursor: "pointer",
        position: "relative",
      }}
    >
      {sign}
      <Box
        component="input"
        type="color"
        value={shade}
        aria-label={`Shade of ${name}`}
        onChange={(e: React.ChangeEvent<HTMLInputElement>) => onChange(e.target.value.toLowerCase())}
        sx={{ position: "absolute", inset: 0, opacity: 0, cursor: "pointer" }}
      />
    </Box>
  );
}
