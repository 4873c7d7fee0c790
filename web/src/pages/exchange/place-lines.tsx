/** Where the library is written, for which system, and how beginnings of paths are put for others. */
import { Box, Button, IconButton, InputBase } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { plural } from "../../components/format";
import { client, unwrap, type Schema } from "../../api/client";
import { FIGURES } from "../../theme";
import { FolderChooser } from "../arrivals/folder-chooser";
import { Answers } from "../../components/answers";
import type { Ledger, Order, Target } from "./use-exchange";

interface Props {
  order: Order;
  target: Target;
  ledger: Ledger | undefined;
  onChange: (change: Partial<Order>) => void;
}

const SYSTEMS = [
  { value: "this one", words: "this computer" },
  { value: "windows", words: "a computer with drive letters" },
  { value: "other", words: "another computer" },
] as const;

export function PlaceLines({ order, target, ledger, onChange }: Props) {
  const [choosing, setChoosing] = useState(false);
  return (
    <Box sx={{ fontSize: "0.9rem", lineHeight: 1.8, mb: 1 }}>
      Written to{" "}
      <Button
        onClick={() => setChoosing(true)}
        title="Choose another place"
        sx={{ ...UNDERLINED, fontFamily: FIGURES, fontSize: "0.84rem" }}
      >
        {fileOf(order, target)}
      </Button>
      , for{" "}
      <Answers
        label="Which system it is for"
        title="Paths are written as that system has them"
        value={order.system ?? "this one"}
        answers={SYSTEMS}
        onPick={(system) => onChange({ system: system as Order["system"] & string })}
      />
      {(target.name === "reedbank" || (order.mappings ?? []).length > 0) && (
        <Mappings order={order} ledger={ledger} onChange={onChange} />
      )}
      {choosing && (
        <FolderChooser
          title="Where the library is written"
          action="Choose this folder"
          onChoose={([place]) => place && onChange({ place })}
          onClose={() => setChoosing(false)}
        />
      )}
    </Box>
  );
}

/** The file itself, where a folder was chosen. */
const fileOf = ({ place }: Order, { file_name }: Target): string =>
  !file_name || place.endsWith(file_name.replace(/^vinyl/, "")) ? place : `${place}/${file_name}`;

const UNDERLINED = {
  ...{ p: 0, minWidth: 0, borderRadius: 0, borderBottom: 1, lineHeight: 1.4, color: "text.primary" },
  ...{ textAlign: "left", overflowWrap: "anywhere", verticalAlign: "baseline", fontWeight: 600 },
};

type Pair = Schema["PathPair"];

function Mappings({ order, ledger, onChange }: Omit<Props, "target">) {
  const pairs = order.mappings ?? [];
  const offered = useQuery({
    queryKey: ["exchange-beginnings"],
    queryFn: () => unwrap(client.GET("/api/exchange/beginnings")),
  }).data;
  const put = (at: number, pair: Pair | null) =>
    onChange({
      mappings: pair === null ? pairs.filter((_, i) => i !== at) : pairs.map((p, i) => (i === at ? pair : p)),
    });
  const next = offered?.find(({ here }) => !pairs.some((pair) => pair.here === here));
  const without = ledger?.mapped[""] ?? 0;
  return (
    <Box component="span">
      {pairs.length ? ". Paths:" : ". "}
      {pairs.map((pair, at) => (
        <MappingLine
          key={at}
          pair={pair}
          offered={offered ?? []}
          found={ledger?.mapped[pair.here]}
          onPut={(changed) => put(at, changed)}
        />
      ))}
      <Button
        disabled={!next}
        onClick={() => onChange({ mappings: [...pairs, { here: next?.here ?? "", there: "" }] })}
        sx={{ py: 0 }}
      >
        {pairs.length ? "Put another beginning for theirs" : "Music lies elsewhere there…"}
      </Button>
      {pairs.length > 0 && without > 0 && (
        <Box component="span" sx={{ color: "warning.main" }}>
          {" "}
          {plural(without, "track")} lie outside these and keep their paths
        </Box>
      )}
    </Box>
  );
}

interface LineProps {
  pair: Pair;
  offered: readonly Pair[];
  found: number | undefined;
  onPut: (pair: Pair | null) => void;
}

/** A beginning here and there; what is typed counts once the field is left, or with Enter. */
function MappingLine({ pair, offered, found, onPut }: LineProps) {
  const heres = [pair.here, ...offered.map(({ here }) => here)];
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 0.8, fontFamily: FIGURES, fontSize: "0.84rem" }}>
      <Answers
        label="Beginning of paths here"
        value={pair.here}
        answers={[...new Set(heres)].map((here) => ({ value: here, words: here }))}
        onPick={(here) => onPut({ ...pair, here })}
      />
      <span aria-label="is there">→</span>
      <InputBase
        key={pair.there}
        defaultValue={pair.there}
        autoFocus={!pair.there}
        placeholder="D:/Music"
        onBlur={(event) => event.target.value !== pair.there && onPut({ ...pair, there: event.target.value })}
        onKeyDown={(event) => event.key === "Enter" && (event.target as HTMLInputElement).blur()}
        inputProps={{ "aria-label": `What ${pair.here} is there` }}
        sx={{
          borderBottom: 1,
          borderColor: "text.primary",
          fontFamily: FIGURES,
          fontSize: "inherit",
          width: "16rem",
        }}
      />
      <Box component="span" sx={{ color: "text.secondary" }}>
        {found === undefined ? "" : plural(found, "track")}
      </Box>
      <IconButton size="small" aria-label={`Take out the beginning ${pair.here}`} onClick={() => onPut(null)}>
        ×
      </IconButton>
    </Box>
  );
}
