/** The library as Vinyl's own document: for archives, and for others to build on. */
import { Box, Button, FormControlLabel, Radio, RadioGroup, TextField } from "@mui/material";
import { useState } from "react";
import { useChange } from "../../api/changes";
import { client, unwrap } from "../../api/client";
import { FormDialog } from "../../components/form-dialog";
import { useRemembered } from "../../settings";
import { FIGURES } from "../../theme";
import { FolderChooser } from "../arrivals/folder-chooser";

interface Props {
  /** The lists that are ticked; null where everything goes. */
  lists: readonly number[] | null;
  onClose: () => void;
}

export function DocumentDialog({ lists, onClose }: Props) {
  const [place, setPlace] = useRemembered("exchange document", "");
  const [some, setSome] = useState(false);
  const write = useChange(
    () => {
      const body = { place: place.trim(), lists: some && lists ? [...lists] : null };
      return unwrap(client.POST("/api/exchange/documents", { body }));
    },
    () => "It is being written: see Work for how far it is.",
  );
  return (
    <FormDialog
      title="Vinyl’s own document"
      action="Write it"
      width="sm"
      disabled={!place.trim() || write.isPending}
      content={{ display: "flex", flexDirection: "column", gap: 1.5 }}
      onSubmit={() => write.mutate(undefined, { onSuccess: onClose })}
      onClose={onClose}
    >
      <Box sx={{ fontSize: "0.88rem" }}>
        All that the library knows, as JSON: values with their sources, grids, cues, lists, nights. An empty
        library can be made of it again, equal in everything. The audio is not in it.
      </Box>
      <PlaceField place={place} onPlace={setPlace} />
      {lists && (
        <RadioGroup
          value={some ? "lists" : "all"}
          onChange={(event) => setSome(event.target.value === "lists")}
        >
          <FormControlLabel value="all" control={<Radio size="small" />} label="everything" />
          <FormControlLabel
            value="lists"
            control={<Radio size="small" />}
            label="the ticked lists, without nights"
          />
        </RadioGroup>
      )}
    </FormDialog>
  );
}

function PlaceField({ place, onPlace }: { place: string; onPlace: (place: string) => void }) {
  const [choosing, setChoosing] = useState(false);
  return (
    <Box sx={{ display: "flex", gap: 1 }}>
      <TextField
        autoFocus
        size="small"
        margin="dense"
        fullWidth
        label="Folder or file"
        value={place}
        onChange={(event) => onPlace(event.target.value)}
        slotProps={{ htmlInput: { style: { fontFamily: FIGURES } } }}
      />
      <Button onClick={() => setChoosing(true)}>Choose…</Button>
      {choosing && (
        <FolderChooser
          title="Where the document is written"
          action="Choose this folder"
          onChoose={([chosen]) => chosen && onPlace(chosen)}
          onClose={() => setChoosing(false)}
        />
      )}
    </Box>
  );
}
