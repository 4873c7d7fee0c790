/** What the paths of a playlist are here: proposed by what was found, or written by hand. */
import { Box, Button, Checkbox, TextField, Typography } from "@mui/material";
import { useState } from "react";
import type { Schema } from "../../api/client";
import { FIGURES } from "../../theme";

type Mapping = Schema["MappingBody"];

interface Props {
  proposals: Schema["MappingOut"][];
  chosen: Mapping[];
  onChange: (mappings: Mapping[]) => void;
}

const same = (one: Mapping, other: Mapping) => one.there === other.there && one.here === other.here;

export function Mappings({ proposals, chosen, onChange }: Props) {
  const open = proposals.filter((proposal) => !chosen.some((each) => same(each, proposal)));
  return (
    <Box>
      {(chosen.length > 0 || open.length > 0) && (
        <Typography variant="overline">Where its folders are here</Typography>
      )}
      {chosen.map((each) => (
        <Line
          key={`${each.there} ${each.here}`}
          mapping={each}
          chosen
          onToggle={() => onChange(chosen.filter((other) => !same(each, other)))}
        />
      ))}
      {open.map((each) => (
        <Line
          key={`${each.there} ${each.here}`}
          mapping={each}
          finds={each.finds}
          onToggle={() => onChange([...chosen, { there: each.there, here: each.here }])}
        />
      ))}
      <ByHand onAdd={(mapping) => onChange([...chosen.filter((each) => !same(each, mapping)), mapping])} />
    </Box>
  );
}

interface LineProps {
  mapping: Mapping;
  chosen?: boolean;
  finds?: number;
  onToggle: () => void;
}

/** "D:/Musik is /home/mara/Music", ticked once it is confirmed. */
function Line({ mapping, chosen = false, finds, onToggle }: LineProps) {
  const path = { fontFamily: FIGURES, fontSize: "0.78rem" };
  return (
    <Box
      component="label"
      data-mapping={mapping.there}
      sx={{ display: "flex", alignItems: "center", gap: 0.6, cursor: "pointer", fontSize: "0.88rem" }}
    >
      <Checkbox size="small" checked={chosen} onChange={onToggle} />
      <Box component="span" sx={path}>
        {mapping.there || "/"}
      </Box>
      is
      <Box component="span" sx={path}>
        {mapping.here}
      </Box>
      {finds !== undefined && (
        <Box component="span" sx={{ color: "text.secondary" }}>
          – would find {finds} more
        </Box>
      )}
    </Box>
  );
}

function ByHand({ onAdd }: { onAdd: (mapping: Mapping) => void }) {
  const [open, setOpen] = useState(false);
  const [there, setThere] = useState("");
  const [here, setHere] = useState("");
  if (!open) return <Button onClick={() => setOpen(true)}>Write where a folder is…</Button>;
  const add = () => {
    onAdd({ there: there.trim().replaceAll("\\", "/"), here: here.trim() });
    setOpen(false);
  };
  // Enter means this line, not the whole dialog.
  const onKeyDown = (event: React.KeyboardEvent) => {
    if (event.key !== "Enter") return;
    event.preventDefault();
    if (there.trim() && here.trim()) add();
  };
  const slot = { htmlInput: { style: { fontFamily: FIGURES, fontSize: "0.8rem" } } };
  return (
    <Box onKeyDown={onKeyDown} sx={{ display: "flex", gap: 1, alignItems: "center", pt: 1 }}>
      <TextField
        autoFocus
        size="small"
        label="In the playlist"
        value={there}
        onChange={(e) => setThere(e.target.value)}
        slotProps={slot}
      />
      is
      <TextField
        size="small"
        label="Here"
        value={here}
        onChange={(e) => setHere(e.target.value)}
        slotProps={slot}
        sx={{ flex: 1 }}
      />
      <Button disabled={!there.trim() || !here.trim()} onClick={add}>
        Use it
      </Button>
    </Box>
  );
}
