/** A line of a rule as it is typed: the sentence, with what it may become offered under it. */
import { Autocomplete, Box, TextField } from "@mui/material";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useEffect, useEffectEvent, useState } from "react";
import type { Condition, Offered } from "../../../api/client";
import { asWords, limitsQuery } from "../../../api/queries";

interface Props {
  /** What stands there before. */
  text?: string;
  onDone: (part: Condition) => void;
  /** What it would be if it were done now; null while it means nothing. */
  onTry: (part: Condition | null) => void;
  onLeave: () => void;
}

const NONE: readonly Offered[] = [];

export function LineInput({ text = "", onDone, onTry, onLeave }: Props) {
  const [typed, setTyped] = useState(text);
  const queries = useQueryClient();
  const { offered, settled } = useSentences(typed);
  useTrying(typed.trim(), offered, settled, onTry);
  const take = ({ where, words }: Offered) => (where ? onDone(where) : setTyped(words));
  /** What is typed is taken by Enter, however fast. */
  const takeTyped = async () => {
    const said = typed.trim();
    if (!said) return;
    const meant = meantBy(said, sentences(said, await queries.fetchQuery(limitsQuery(said))));
    if (meant) take(meant);
  };
  return (
    <Autocomplete<Offered, false, true, true>
      freeSolo
      disableClearable
      openOnFocus
      size="small"
      options={offered}
      filterOptions={(options) => options}
      getOptionLabel={(option) => (typeof option === "string" ? option : option.words)}
      value=""
      inputValue={typed}
      onInputChange={(_, next, reason) => reason === "input" && setTyped(next)}
      onChange={(_, option) => (typeof option === "string" ? void takeTyped() : take(option))}
      onBlur={onLeave}
      renderOption={({ key, ...props }, option) => (
        <Box component="li" key={key} {...props} sx={{ fontSize: "0.86rem" }}>
          <b>{option.words}</b>
          {!option.where && "…"}
        </Box>
      )}
      renderInput={(given) => (
        <TextField
          {...given}
          autoFocus
          placeholder="Say it: tempo 118 to 126, tag House, played not for 4 weeks"
          onKeyDown={(event) => {
            if (event.key !== "Escape") return;
            event.stopPropagation();
            onLeave();
          }}
          slotProps={{
            ...given.slotProps,
            htmlInput: { ...given.slotProps.htmlInput, "aria-label": "A line of the rule", maxLength: 200 },
          }}
        />
      )}
      sx={{ maxWidth: "34rem", my: 0.4 }}
    />
  );
}

function useSentences(typed: string) {
  const asked = useDeferredValue(typed.trim());
  const { data, isPlaceholderData } = useQuery(limitsQuery(asked));
  return {
    offered: asked ? sentences(asked, data ?? NONE) : NONE,
    settled: asked === typed.trim() && !isPlaceholderData && data !== undefined,
  };
}

/** Tells what the text would be if it were taken now. What only begins a sentence is not tried as words. */
function useTrying(said: string, offered: readonly Offered[], settled: boolean, onTry: Props["onTry"]): void {
  const meant = meantBy(said, offered);
  const tried = meant === offered.at(-1) && offered.length > 1 ? undefined : meant;
  const where = JSON.stringify(tried?.where ?? null);
  const tell = useEffectEvent((part: Condition | null) => onTry(part));
  useEffect(() => {
    if (settled) tell(JSON.parse(where) as Condition | null);
    else if (!said) tell(null);
  }, [settled, said, where]);
  useEffect(() => () => tell(null), []);
}

/** What Enter takes: what is written out, else the first that is one. */
function meantBy(said: string, found: readonly Offered[]): Offered | undefined {
  const whole = found.find(({ words, where }) => where && words.toLowerCase() === said.toLowerCase());
  return whole ?? found.find(({ where }) => where);
}

/** What a sentence may be as a whole; last of all, its words in any text. */
function sentences(said: string, offered: readonly Offered[]): Offered[] {
  return [...offered.filter((each) => each.rest === ""), asWords(said)];
}
