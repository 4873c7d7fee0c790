/** A night beside the set that was planned for it: what came as planned, what was left out, what came instead. */
import { Box, Button, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import type { Schema } from "../../api/client";
import { planBesideQuery } from "../../api/queries";
import { plural } from "../../components/format";
import { KEYS } from "../../components/keys";
import { useKeys } from "../../components/use-keys";
import { FIGURES } from "../../theme";
import { GAP_PX, Group, HEAD_REM, Ribbons } from "./beside-view";
import { PlayRow, ROW_PX } from "./play-row";
import type { Gig, Logbook } from "./use-logbook";
import { dayOf, factsOf } from "./words";

type PlanBeside = Schema["PlanBesideOut"];

interface Props {
  logbook: Logbook;
  night: Gig;
  set: number;
}

export function PlanView({ logbook, night, set }: Props) {
  const { data, error } = useQuery(planBesideQuery(night.id, set));
  const back = () => logbook.go({ plan: null });
  useKeys(KEYS.lists.none, back);
  if (error)
    return (
      <Box sx={{ p: 3, color: "error.main" }}>
        {error.message} <Button onClick={back}>Show {dayOf(night.on)} alone</Button>
      </Box>
    );
  if (!data) return null;
  const { shared, planned } = data;
  const { gig, plays } = data.night;
  const played = new Set(shared.map((each) => each.second));
  return (
    <Box sx={{ flex: 1, minHeight: 0, overflow: "auto", px: 2.5, pt: 1.2, pb: 2 }}>
      <Box sx={{ display: "grid", gridTemplateColumns: `1fr ${GAP_PX}px 1fr 17rem`, alignItems: "start" }}>
        <Planned data={data} />
        <Ribbons shared={shared} most={Math.max(planned.length, plays.length)} />
        <Box sx={{ minWidth: 0 }} data-testid="beside">
          <Head title={`Played, ${dayOf(gig.on)}`} words={factsOf(gig)} />
          <Box role="list" aria-label={`What was played on ${dayOf(gig.on)}`}>
            {plays.map((play, place) => (
              <PlayRow key={play.id} play={play} strong={played.has(place)} narrow />
            ))}
          </Box>
        </Box>
        <HowItWent data={data} onBack={back} />
      </Box>
    </Box>
  );
}

function Head({ title, words }: { title: string; words: string }) {
  return (
    <Box sx={{ height: `${HEAD_REM}rem`, borderBottom: 1, borderColor: "divider" }}>
      <Typography variant="h2" noWrap>
        {title}
      </Typography>
      <Box sx={{ color: "text.secondary", fontSize: "0.82rem" }}>{words}</Box>
    </Box>
  );
}

/** The running order as it was planned, row by row as high as plays. */
function Planned({ data: { name, planned, shared } }: { data: PlanBeside }) {
  const played = new Set(shared.map((each) => each.first));
  return (
    <Box sx={{ minWidth: 0 }} data-testid="planned">
      <Head title={`Planned: ${name}`} words={plural(planned.length, "track")} />
      <Box role="list" aria-label="What was planned">
        {planned.map(({ at, title, artist, note }, place) => (
          <Box
            role="listitem"
            key={place}
            title={[artist, title, note].filter(Boolean).join(" · ")}
            sx={{
              ...{ display: "flex", alignItems: "center", gap: 1.2, height: `${ROW_PX / 16}rem`, px: 0.5 },
              ...{ borderBottom: 1, borderColor: "divider", fontWeight: played.has(place) ? 650 : 450 },
            }}
          >
            <Box
              component="span"
              sx={{ fontFamily: FIGURES, fontSize: "0.8rem", color: "text.secondary", width: "3.1rem" }}
            >
              {at}
            </Box>
            <Box component="span" sx={{ overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" }}>
              {title || "without a title"}
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}

function HowItWent({ data, onBack }: { data: PlanBeside; onBack: () => void }) {
  const { planned, shared } = data;
  const { gig, plays } = data.night;
  const [first, second] = [
    new Set(shared.map((each) => each.first)),
    new Set(shared.map((each) => each.second)),
  ];
  const lines = (rows: readonly { title: string }[], held: Set<number>) =>
    rows.filter((_, place) => !held.has(place)).map(({ title }) => title || "without a title");
  return (
    <Box sx={{ pl: 3 }} data-testid="as planned">
      <Head
        title="How the plan went"
        words={`${first.size} of ${planned.length} planned came, ${shared.filter((each) => each.in_a_row).length} beside the same`}
      />
      <Group title="Planned, not played" lines={lines(planned, first)} />
      <Group title="Played, not planned" lines={lines(plays, second)} />
      <Button sx={{ mt: 1 }} onClick={onBack}>
        Show {dayOf(gig.on)} alone
      </Button>
    </Box>
  );
}
