/** Where and when a night was, and what can be done with it. */
import { Box, Button, Menu, MenuItem, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { KeyHint } from "../../components/key-hint";
import { shown } from "../../components/key-map";
import { KEYS } from "../../components/keys";
import { setsQuery } from "../sets/use-sets";
import { ExportDialog } from "./export-dialog";
import { GigDialog } from "./gig-dialog";
import { NextDialog } from "./next-dialog";
import type { NightActions } from "./night-actions";
import type { Gig, Logbook } from "./use-logbook";
import { dayOf, factsOf, whereOf } from "./words";

interface Props {
  logbook: Logbook;
  gig: Gig;
  actions: NightActions;
}

export function NightHead({ logbook, gig, actions }: Props) {
  const [open, setOpen] = useState<"change" | "export" | "next" | null>(null);
  const close = () => setOpen(null);
  return (
    <Box sx={{ py: 1.2, display: "flex", alignItems: "flex-start", gap: 1 }}>
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Typography variant="h2" sx={{ fontSize: "1.3rem" }}>
          {dayOf(gig.on)}
          {logbook.venue?.id !== gig.venue_id && `, ${whereOf(gig, logbook.venues)}`}
          {gig.name && gig.venue_id !== null && ` – ${gig.name}`}
        </Typography>
        <Box sx={{ color: "text.secondary", fontSize: "0.85rem" }}>{factsOf(gig)}</Box>
      </Box>
      {gig.venue_id === null && gig.proposal && (
        <Button onClick={() => actions.name.mutate({ ids: [gig.id] })}>Name it {gig.proposal.name}</Button>
      )}
      <Button variant="contained" color="error" disabled={!gig.tracks} onClick={() => setOpen("next")}>
        Next list from this…
      </Button>
      <Button disabled={!gig.tracks} onClick={() => setOpen("export")}>
        Export…
      </Button>
      <More gig={gig} logbook={logbook} actions={actions} onChange={() => setOpen("change")} />
      {open === "change" && <GigDialog gig={gig} venues={logbook.venues} actions={actions} onClose={close} />}
      {open === "export" && <ExportDialog gig={gig} onClose={close} />}
      {open === "next" && <NextDialog gig={gig} logbook={logbook} onClose={close} />}
    </Box>
  );
}

/** The night before at the same venue, to be set beside this one. */
function before({ gigs }: Logbook, gig: Gig): Gig | undefined {
  return gigs.find((each) => each.venue_id === gig.venue_id && each.on < gig.on);
}

/** The sets that were planned for a night. */
function usePlans(gig: Gig) {
  const sets = useQuery(setsQuery).data ?? [];
  return sets.filter(
    ({ on_day, venue_id }) => on_day === gig.on && (venue_id === null || venue_id === gig.venue_id),
  );
}

function More({ gig, logbook, actions, onChange }: Props & { onChange: () => void }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const last = before(logbook, gig);
  const plans = usePlans(gig);
  const earlier = logbook.gigs[logbook.gigs.findIndex((each) => each.id === gig.id) + 1];
  const act = (run: () => void) => () => {
    setAnchor(null);
    run();
  };
  const gone = { onSuccess: () => logbook.go({ night: null, beside: null }) };
  return (
    <>
      <Button aria-haspopup="menu" onClick={(event) => setAnchor(event.currentTarget)}>
        This night…
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        <MenuItem onClick={act(onChange)}>Venue, date, times, kind, notes…</MenuItem>
        <MenuItem
          disabled={!last}
          onClick={act(() => last && logbook.go({ night: last.id, beside: gig.id }))}
        >
          {last ? `Beside ${dayOf(last.on)}` : "No earlier night here to set beside it"}
        </MenuItem>
        {plans.map((plan) => (
          <MenuItem key={plan.id} onClick={act(() => logbook.go({ plan: plan.id, beside: null }))}>
            Beside its plan, “{plan.name}”
          </MenuItem>
        ))}
        {!plans.length && <MenuItem disabled>No set was planned for this day</MenuItem>}
        <MenuItem
          disabled={!earlier}
          onClick={act(() => earlier && actions.join.mutate([earlier.id, gig.id], gone))}
        >
          {earlier ? `Join with ${dayOf(earlier.on)} before it` : "No night before it to join with"}
        </MenuItem>
        <MenuItem onClick={act(() => actions.throwAway.mutate({ ids: [gig.id], practice: true }, gone))}>
          Throw away as practice
        </MenuItem>
        <MenuItem onClick={act(() => actions.removeNights.mutate([gig.id], gone))}>
          Delete this night
        </MenuItem>
        <Box sx={{ px: 2, pt: 1, fontSize: "0.8rem", color: "text.secondary", maxWidth: 270 }}>
          For what is chosen: went well <KeyHint>{shown(KEYS.logbook.well)}</KeyHint>, fell flat{" "}
          <KeyHint>{shown(KEYS.logbook.flat)}</KeyHint>, asked for{" "}
          <KeyHint>{shown(KEYS.logbook.asked)}</KeyHint>, never here{" "}
          <KeyHint>{shown(KEYS.logbook.here)}</KeyHint>, never again{" "}
          <KeyHint>{shown(KEYS.logbook.anywhere)}</KeyHint>, a new night from here{" "}
          <KeyHint>{shown(KEYS.logbook.cut)}</KeyHint>
        </Box>
      </Menu>
    </>
  );
}
