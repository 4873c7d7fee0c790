/** One open crate that fills itself: its rule in sentences, what is in it now, and why. */
import { Box, Button, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { counted as countedWords } from "../../../api/changes";
import type { Crate, Picked, Track } from "../../../api/client";
import { ruleCountsQuery, type Sort } from "../../../api/queries";
import { Confirm } from "../../../components/confirm";
import { WithSide } from "../../../components/with-side";
import { Empty } from "../../../components/empty";
import { playingTime } from "../../../components/format";
import { KeyHint } from "../../../components/key-hint";
import { shown } from "../../../components/key-map";
import { KEYS } from "../../../components/keys";
import { NameDialog } from "../../../components/name-dialog";
import { PutIntoCrate } from "../../../components/put-into-crate";
import { TrackTable } from "../../../components/track-table";
import { useKeys } from "../../../components/use-keys";
import { ShelfDragging } from "../../shelf/crate-drop";
import { ListMenu } from "../list-menu";
import { MoveDialog } from "../move-dialog";
import { Note } from "../note";
import { useCrateActions } from "../use-crate-actions";
import { useDividers } from "../use-dividers";
import { useFilled, useOpenFilled } from "../use-filled";
import { RuleFoot } from "./rule-foot";
import { RuleLines } from "./rule-lines";
import type { Joined } from "./tree";
import { sortsOf, useRule } from "./use-rule";
import { WhyStrip } from "./why-strip";

interface Props {
  crate: Crate;
  cards: React.ReactNode;
}

export function RuleCrate({ crate, cards }: Props) {
  const [tried, setTried] = useState<Joined | null>(null);
  const rule = useRule(crate, tried);
  const rows = useFilled(crate, rule.rule ? sortsOf(rule.rule) : NEWEST, tried);
  const { source, selection, sorts } = rows;
  const [why, setWhy] = useState(false);
  const [putting, setPutting] = useState<Picked | null>(null);
  useKeys(KEYS.rules.why, () => setWhy(!why));
  const open = useOpenFilled(crate, rows.ids);
  const { dividers } = useDividers(crate, sorts, false);
  const focused: Track | undefined = source.trackAt(selection.focus);
  return (
    <ShelfDragging selection={selection} shown>
      <WithSide name="the crates" remembered="crates side folded" side={cards}>
        <Box sx={{ display: "flex", flexDirection: "column", minHeight: 0 }}>
          <Head crate={crate} rule={rule} why={why} onWhy={() => setWhy(!why)} />
          <Box sx={{ overflow: "auto", maxHeight: "46%", flex: "none" }}>
            <RuleLines
              where={rule.where}
              counted={rule.counted}
              onChange={(where) => rule.change({ where })}
              onTry={setTried}
            />
            {rule.rule && <RuleFoot rule={rule.rule} sorts={sorts} onChange={rule.change} />}
          </Box>
          {tried && <Trying total={source.settled ? source.total : null} />}
          {source.total === 0 ? (
            <NothingMeets />
          ) : (
            <TrackTable
              label={`Tracks of ${crate.name}`}
              list={`crate.${crate.id}`}
              source={source}
              selection={selection}
              sorts={sorts}
              onSort={rows.setSorts}
              onOpen={open}
              onPutIntoCrate={setPutting}
              dividers={tried ? undefined : dividers}
              without={LEFT_OUT}
              view={`${crate.id} ${JSON.stringify([sorts, tried])}`}
            />
          )}
          {why && (
            <WhyStrip
              where={rule.where}
              track={focused}
              counted={rule.counted}
              onClose={() => setWhy(false)}
            />
          )}
        </Box>
      </WithSide>
      {putting && <PutIntoCrate picked={putting} onClose={() => setPutting(null)} />}
    </ShelfDragging>
  );
}

const LEFT_OUT = ["LUFS", "Added"];
const NEWEST: Sort[] = [{ sort: "added_at", descending: true }];

function Trying({ total }: { total: number | null }) {
  return (
    <Box role="status" sx={{ px: 2, pb: 0.6, fontSize: "0.8rem", color: "text.secondary" }}>
      {total === null ? "…" : countedWords(total, "track")} with the line that is being typed; Enter keeps it.
    </Box>
  );
}

function NothingMeets() {
  return (
    <Empty title="No track is like that now">
      <p>As soon as one is, it comes in by itself. Why asks which line leaves none.</p>
    </Empty>
  );
}

function Titled({ crate }: { crate: Crate }) {
  const count = useQuery(ruleCountsQuery).data?.get(crate.id);
  const held = count ? `${countedWords(count.tracks, "track")}, ${playingTime(count.duration_s)}, ` : "";
  return (
    <Box sx={{ flex: 1, minWidth: 0 }}>
      <Typography variant="h1" noWrap>
        {crate.name}
      </Typography>
      <Typography variant="overline">{held}fills itself, always up to date</Typography>
      <Note crate={crate} />
    </Box>
  );
}

interface HeadProps {
  crate: Crate;
  rule: ReturnType<typeof useRule>;
  why: boolean;
  onWhy: () => void;
}

function Head({ crate, rule, why, onWhy }: HeadProps) {
  const navigate = useNavigate();
  const [asking, setAsking] = useState<"rename" | "move" | "delete" | "freeze" | null>(null);
  const actions = useCrateActions(crate);
  const ask = {
    rename: {
      title: `Rename “${crate.name}”`,
      action: "Rename",
      initial: crate.name,
      done: actions.rename.mutate,
    },
    freeze: {
      title: "Freeze into a crate of its own",
      action: "Freeze",
      initial: `${crate.name}, frozen`,
      done: (name: string) =>
        rule.freeze.mutate(name, { onSuccess: ({ id }) => void navigate(`/crates/${id}`) }),
    },
  };
  const naming = asking === "rename" || asking === "freeze" ? ask[asking] : null;
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1, px: 2, pt: 1.6, pb: 1 }}>
      <Titled crate={crate} />
      <Button onClick={onWhy} aria-pressed={why}>
        Why <KeyHint>{shown(KEYS.rules.why)}</KeyHint>
      </Button>
      <Button onClick={() => setAsking("freeze")}>Freeze…</Button>
      <Button onClick={() => setAsking("rename")}>Rename</Button>
      <Button onClick={() => setAsking("move")}>Move…</Button>
      <Button onClick={() => setAsking("delete")}>Delete</Button>
      <ListMenu crate={crate} sorts={[]} />
      {asking === "move" && <MoveDialog crate={crate} onClose={() => setAsking(null)} />}
      {naming && (
        <NameDialog
          title={naming.title}
          label="Name"
          action={naming.action}
          initial={naming.initial}
          onClose={() => setAsking(null)}
          onDone={(name) => naming.done(name)}
        />
      )}
      <Confirm
        open={asking === "delete"}
        title={`Delete “${crate.name}”?`}
        action="Delete the crate"
        onClose={() => setAsking(null)}
        onConfirm={() => actions.drop.mutate(undefined, { onSuccess: () => void navigate("/crates") })}
      >
        Its rule goes; the tracks stay on the Shelf and in all other crates. Undo brings it back.
      </Confirm>
    </Box>
  );
}
