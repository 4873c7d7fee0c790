/** What is to be tidied: what looks like practice, nights without a venue, and what was thrown away. */
import { Box, Button, Checkbox, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { gigsQuery } from "../../api/queries";
import { NameDialog } from "../../components/name-dialog";
import { useNightActions } from "./night-actions";
import type { Gig, Logbook } from "./use-logbook";
import { dayOf, factsOf, nights } from "./words";

export const looksLikePractice = (gig: Gig): boolean => gig.looks_like_practice.length > 0;
export const isNameless = (gig: Gig): boolean => gig.venue_id === null && !looksLikePractice(gig);

export function TidyView({ logbook }: { logbook: Logbook }) {
  const thrown = useQuery(gigsQuery(true)).data ?? [];
  const practice = logbook.gigs.filter(looksLikePractice);
  const nameless = logbook.gigs.filter(isNameless);
  return (
    <Box
      sx={{
        flex: 1,
        minHeight: 0,
        overflow: "auto",
        px: 2.5,
        py: 1.5,
        display: "grid",
        gap: 4,
        gridTemplateColumns: "repeat(auto-fit, minmax(24rem, 1fr))",
        alignContent: "start",
      }}
    >
      <Practice logbook={logbook} gigs={practice} />
      <Nameless logbook={logbook} gigs={nameless} />
      <Thrown logbook={logbook} gigs={thrown} />
    </Box>
  );
}

/** Ticked nights of a list; at first all of them, or none. */
function useTicked(gigs: readonly Gig[], all: boolean) {
  const [changed, setChanged] = useState<ReadonlySet<number>>(new Set());
  const ticked = gigs.filter(({ id }) => changed.has(id) !== all).map(({ id }) => id);
  const toggle = (id: number) =>
    setChanged(new Set(changed.has(id) ? [...changed].filter((each) => each !== id) : [...changed, id]));
  return { ticked, toggle };
}

interface ListProps {
  logbook: Logbook;
  gigs: Gig[];
}

function Practice({ logbook, gigs }: ListProps) {
  const { ticked, toggle } = useTicked(gigs, true);
  const { throwAway } = useNightActions();
  return (
    <Section
      title="Looks like practice"
      says="Thrown away they are kept aside and do not count as played. Until then they do."
      none="Nothing looks like practice."
      count={gigs.length}
    >
      {gigs.map((gig) => (
        <Line
          key={gig.id}
          gig={gig}
          logbook={logbook}
          ticked={ticked.includes(gig.id)}
          onTick={() => toggle(gig.id)}
        >
          {gig.looks_like_practice.join(", ")}
        </Line>
      ))}
      <Button
        variant="contained"
        color="error"
        disabled={!ticked.length || throwAway.isPending}
        onClick={() => throwAway.mutate({ ids: ticked, practice: true })}
      >
        Throw {nights(ticked.length)} away
      </Button>
    </Section>
  );
}

function Nameless({ logbook, gigs }: ListProps) {
  const { ticked, toggle } = useTicked(gigs, true);
  const [asking, setAsking] = useState(false);
  const { name, join } = useNightActions();
  const proposed = gigs.filter((gig) => ticked.includes(gig.id) && gig.proposal).map(({ id }) => id);
  return (
    <Section
      title="No venue yet"
      says="Proposals come from the gigs that come again."
      none="Every night has its venue."
      count={gigs.length}
    >
      {gigs.map((gig) => (
        <Line
          key={gig.id}
          gig={gig}
          logbook={logbook}
          ticked={ticked.includes(gig.id)}
          onTick={() => toggle(gig.id)}
        >
          {gig.proposal ? <b>{gig.proposal.name}</b> : "no gig that comes again fits"}
          {gig.proposal?.kind && `, ${gig.proposal.kind}`}
        </Line>
      ))}
      <Box sx={{ display: "flex", gap: 1 }}>
        <Button
          variant="contained"
          color="error"
          disabled={!proposed.length || name.isPending}
          onClick={() => name.mutate({ ids: proposed })}
        >
          Name {nights(proposed.length)} as proposed
        </Button>
        <Button disabled={!ticked.length} onClick={() => setAsking(true)}>
          Name {ticked.length} otherwise…
        </Button>
        <Button disabled={ticked.length < 2} onClick={() => join.mutate(ticked)}>
          Join them
        </Button>
      </Box>
      {asking && (
        <NameDialog
          title={`Where ${ticked.length === 1 ? "was this night" : "were these nights"}?`}
          label="Venue"
          action="Name"
          onDone={(venue) => name.mutate({ ids: ticked, venue })}
          onClose={() => setAsking(false)}
        />
      )}
    </Section>
  );
}

function Thrown({ logbook, gigs }: ListProps) {
  const { ticked, toggle } = useTicked(gigs, false);
  const { throwAway, removeNights: remove } = useNightActions();
  return (
    <Section
      title="Thrown away"
      says="Kept aside, and not counted as played."
      none="Nothing was thrown away."
      count={gigs.length}
    >
      {gigs.map((gig) => (
        <Line
          key={gig.id}
          gig={gig}
          logbook={logbook}
          ticked={ticked.includes(gig.id)}
          onTick={() => toggle(gig.id)}
        />
      ))}
      <Box sx={{ display: "flex", gap: 1 }}>
        <Button
          disabled={throwAway.isPending}
          onClick={() =>
            throwAway.mutate({ ids: ticked.length ? ticked : gigs.map(({ id }) => id), practice: false })
          }
        >
          Bring {ticked.length ? nights(ticked.length) : `all ${gigs.length}`} back
        </Button>
        <Button disabled={!ticked.length} onClick={() => remove.mutate(ticked)}>
          Delete {ticked.length ? nights(ticked.length) : "for good"}
        </Button>
      </Box>
    </Section>
  );
}

interface SectionProps {
  title: string;
  says: string;
  none: string;
  count: number;
  children: React.ReactNode;
}

function Section({ title, says, none, count, children }: SectionProps) {
  return (
    <Box component="section" aria-label={title}>
      <Typography variant="h2">
        {title} {count > 0 && `(${count})`}
      </Typography>
      <Box sx={{ color: "text.secondary", fontSize: "0.85rem", mb: 1 }}>{count ? says : none}</Box>
      {count > 0 && children}
    </Box>
  );
}

interface LineProps {
  logbook: Logbook;
  gig: Gig;
  ticked: boolean;
  onTick: () => void;
  children?: React.ReactNode;
}

function Line({ logbook, gig, ticked, onTick, children }: LineProps) {
  const open = () => logbook.go({ view: "nights", venue: null, night: gig.id, beside: null });
  return (
    <Box
      sx={{
        display: "flex",
        alignItems: "center",
        borderBottom: 1,
        borderColor: "divider",
        mb: 0.5,
        py: 0.3,
      }}
    >
      <Checkbox
        size="small"
        checked={ticked}
        onChange={onTick}
        slotProps={{ input: { "aria-label": `${dayOf(gig.on)} ${gig.begins ?? ""}` } }}
      />
      <Box sx={{ flex: 1, minWidth: 0, fontSize: "0.86rem" }}>
        <Box sx={{ fontWeight: 600 }}>{dayOf(gig.on)}</Box>
        <Box sx={{ color: "text.secondary" }}>{factsOf(gig)}</Box>
        <Box sx={{ color: "warning.main" }}>{children}</Box>
      </Box>
      {!gig.practice && <Button onClick={open}>Look</Button>}
    </Box>
  );
}
