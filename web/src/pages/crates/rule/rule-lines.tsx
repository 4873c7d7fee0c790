/** The rule of a crate as sentences: what each line holds alone, and how many tracks are left after it. */
import { Box, Button } from "@mui/material";
import { useState, type ReactNode } from "react";
import type { Condition, Schema } from "../../../api/client";
import { KeyHint } from "../../../components/key-hint";
import { shown } from "../../../components/key-map";
import { KEYS } from "../../../components/keys";
import { useKeys } from "../../../components/use-keys";
import { LineInput } from "./line-input";
import { addedTo, changedAt, isJoined, partAt, type Joined, type Path } from "./tree";

type Line = Schema["LineOut"];

interface Props {
  where: Joined;
  counted: Schema["CountedOut"] | undefined;
  onChange: (where: Joined) => void;
  /** What the rule would be with the line that is being typed; null while none is. */
  onTry: (where: Joined | null) => void;
}

/** Where a line is being typed: a new one at the end of a group, or another one in the place of one. */
interface Typing {
  path: Path;
  anew: boolean;
}

/** What the lines need to know and can do. */
interface Hands {
  lines: ReadonlyMap<string, Line>;
  typing: Typing | null;
  library: number;
  emptied: number | null;
  type: (path: Path, anew: boolean) => void;
  put: (path: Path, part: Condition | null) => void;
  add: (path: Path, part: Condition) => void;
  tryOut: (path: Path, anew: boolean, part: Condition | null) => void;
  stop: () => void;
}

const JOINS: Record<Joined["kind"], string> = {
  all: "all of this",
  any: "any of this",
  none: "none of this",
};
const KINDS: readonly Joined["kind"][] = ["all", "any", "none"];
const BAR = "12.5rem";
const LEFT = "4rem";
const nameOf = (path: Path): string => path.join(".");

export function RuleLines(props: Props) {
  const hands = useHands(props);
  const library = hands.library.toLocaleString("en");
  return (
    <Box sx={{ px: 2, pb: 1 }} role="group" aria-label="The rule">
      <Box sx={{ display: "flex", fontSize: "0.76rem", fontWeight: 600, color: "text.secondary" }}>
        <Box sx={{ flex: 1 }}>Tracks of which all of this holds</Box>
        <Box sx={{ width: BAR }}>each line alone, of {library}</Box>
        <Box sx={{ width: LEFT, textAlign: "right" }}>left</Box>
      </Box>
      <Group joined={props.where} path={[]} hands={hands} />
    </Box>
  );
}

function useHands({ where, counted, onChange, onTry }: Props): Hands {
  const [typing, setTyping] = useState<Typing | null>(null);
  useKeys(KEYS.rules.line, () => setTyping({ path: [], anew: true }));
  return {
    lines: new Map(counted?.lines.map((line) => [nameOf(line.path), line])),
    library: counted?.library ?? 0,
    emptied: counted?.emptied_by ?? null,
    typing,
    stop: () => setTyping(null),
    type: (path, anew) => setTyping({ path, anew }),
    put: (path, part) => {
      onChange(changedAt(where, path, () => part));
      setTyping(null);
    },
    tryOut: (path, anew, part) =>
      onTry(part && (anew ? addedTo(where, path, part) : changedAt(where, path, () => part))),
    add: (path, part) => {
      onChange(addedTo(where, path, part));
      // One more can be typed at once, in a group that was made empty within it.
      const into = partAt(where, path);
      const last = into && isJoined(into) ? into.parts.length : 0;
      setTyping({ path: isJoined(part) && !part.parts.length ? [...path, last] : path, anew: true });
    },
  };
}

function Group({ joined, path, hands }: { joined: Joined; path: Path; hands: Hands }) {
  const { typing } = hands;
  const here = typing?.anew && nameOf(typing.path) === nameOf(path);
  return (
    <Box
      sx={(theme) => ({
        ...{ borderLeft: 3, borderRadius: "6px 0 0 6px", pl: 1.4, ml: path.length ? 0.5 : 0 },
        borderColor: joined.kind === "none" ? theme.inks.now : theme.inks.ink,
        borderLeftStyle: joined.kind === "all" ? "solid" : "double",
      })}
    >
      {joined.parts.map((part, place) => (
        <Part key={place} part={part} path={[...path, place]} hands={hands} />
      ))}
      {here && (
        <Typed line={hands.lines.get(nameOf([...path, joined.parts.length]))}>
          <LineInput
            key={joined.parts.length}
            onDone={(part) => hands.add(path, part)}
            onTry={(part) => hands.tryOut(path, true, part)}
            onLeave={hands.stop}
          />
        </Typed>
      )}
      <More path={path} hands={hands} />
    </Box>
  );
}

/** The ways to make a group longer. */
function More({ path, hands }: { path: Path; hands: Hands }) {
  return (
    <Box sx={{ display: "flex", gap: 0.5, py: 0.3, ...(path.length ? INNER : {}) }}>
      <Button size="small" variant="text" onClick={() => hands.type(path, true)} sx={QUIET}>
        + a line {!path.length && <KeyHint>{shown(KEYS.rules.line)}</KeyHint>}
      </Button>
      {KINDS.map((kind) => (
        <Button
          key={kind}
          size="small"
          variant="text"
          className="group"
          onClick={() => hands.add(path, { kind, parts: [] })}
          sx={QUIET}
        >
          + {kind} of…
        </Button>
      ))}
    </Box>
  );
}

/** Groups within groups are rare: their buttons show under the pointer and the focus. */
const INNER = { "& .group": { opacity: 0 }, "&:hover .group, &:focus-within .group": { opacity: 1 } };
const QUIET = { color: "text.secondary", px: 0.7, py: 0, fontWeight: 500 };

function Part({ part, path, hands }: { part: Condition; path: Path; hands: Hands }) {
  const line = hands.lines.get(nameOf(path));
  const { typing } = hands;
  if (isJoined(part))
    return (
      <Box role="group" aria-label={JOINS[part.kind]} sx={{ mb: 0.4 }}>
        <Row path={path} line={line} hands={hands}>
          <Turn kind={part.kind} onTurn={(kind) => hands.put(path, { ...part, kind })} />
        </Row>
        <Group joined={part} path={path} hands={hands} />
      </Box>
    );
  if (typing && !typing.anew && nameOf(typing.path) === nameOf(path))
    return (
      <Typed line={line}>
        <LineInput
          text={line?.words ?? ""}
          onDone={(next) => hands.put(path, next)}
          onTry={(next) => hands.tryOut(path, false, next)}
          onLeave={hands.stop}
        />
      </Typed>
    );
  return (
    <Row path={path} line={line} hands={hands} bar>
      <Button
        variant="text"
        title="Say it otherwise"
        onClick={() => hands.type(path, false)}
        sx={{ ...SENTENCE, borderBottom: 1, borderColor: "text.primary" }}
      >
        {line?.words ?? "…"}
      </Button>
    </Row>
  );
}

/** The line that is being typed, with what it would hold. */
function Typed({ line, children }: { line: Line | undefined; children: ReactNode }) {
  return (
    <Box sx={{ display: "flex", alignItems: "center" }}>
      <Box sx={{ flex: 1, minWidth: 0 }}>{children}</Box>
      <Box className="figure" sx={{ width: BAR, color: "text.secondary" }} data-testid="alone">
        {line && `${line.alone.toLocaleString("en")} alone`}
      </Box>
      <Box className="figure" sx={{ width: LEFT, textAlign: "right" }}>
        {line?.left?.toLocaleString("en")}
      </Box>
    </Box>
  );
}

const SENTENCE = {
  ...{ p: 0, borderRadius: 0, fontSize: "0.92rem" },
  ...({ whiteSpace: "normal", textAlign: "left" } as const),
};

/** Another way to join the parts of a group. */
function Turn({ kind, onTurn }: { kind: Joined["kind"]; onTurn: (kind: Joined["kind"]) => void }) {
  const next = KINDS[(KINDS.indexOf(kind) + 1) % KINDS.length] ?? "all";
  return (
    <Button
      variant="text"
      title={`Turn into ${JOINS[next]}`}
      onClick={() => onTurn(next)}
      sx={{ ...SENTENCE, fontSize: "0.78rem", color: "text.secondary" }}
    >
      {JOINS[kind]}
    </Button>
  );
}

interface RowProps {
  path: Path;
  line: Line | undefined;
  hands: Hands;
  /** What it holds alone is shown as a bar too. */
  bar?: boolean;
  children: ReactNode;
}

function Row({ path, line, hands, bar = false, children }: RowProps) {
  const share = line && hands.library ? line.alone / hands.library : 0;
  const empties = path.length === 1 && path[0] === hands.emptied;
  return (
    <Box
      data-line={line?.words}
      sx={(theme) => ({
        ...{ display: "flex", alignItems: "center", minHeight: "1.9rem" },
        ...{ borderBottom: 1, borderColor: "divider" },
        bgcolor: empties ? `color-mix(in srgb, ${theme.inks.now} 12%, transparent)` : undefined,
      })}
    >
      <Box sx={{ flex: 1, minWidth: 0 }}>{children}</Box>
      <Button
        variant="text"
        aria-label={`Take out ${line?.words ?? "this line"}`}
        title="Take this out of the rule"
        onClick={() => hands.put(path, null)}
        sx={{ minWidth: 26, p: 0, mr: 1, color: "text.secondary" }}
      >
        ×
      </Button>
      <Box sx={{ width: BAR }} title={line && `${line.alone.toLocaleString("en")} tracks alone`}>
        {bar && <Box sx={{ height: 9, width: `${100 * share}%`, bgcolor: "var(--peak)" }} />}
      </Box>
      <Box className="figure" sx={{ width: LEFT, textAlign: "right" }}>
        {line?.left?.toLocaleString("en")}
      </Box>
    </Box>
  );
}
