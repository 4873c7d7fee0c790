/** A night as a file: a track list, a playlist, a cue sheet for its recording, a table for royalties. */
import { Box, FormControlLabel, Radio, RadioGroup, Switch, TextField } from "@mui/material";
import { useState } from "react";
import { FormDialog } from "../../components/form-dialog";
import { useSay } from "../../components/messages";
import { useChange } from "../../api/changes";
import { ApiError } from "../../api/client";
import { useRemembered } from "../../settings";
import type { Gig } from "./use-logbook";

const FORMS = [
  { form: "text", name: "Track list", says: "text to send or to post" },
  { form: "m3u8", name: "M3U8", says: "a playlist that other programs open" },
  { form: "cue", name: "Cue sheet", says: "divides a recording of the night into its tracks" },
  { form: "csv", name: "Table (CSV)", says: "artist, title, label, ISRC and times, for royalties" },
] as const;
type Form = (typeof FORMS)[number]["form"];

export function ExportDialog({ gig, onClose }: { gig: Gig; onClose: () => void }) {
  const [form, setForm] = useRemembered<Form>("night form", "text");
  const [times, setTimes] = useRemembered("night times", true);
  const [recording, setRecording] = useState("recording.wav");
  const say = useSay();
  const save = useChange(async () => {
    const query = new URLSearchParams({ form, times: String(times), recording });
    const answer = await fetch(`/api/gigs/${gig.id}/file?${query.toString()}`);
    if (!answer.ok) throw new ApiError(((await answer.json()) as { detail: string }).detail, answer.status);
    keep(await answer.blob(), nameOf(answer));
    return decodeURIComponent(answer.headers.get("X-Left-Out") ?? "");
  });
  const done = (leftOut: string) => {
    say(leftOut ? `The file is made. Left out: ${leftOut}.` : "The file is made.");
    onClose();
  };
  return (
    <FormDialog
      title="Export this night"
      action="Save the file"
      disabled={save.isPending}
      onSubmit={() => save.mutate(undefined, { onSuccess: done })}
      onClose={onClose}
    >
      <RadioGroup value={form} onChange={(event) => setForm(event.target.value as Form)}>
        {FORMS.map((each) => (
          <FormControlLabel
            key={each.form}
            value={each.form}
            control={<Radio size="small" autoFocus={each.form === form} />}
            label={
              <>
                <b>{each.name}</b>{" "}
                <Box component="span" sx={{ color: "text.secondary" }}>
                  {each.says}
                </Box>
              </>
            }
          />
        ))}
      </RadioGroup>
      {form === "text" && (
        <FormControlLabel
          control={<Switch checked={times} onChange={(_, on) => setTimes(on)} />}
          label="With the times"
        />
      )}
      {form === "cue" && (
        <TextField
          size="small"
          margin="dense"
          fullWidth
          label="The recording’s file"
          value={recording}
          onChange={(event) => setRecording(event.target.value)}
        />
      )}
    </FormDialog>
  );
}

function nameOf(answer: Response): string {
  const name = answer.headers.get("Content-Disposition")?.split("''")[1];
  return name ? decodeURIComponent(name) : "night.txt";
}

function keep(file: Blob, name: string): void {
  const link = Object.assign(document.createElement("a"), {
    href: URL.createObjectURL(file),
    download: name,
  });
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
