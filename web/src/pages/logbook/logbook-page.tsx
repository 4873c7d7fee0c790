/** Logbook: every gig that was played, where, when, in which order, and how it went. */
import { Box, Button, Menu, MenuItem, Typography } from "@mui/material";
import { useState } from "react";
import { useNavigate } from "react-router";
import { counted } from "../../api/changes";
import { Empty } from "../../components/empty";
import { KeyHint } from "../../components/key-hint";
import { shown } from "../../components/key-map";
import { KEYS } from "../../components/keys";
import { useKeys } from "../../components/use-keys";
import { BesideView } from "./beside-view";
import { ListView } from "./list-view";
import { MonthView } from "./month-view";
import { NightView } from "./night-view";
import { PlanView } from "./plan-view";
import { PlayedView } from "./played-view";
import { TellingDialog, type TellingKind } from "./telling-dialog";
import { isNameless, looksLikePractice, TidyView } from "./tidy-view";
import { useLogbook, VIEWS, type Logbook, type View } from "./use-logbook";
import { VenueDialog } from "./venue-dialog";
import { weeklyOf } from "./words";
import { YearStrip } from "./year-strip";
import { YearView } from "./year-view";

export function LogbookPage() {
  const logbook = useLogbook();
  const [telling, setTelling] = useState<TellingKind | null>(null);
  useKeys(KEYS.logbook.byHand, () => setTelling("by hand"));
  if (!logbook) return null;
  return (
    <>
      {logbook.gigs.length ? (
        <Book logbook={logbook} onTell={setTelling} />
      ) : (
        <NoGigs logbook={logbook} onTell={setTelling} />
      )}
      {telling && <TellingDialog kind={telling} logbook={logbook} onClose={() => setTelling(null)} />}
    </>
  );
}

interface BookProps {
  logbook: Logbook;
  onTell: (kind: TellingKind) => void;
}

function Book({ logbook, onTell }: BookProps) {
  useStepping(logbook);
  return (
    <>
      <Head logbook={logbook} onTell={onTell} />
      <YearStrip logbook={logbook} />
      <Views logbook={logbook} />
      <OpenView logbook={logbook} />
    </>
  );
}

function OpenView({ logbook }: { logbook: Logbook }) {
  const { view, night, beside, plan } = logbook;
  if (view === "list") return <ListView logbook={logbook} />;
  if (view === "month") return <MonthView logbook={logbook} />;
  if (view === "played") return <PlayedView logbook={logbook} />;
  if (view === "year") return <YearView logbook={logbook} />;
  if (view === "tidy") return <TidyView logbook={logbook} />;
  if (night && plan !== null) return <PlanView logbook={logbook} night={night} set={plan} />;
  if (night && beside) return <BesideView logbook={logbook} first={night.id} second={beside.id} />;
  if (night) return <NightView logbook={logbook} id={night.id} />;
  return (
    <Empty title="No night here yet">
      <p>Nothing in the Logbook was played at this venue.</p>
    </Empty>
  );
}

/** To the night before and the night after, by key. */
function useStepping({ there, night, view, go }: Logbook): void {
  const step = (by: number) => () => {
    const to = there[there.findIndex((gig) => gig.id === night?.id) + by];
    if (view === "nights" && to) go({ night: to.id, beside: null });
  };
  useKeys(KEYS.logbook.earlier, step(1));
  useKeys(KEYS.logbook.later, step(-1));
}

function Head({ logbook, onTell }: BookProps) {
  const { venue, there } = logbook;
  const [changing, setChanging] = useState(false);
  const facts = venue
    ? [
        counted(there.length, "night"),
        ...venue.recurring.map(weeklyOf),
        venue.clean_words && "clean words only",
        venue.players,
        venue.note,
      ]
    : [counted(there.length, "night"), counted(logbook.venues.length, "venue")];
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1, px: 2.5, pt: 1.5, pb: 0.5, flex: "none" }}>
      <Typography variant="h1" sx={{ whiteSpace: "nowrap" }}>
        {venue?.name ?? "All venues"}
      </Typography>
      <Box
        sx={{
          color: "text.secondary",
          fontSize: "0.86rem",
          flex: 1,
          minWidth: 0,
          overflow: "hidden",
          textOverflow: "ellipsis",
          whiteSpace: "nowrap",
          ml: 0.5,
        }}
      >
        {facts.filter(Boolean).join(" · ")}
      </Box>
      {venue && <Button onClick={() => setChanging(true)}>This venue…</Button>}
      <Button onClick={() => onTell("by hand")}>
        Gig by hand <KeyHint>{shown(KEYS.logbook.byHand)}</KeyHint>
      </Button>
      <OtherWays onTell={onTell} />
      {venue && changing && (
        <VenueDialog venue={venue} logbook={logbook} onClose={() => setChanging(false)} />
      )}
    </Box>
  );
}

function OtherWays({ onTell }: { onTell: (kind: TellingKind) => void }) {
  const navigate = useNavigate();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const tell = (kind: TellingKind) => () => {
    setAnchor(null);
    onTell(kind);
  };
  return (
    <>
      <Button aria-haspopup="menu" onClick={(event) => setAnchor(event.currentTarget)}>
        From a stick or file…
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        <MenuItem onClick={tell("file")}>A playlist, table or text of another program…</MenuItem>
        <MenuItem onClick={tell("list")}>A list of Vinyl’s own…</MenuItem>
        <MenuItem onClick={() => void navigate("/sticks")}>A stick: put it in, in Sticks</MenuItem>
      </Menu>
    </>
  );
}

const NAMES: Record<View, string> = {
  nights: "Night",
  list: "All nights",
  month: "Month",
  played: "What was played",
  year: "The year",
  tidy: "To tidy",
};

function Views({ logbook }: { logbook: Logbook }) {
  const untidy = logbook.gigs.filter((gig) => isNameless(gig) || looksLikePractice(gig)).length;
  return (
    <Box
      role="tablist"
      aria-label="Views of the Logbook"
      sx={{ display: "flex", gap: 2.5, px: 2.5, pt: 0.8, flex: "none" }}
    >
      {VIEWS.map((view) => (
        <Box
          key={view}
          component="button"
          role="tab"
          type="button"
          aria-selected={view === logbook.view}
          onClick={() => logbook.go({ view })}
          sx={{
            ...{
              border: 0,
              background: "none",
              p: 0,
              pb: 0.4,
              font: "inherit",
              color: "inherit",
              cursor: "pointer",
            },
            ...{ fontSize: "0.9rem", fontWeight: view === logbook.view ? 700 : 450 },
            ...{ borderBottom: 3, borderColor: view === logbook.view ? "text.primary" : "transparent" },
          }}
        >
          {NAMES[view]}
          {view === "tidy" && untidy > 0 && (
            <Box component="span" sx={{ color: "error.main", fontWeight: 700, ml: 0.6 }}>
              {untidy}
            </Box>
          )}
        </Box>
      ))}
    </Box>
  );
}

function NoGigs({ onTell }: BookProps) {
  const navigate = useNavigate();
  return (
    <Empty title="No gig yet">
      <p>
        The Logbook remembers what you played where, so that no night repeats another. Gigs come from what a
        player wrote on a stick, from files of other programs, from lists, or by hand.
      </p>
      <Box sx={{ display: "flex", gap: 1 }}>
        <Button variant="contained" color="error" onClick={() => onTell("by hand")}>
          Gig by hand
        </Button>
        <Button onClick={() => onTell("file")}>Out of a file</Button>
        <Button onClick={() => void navigate("/sticks")}>From a stick</Button>
      </Box>
    </Empty>
  );
}
