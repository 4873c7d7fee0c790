/** What settling all sure groups at once comes to, with a few of them, before it is done. */
import { Box, Checkbox, FormControlLabel } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { plural, size } from "../../components/format";
import { FormDialog } from "../../components/form-dialog";
import { useRemembered } from "../../settings";
import { sureQuery, useTwinChanges } from "./use-twins";

export function SureDialog({ onClose }: { onClose: () => void }) {
  const told = useQuery(sureQuery).data;
  const [aside, setAside] = useRemembered("twins.aside", true);
  const { sure } = useTwinChanges();
  return (
    <FormDialog
      title={told ? `Settle ${plural(told.groups, "sure group")}` : "Settle the sure groups"}
      action="Settle them"
      width="sm"
      disabled={!told?.groups || sure.isPending}
      onSubmit={() => sure.mutate(aside, { onSuccess: onClose })}
      onClose={onClose}
    >
      {told && (
        <Box sx={{ "& > * + *": { mt: 1.2 } }}>
          <div>
            {plural(told.files, "file")} ({size(told.bytes)}) {told.files === 1 ? "gives" : "give"} way to the
            better one of each group. Carried over are {carriedOf(told)}. A group of which something would be
            lost, or that was worked on in both files, is left for you, and that is said.
          </div>
          {told.away > 0 && (
            <div>
              {plural(told.away, "file")} on a drive that is away{" "}
              {told.away === 1 ? "stays where it is" : "stay where they are"}.
            </div>
          )}
          <Box sx={{ fontSize: "0.86rem" }}>
            {told.samples.map(({ title, carried }) => (
              <Box key={title} sx={{ borderTop: 1, borderColor: "divider", py: 0.5 }}>
                <b>{title}</b>: {carried.join(", ") || "nothing to carry over"}
              </Box>
            ))}
          </Box>
          <FormControlLabel
            control={<Checkbox autoFocus size="small" checked={aside} onChange={(_, on) => setAside(on)} />}
            label="Put the files aside; else they are only taken off the Shelf"
          />
          <Box sx={{ color: "text.secondary", fontSize: "0.86rem" }}>
            It is one step: Ctrl Z brings everything back, the files too.
          </Box>
        </Box>
      )}
    </FormDialog>
  );
}

/** What goes over to the kept files, without what is none. */
function carriedOf({ cues, plays, places }: { cues: number; plays: number; places: number }): string {
  const counts = [
    cues && plural(cues, "cue"),
    plays && plural(plays, "play"),
    places && `${plural(places, "place")} in lists`,
  ];
  return [...counts.filter(Boolean), "what grids, tags, stars and locks the kept files lack"].join(", ");
}
