/** All nights as a list, the newest first, to be looked through, named, joined and thrown away many at once. */
import { Box, Button, Checkbox, TextField } from "@mui/material";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef, useState } from "react";
import { NameDialog } from "../../components/name-dialog";
import { useSettings } from "../../settings";
import { FIGURES, TYPE_PX } from "../../theme";
import { useNightActions } from "./night-actions";
import { useNightMenu } from "./night-menu";
import type { Gig, Logbook } from "./use-logbook";
import { dayOf, factsOf, nights, whereOf } from "./words";

const ROW_REM = 2;
const COLUMNS = "2.4rem 9rem minmax(9rem, 1fr) minmax(14rem, 2fr) minmax(6rem, 1fr)";

export function ListView({ logbook }: { logbook: Logbook }) {
  const [text, setText] = useState("");
  const [ticked, setTicked] = useState<ReadonlySet<number>>(new Set());
  const found = logbook.there.filter((gig) => saysAll(gig, logbook, text));
  const chosen = found.filter(({ id }) => ticked.has(id)).map(({ id }) => id);
  const toggle = (id: number) =>
    setTicked(new Set(ticked.has(id) ? [...ticked].filter((each) => each !== id) : [...ticked, id]));
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column", px: 2.5, py: 1 }}>
      <Box sx={{ display: "flex", gap: 1, alignItems: "center", mb: 1 }}>
        <TextField
          size="small"
          placeholder="Find: venue, kind, 2026, Nov, notes"
          value={text}
          onChange={(event) => setText(event.target.value)}
          slotProps={{ htmlInput: { "aria-label": "Find a night" } }}
          sx={{ width: "19rem" }}
        />
        <Box sx={{ color: "text.secondary", flex: 1 }}>
          {found.length === logbook.there.length
            ? nights(found.length)
            : `${found.length} of ${nights(logbook.there.length)}`}
        </Box>
        <WithTicked chosen={chosen} onDone={() => setTicked(new Set())} />
      </Box>
      <Lines logbook={logbook} found={found} ticked={ticked} onTick={toggle} />
    </Box>
  );
}

/** Whether a night has each word in what is told of it. */
function saysAll(gig: Gig, { venues }: Logbook, text: string): boolean {
  const told = `${whereOf(gig, venues)} ${gig.name} ${gig.kind} ${gig.note} ${gig.on} ${dayOf(gig.on)} ${gig.came_from}`;
  const folded = told.toLowerCase();
  return text
    .toLowerCase()
    .split(/\s+/)
    .every((word) => folded.includes(word));
}

function WithTicked({ chosen, onDone }: { chosen: number[]; onDone: () => void }) {
  const { name, join, throwAway } = useNightActions();
  const [asking, setAsking] = useState(false);
  const none = !chosen.length;
  return (
    <>
      <Button disabled={none} onClick={() => setAsking(true)}>
        Name {chosen.length || ""}…
      </Button>
      <Button disabled={chosen.length < 2} onClick={() => join.mutate(chosen, { onSuccess: onDone })}>
        Join
      </Button>
      <Button
        disabled={none}
        onClick={() => throwAway.mutate({ ids: chosen, practice: true }, { onSuccess: onDone })}
      >
        Throw away
      </Button>
      {asking && (
        <NameDialog
          title={`Where ${chosen.length === 1 ? "was this night" : "were these nights"}?`}
          label="Venue"
          action="Name"
          onDone={(venue) => name.mutate({ ids: chosen, venue }, { onSuccess: onDone })}
          onClose={() => setAsking(false)}
        />
      )}
    </>
  );
}

interface LinesProps {
  logbook: Logbook;
  found: Gig[];
  ticked: ReadonlySet<number>;
  onTick: (id: number) => void;
}

function Lines({ logbook, found, ticked, onTick }: LinesProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const height = Math.round(ROW_REM * TYPE_PX[useSettings().size]);
  const lines = useVirtualizer({
    count: found.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 12,
  });
  return (
    <Box ref={scroller} sx={{ flex: 1, minHeight: 0, overflow: "auto", borderTop: 2 }} data-testid="nights">
      <Box sx={{ position: "relative", height: lines.getTotalSize() }}>
        {lines.getVirtualItems().map(({ index, start }) => {
          const gig = found[index];
          return (
            gig && (
              <Box key={gig.id} sx={{ position: "absolute", top: start, left: 0, right: 0, height }}>
                <Line gig={gig} logbook={logbook} ticked={ticked.has(gig.id)} onTick={() => onTick(gig.id)} />
              </Box>
            )
          );
        })}
      </Box>
      {!found.length && (
        <Box sx={{ py: 2, color: "text.secondary" }}>
          No night has all these words: type fewer, or another spelling of the venue.
        </Box>
      )}
    </Box>
  );
}

interface LineProps {
  logbook: Logbook;
  gig: Gig;
  ticked: boolean;
  onTick: () => void;
}

function Line({ logbook, gig, ticked, onTick }: LineProps) {
  const open = () => logbook.go({ view: "nights", night: gig.id, beside: null });
  const menu = useNightMenu(gig, logbook, [
    { words: ticked ? "Choose it no more" : "Choose it", act: onTick },
  ]);
  return (
    <Box
      {...menu.handlers}
      sx={{
        ...{
          display: "grid",
          gridTemplateColumns: COLUMNS,
          alignItems: "center",
          columnGap: 1,
          height: "100%",
        },
        ...{ borderBottom: 1, borderColor: "divider" },
        "& > span": { overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" },
      }}
    >
      <Checkbox
        size="small"
        checked={ticked}
        onChange={onTick}
        slotProps={{ input: { "aria-label": `${dayOf(gig.on)} ${whereOf(gig, logbook.venues)}` } }}
      />
      <Box
        component="button"
        type="button"
        onClick={open}
        sx={{
          ...{
            font: "inherit",
            fontFamily: FIGURES,
            fontSize: "0.82rem",
            color: "inherit",
            textAlign: "left",
          },
          ...{ border: 0, background: "none", p: 0, cursor: "pointer", textDecoration: "underline" },
        }}
      >
        {dayOf(gig.on)}
      </Box>
      <Box
        component="span"
        sx={{ fontWeight: 600, color: gig.venue_id === null ? "warning.main" : "text.primary" }}
      >
        {whereOf(gig, logbook.venues)}
      </Box>
      <Box component="span" sx={{ color: "text.secondary" }}>
        {factsOf(gig)}
      </Box>
      <Box component="span" sx={{ fontStyle: "italic" }}>
        {gig.note}
      </Box>
      {menu.menu}
    </Box>
  );
}
