/** The buttons below the list of cues. */
import { Box, MenuItem, Select } from "@mui/material";
import { KeyHint } from "../../components/key-hint";
import { shown } from "../../components/key-map";
import { KEYS } from "../../components/keys";
import type { Bench, Snap } from "./bench";
import { cueActions, SNAPS } from "./cue-actions";
import { Tool } from "./tool";

const { cues: C } = KEYS;

interface Props {
  bench: Bench;
  off: boolean;
}

export function CueTools({ bench, off }: Props) {
  const act = cueActions(bench);
  const { proposals } = bench.track;
  return (
    <Box sx={{ display: "flex", gap: 0.5, mt: 1, flexWrap: "wrap" }}>
      <Tool name="Cue" entry={C.cue} disabled={off} onClick={() => act.setCue({})} />
      <Tool name="In" entry={C.in} disabled={off} onClick={() => act.setRole("in", "In")} />
      <Tool name="Main" entry={C.main} disabled={off} onClick={() => act.setRole("main", "Main")} />
      <Tool name="Out" entry={C.out} disabled={off} onClick={() => act.setRole("out", "Out")} />
      {proposals.length > 0 && (
        <Tool
          name={`Accept ${proposals.length}`}
          entry={C.acceptAll}
          disabled={off}
          onClick={act.acceptAll}
        />
      )}
      <SnapChoice bench={bench} />
      <AllTools bench={bench} off={off} />
    </Box>
  );
}

/** What is done to all cues at once. */
function AllTools({ bench, off }: Props) {
  const { data, map, actions } = bench.track;
  return (
    <>
      <Tool name="Template…" entry={C.template} disabled={!map} onClick={() => bench.ask("template")} />
      {data.cues.length > 0 && (
        <Tool
          name="Onto grid…"
          entry={C.ontoGrid}
          disabled={off || !map}
          onClick={() => bench.ask("onto grid")}
        />
      )}
      {data.cues.some((cue) => cue.pad !== null) && (
        <Tool
          name="Number pads"
          entry={C.number}
          disabled={off}
          onClick={() => actions.numberPads.mutate(undefined)}
        />
      )}
      {data.cues.length > 1 && (
        <Tool name="Delete…" entry={C.removeAll} disabled={off} onClick={() => bench.ask("delete cues")} />
      )}
      <Tool
        name="Colours…"
        tip="Give the colours of cues names, signs and shades of your own"
        onClick={() => bench.ask("colours")}
      />
    </>
  );
}

function SnapChoice({ bench }: { bench: Bench }) {
  const { snap, setSnap } = bench.settings;
  return (
    <Select
      size="small"
      MenuProps={{ disableRestoreFocus: true }}
      value={snap}
      onChange={(e) => setSnap(e.target.value as Snap)}
      inputProps={{ "aria-label": "Snap to" }}
      title={C.snap.says}
      sx={{ fontSize: "0.8rem", height: 28, bgcolor: "background.paper" }}
      renderValue={(v) => (
        <>
          snap: {v}
          <KeyHint>{shown(C.snap)}</KeyHint>
        </>
      )}
    >
      {SNAPS.map((each) => (
        <MenuItem key={each} value={each}>
          {each}
        </MenuItem>
      ))}
    </Select>
  );
}
