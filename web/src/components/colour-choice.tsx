/** Choosing one of the six colours, each with its name. */
import { Box, MenuItem, Select } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import type { Schema } from "../api/client";
import { cueColour } from "../theme";

export type Colour = Schema["ColourMeaning"]["colour"];
const COLOURS: readonly Colour[] = ["vermilion", "violet", "blue", "ochre", "green", "ink"];

interface Props {
  label: string;
  colour: Colour | null;
  /** None may be chosen: then it is that of the family. */
  asFamily?: boolean;
  /** None may be chosen, and is called so. */
  none?: string;
  onChange: (colour: Colour | null) => void;
}

export function ColourChoice({ label, colour, asFamily = false, none, onChange }: Props) {
  return (
    <Select
      variant="standard"
      size="small"
      value={colour ?? ""}
      displayEmpty
      SelectDisplayProps={{ "aria-label": label }}
      onChange={(event) => onChange((event.target.value || null) as Colour | null)}
      renderValue={(value) => (value ? <Shade colour={value} /> : (none ?? "as family"))}
      sx={{ width: 88, fontSize: "0.8rem" }}
    >
      {none && <MenuItem value="">{none}</MenuItem>}
      {asFamily && <MenuItem value="">as its family</MenuItem>}
      {COLOURS.map((each) => (
        <MenuItem key={each} value={each}>
          <Shade colour={each} /> <Box sx={{ ml: 1 }}>{each}</Box>
        </MenuItem>
      ))}
    </Select>
  );
}

function Shade({ colour }: { colour: string }) {
  const { inks } = useTheme();
  return (
    <span
      title={colour}
      style={{
        ...{ display: "inline-block", width: 14, height: 14, borderRadius: 3, verticalAlign: "middle" },
        background: cueColour(colour, inks),
      }}
    />
  );
}
