/** Exchange: the library carried to other programs and back, with nothing lost unsaid. */
import { Box, Button, ButtonBase, FormControlLabel, Radio, RadioGroup, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { cratesQuery } from "../../api/queries";
import { CardColumn, ColumnCard } from "../../components/card-column";
import { Confirm } from "../../components/confirm";
import { Empty } from "../../components/empty";
import { ago } from "../../components/format";
import { useQueryString } from "../../components/use-query-string";
import { DestinationDialog } from "./destination-dialog";
import { DocumentDialog } from "./document-dialog";
import { HereView } from "./here-view";
import { ListTree } from "./list-tree";
import { ReportsView } from "./reports-view";
import { ThereView } from "./there-view";
import {
  useDestinationActions,
  useDestinations,
  type Destination,
  type Order,
  type Target,
} from "./use-exchange";

const VIEWS = { there: "Carry there", here: "Bring here", reports: "Reports" };
type View = keyof typeof VIEWS;

export function ExchangePage() {
  const [params, go] = useQueryString();
  const found = useDestinations();
  const view = (Object.keys(VIEWS) as View[]).find((each) => each === params.get("view")) ?? "there";
  const asked = (name: string) => (params.get(name) === null ? null : Number(params.get(name)));
  if (!found) return null;
  const views = <Views view={view} onView={(to) => go({ view: to })} />;
  if (view !== "there")
    return (
      <Box sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column" }}>
        <Box sx={{ px: 3, pt: 1.5 }}>{views}</Box>
        {view === "here" ? (
          <HereView
            targets={found.targets}
            open={asked("look")}
            onOpen={(look) => go({ look })}
            onReport={(report) => go({ view: "reports", report })}
          />
        ) : (
          <ReportsView targets={found.targets} open={asked("report")} onOpen={(report) => go({ report })} />
        )}
      </Box>
    );
  return (
    <There
      {...found}
      views={views}
      asked={asked("to")}
      onShow={(to) => go({ to })}
      onReport={(report) => go({ view: "reports", report })}
    />
  );
}

function Views({ view, onView }: { view: View; onView: (view: View) => void }) {
  return (
    <Box role="tablist" aria-label="Which way" sx={{ display: "flex", gap: 1.5, mb: 0.5, flexWrap: "wrap" }}>
      {(Object.keys(VIEWS) as View[]).map((each) => (
        <ButtonBase
          key={each}
          role="tab"
          aria-selected={each === view}
          onClick={() => onView(each)}
          sx={{
            ...{ font: "inherit", fontSize: "0.92rem", whiteSpace: "nowrap", borderBottom: 2, py: 0.2 },
            borderColor: each === view ? "error.main" : "transparent",
            fontWeight: each === view ? 700 : 500,
          }}
        >
          {VIEWS[each]}
        </ButtonBase>
      ))}
    </Box>
  );
}

interface ThereProps {
  targets: Target[];
  destinations: Destination[];
  views: React.ReactNode;
  asked: number | null;
  onShow: (id: number) => void;
  onReport: (jobId: number) => void;
}

function There({ targets, destinations, views, asked, onShow, onReport }: ThereProps) {
  const [making, setMaking] = useState(false);
  const { change } = useDestinationActions();
  const destination = destinations.find(({ id }) => id === asked) ?? destinations[0];
  const target = targets.find(({ name }) => name === destination?.target);
  const put = (part: Partial<Order>) =>
    destination &&
    change.mutate({ id: destination.id, name: destination.name, order: { ...destination.order, ...part } });
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "280px minmax(0, 1fr)" }}>
      <CardColumn
        label="What goes where"
        heading="To"
        action={<Button onClick={() => setMaking(true)}>Another destination</Button>}
        top={views}
      >
        {destinations.map((each) => (
          <DestinationCard
            key={each.id}
            destination={each}
            label={targets.find(({ name }) => name === each.target)?.label ?? ""}
            open={each === destination}
            onShow={() => onShow(each.id)}
          />
        ))}
        {destination && <WhatGoes destination={destination} onChange={put} />}
        <OwnDocument lists={destination?.order.lists ?? null} />
      </CardColumn>
      {destination && target ? (
        <ThereView
          key={destination.id}
          destination={destination}
          target={target}
          order={destination.order}
          onChange={put}
          onReport={onReport}
        />
      ) : (
        <Empty title="Carry your work to another program">
          <p>
            Say where to. Then see what stays as it is, what is changed and what is left here, try one track,
            and write: every value is read back and compared.
          </p>
          <Button variant="contained" color="error" onClick={() => setMaking(true)}>
            Where to?
          </Button>
        </Empty>
      )}
      {making && (
        <DestinationDialog
          targets={targets}
          onMade={({ id }) => onShow(id)}
          onClose={() => setMaking(false)}
        />
      )}
    </Box>
  );
}

function OwnDocument({ lists }: { lists: readonly number[] | null }) {
  const [open, setOpen] = useState(false);
  return (
    <Box sx={{ mt: 2 }}>
      <Button onClick={() => setOpen(true)}>Vinyl’s own document…</Button>
      {open && <DocumentDialog lists={lists} onClose={() => setOpen(false)} />}
    </Box>
  );
}

interface CardProps {
  destination: Destination;
  label: string;
  open: boolean;
  onShow: () => void;
}

function DestinationCard({ destination, label, open, onShow }: CardProps) {
  const { forget } = useDestinationActions();
  const [asking, setAsking] = useState(false);
  const when = destination.carried_at
    ? `${destination.tracks} tracks, ${ago(destination.carried_at)}`
    : "never written";
  return (
    <>
      <ColumnCard
        name={destination.name}
        says={`${label}, ${when}`}
        open={open}
        corners="2px 7px 7px 2px"
        onShow={onShow}
      />
      {open && (
        <ButtonBase
          sx={{ font: "inherit", fontSize: "0.8rem", textDecoration: "underline", color: "text.secondary" }}
          onClick={() => setAsking(true)}
        >
          Forget this destination
        </ButtonBase>
      )}
      <Confirm
        open={asking}
        title={`Forget “${destination.name}”?`}
        action="Forget it"
        onConfirm={() => forget.mutate(destination)}
        onClose={() => setAsking(false)}
      >
        Its choices, and what was carried there last, are forgotten. What lies there stays.
      </Confirm>
    </>
  );
}

interface WhatProps {
  destination: Destination;
  onChange: (change: Partial<Order>) => void;
}

/** Chosen lists or everything, all of it or what changed since the last time. */
function WhatGoes({ destination, onChange }: WhatProps) {
  const { order } = destination;
  const lists = (useQuery(cratesQuery).data ?? []).filter((crate) => !crate.is_folder);
  const since = destination.carried_at ? new Date(destination.carried_at) : null;
  const day = since?.toLocaleDateString("en-GB", { day: "numeric", month: "short" });
  return (
    <Box sx={{ mt: 1.5 }}>
      <Typography variant="overline">What goes</Typography>
      <RadioGroup
        aria-label="What goes"
        value={order.lists === null ? "all" : "lists"}
        onChange={(event) =>
          onChange({ lists: event.target.value === "all" ? null : lists.map(({ id }) => id) })
        }
      >
        <FormControlLabel
          value="all"
          control={<Radio size="small" sx={{ py: 0.4, pl: 1.2, pr: 0.6 }} />}
          label="everything"
        />
        <FormControlLabel
          value="lists"
          control={<Radio size="small" sx={{ py: 0.4, pl: 1.2, pr: 0.6 }} />}
          label="chosen lists"
        />
      </RadioGroup>
      <RadioGroup
        aria-label="How much of it"
        value={order.changed_only && since ? "changed" : "whole"}
        onChange={(event) => onChange({ changed_only: event.target.value === "changed" })}
        sx={{ mb: 1, borderTop: 1, borderColor: "divider" }}
      >
        <FormControlLabel
          value="whole"
          control={<Radio size="small" sx={{ py: 0.4, pl: 1.2, pr: 0.6 }} />}
          label="all of it"
        />
        <FormControlLabel
          value="changed"
          disabled={!since}
          control={<Radio size="small" sx={{ py: 0.4, pl: 1.2, pr: 0.6 }} />}
          label={since ? `only what changed since ${day}` : "only what changed (once it was written)"}
        />
      </RadioGroup>
      <ListTree chosen={order.lists ?? null} onChoose={(ids) => onChange({ lists: ids })} />
    </Box>
  );
}
