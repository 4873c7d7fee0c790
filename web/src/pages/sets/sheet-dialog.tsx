/** The sheet for the booth: large, black on white, made to be printed. */
import { Box, Button, Dialog, DialogActions, DialogContent } from "@mui/material";
import { day } from "../../components/format";
import type { DjSet } from "./use-sets";
import "./sheet.css";

export function SheetDialog({ set, onClose }: { set: DjSet; onClose: () => void }) {
  const joints = new Map(set.joints.map((joint) => [joint.out_id, joint]));
  const where = [set.venue, set.on_day && day(set.on_day), set.begins && `${set.begins} to ${set.ends}`];
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth slotProps={{ paper: { id: "set-sheet" } }}>
      <DialogContent>
        <h1>{set.name}</h1>
        <p className="where">{where.filter(Boolean).join(", ")}</p>
        <ol>
          {set.order.map((entry) => {
            const joint = joints.get(entry.id);
            return (
              <li key={entry.id}>
                <b className="at">{entry.at}</b>
                <span>
                  <b>{entry.title}</b> {entry.artist}
                  <em>
                    {[!entry.on_shelf && "not on the Shelf", entry.note, joint?.note]
                      .filter(Boolean)
                      .join(" · ")}
                  </em>
                </span>
                <span className="measures">
                  {entry.bpm?.toFixed(1) ?? ""} {entry.key ?? ""}
                  {joint && (
                    <em>{joint.settings.over_bars ? `${joint.settings.over_bars} bars over` : "cut"}</em>
                  )}
                </span>
              </li>
            );
          })}
        </ol>
      </DialogContent>
      <DialogActions>
        <Box sx={{ flex: 1 }} />
        <Button onClick={onClose}>Close</Button>
        <Button variant="contained" autoFocus onClick={() => window.print()}>
          Print
        </Button>
      </DialogActions>
    </Dialog>
  );
}
