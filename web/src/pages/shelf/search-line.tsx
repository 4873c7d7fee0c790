/** The Shelf's one search line: words as they are typed, and limits in plain words, offered while one types. */
import { Autocomplete, Box, TextField } from "@mui/material";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { memo, useEffect, useEffectEvent, useRef, useState } from "react";
import { asWords, limitsQuery, type Sort } from "../../api/queries";
import type { Offered } from "../../api/client";
import { useLocation } from "react-router";
import { useRested } from "../../components/use-rested";
import { changesByAll, sortsOf, type Changes, type Filters } from "./use-shelf-query";

interface Props {
  /** What stands there at first. */
  begun: string;
  /** The filters that are on, apart from words. */
  marked: Filters;
  onChange: (changes: Changes, sorts?: readonly Sort[]) => void;
  /** Going on to the rows. */
  onRows: () => void;
}

const NONE: readonly Offered[] = [];
/** What was typed comes first, then what it may be. */
const OFFER_MS = 120;

/** Apart from what is found, so that rows that come do not draw it again. */
export const SearchLine = memo(function SearchLine(props: Props) {
  const { typed, offered, type, choose, onKeyDown, isFound } = useLine(props);
  return (
    <Autocomplete<Offered, false, true, true>
      freeSolo
      disableClearable
      size="small"
      options={offered}
      filterOptions={(options) => options}
      getOptionLabel={(option) => (typeof option === "string" ? option : option.words)}
      getOptionKey={(option) => (typeof option === "string" ? option : `${option.rest} ${option.words}`)}
      value={EMPTY}
      inputValue={typed}
      clearOnBlur={false}
      // Above the line, so that what is found stays in sight.
      slotProps={{ popper: { placement: "top-start" } }}
      onInputChange={(_, next, reason) => reason === "input" && type(next)}
      onChange={(_, option) => typeof option !== "string" && choose(option)}
      renderOption={({ key, ...props }, option) => <Option key={key} option={option} props={props} />}
      renderInput={(given) => (
        <TextField
          {...given}
          id="shelf-search"
          autoFocus={isFound}
          placeholder="Find words, or say: tempo 120 to 126"
          onKeyDown={onKeyDown}
          slotProps={{
            ...given.slotProps,
            htmlInput: {
              ...given.slotProps.htmlInput,
              id: "shelf-search",
              "aria-label": "Find on the Shelf",
              maxLength: 400,
            },
          }}
        />
      )}
      sx={(theme) => ({
        ...{ width: "23rem", flex: "none", bgcolor: "background.paper", borderRadius: "4px" },
        "& .MuiOutlinedInput-root": { py: "1px !important", fontSize: "0.9rem" },
        "& .MuiOutlinedInput-notchedOutline": { border: `2px solid ${theme.inks.ink}` },
      })}
    />
  );
});

/** The line under the hands: what keys do in it. */
function useLine(props: Props) {
  const { typed, offered, type, choose, takeWhole } = useTyping(props);
  // Who has come here by finding in another room types on here.
  const isFound = (useLocation().state as { found?: boolean } | null)?.found === true;
  // Enter was pressed since the last letter: what is offered is not looked at any more.
  const [settled, setSettled] = useState(isFound);
  const onKeyDown = (event: React.KeyboardEvent) => {
    if (event.key === "Enter" && !isChoosing(event)) {
      event.preventDefault();
      void takeWhole();
      setSettled(true);
    } else if (event.key === "ArrowDown" && (settled || !offered.length)) {
      leave(event);
      props.onRows();
    } else if (event.key === "Escape") {
      type("");
      leave(event);
    }
  };
  const input = (next: string) => {
    setSettled(false);
    type(next);
  };
  return { typed, offered, type: input, choose, onKeyDown, isFound };
}

/** What is typed, what it may be, and what becomes of it. */
function useTyping({ begun, marked, onChange }: Props) {
  const [typed, setTyped] = useState(begun);
  const onText = (q: string) => onChange({ q });
  const queries = useQueryClient();
  const offered = useOffered(typed, onText);
  const type = (next: string) => {
    setTyped(next);
    onText(wordsOf(next));
  };
  const stands = useStanding(typed);
  const choose = (limit: Offered, typedSince = "") => {
    if (!limit.where) {
      type(`${limit.rest ? `${limit.rest} ` : ""}${limit.words}`);
      return;
    }
    const rest = `${limit.rest}${typedSince}`;
    setTyped(rest);
    onChange({ ...changesByAll(limit, marked), q: rest }, sortsOf(limit));
  };
  /** What can hardly mean something else is taken by Enter, however fast it was typed; all else stays words. */
  const takeWhole = async () => {
    const offers = await queries.fetchQuery(limitsQuery(typed));
    const now = stands.current;
    // The text was taken away meanwhile, or has become another.
    if (!now?.startsWith(typed)) return;
    const whole = offers.find(({ where, sure, words }) => where && (sure || isWhole(words, typed)));
    if (whole) choose(whole, now.slice(typed.length));
    else if (now === typed) onText(typed);
  };
  return { typed, offered, type, choose, takeWhole };
}

/** The text as it is now, for what comes back later; null once the line has gone. */
function useStanding(typed: string) {
  const stands = useRef<string | null>(typed);
  useEffect(() => {
    stands.current = typed;
    return () => void (stands.current = null);
  }, [typed]);
  return stands;
}

function Option({ option, props }: { option: Offered; props: object }) {
  return (
    <Box component="li" {...props} sx={{ fontSize: "0.86rem" }}>
      {option.rest && <span style={{ opacity: 0.75 }}>{option.rest}&nbsp;</span>}
      <b>{option.words}</b>
      {!option.where && "…"}
    </Box>
  );
}

/** What the end of a text may be as a limit. What seemed to begin one and does not is searched as words after all. */
function useOffered(typed: string, onText: (text: string) => void): readonly Offered[] {
  const asked = useRested(typed, OFFER_MS);
  const { data, isPlaceholderData } = useQuery(limitsQuery(asked));
  const answer = asked === typed && !isPlaceholderData ? data : undefined;
  const none = answer?.length === 0 && wordsOf(typed) !== typed;
  // What Enter would take is not looked for as words meanwhile.
  const rest = answer?.[0]?.sure ? answer[0].rest : none ? typed : null;
  const search = useEffectEvent((words: string) => onText(words));
  useEffect(() => {
    if (rest !== null) search(rest);
  }, [rest, asked]);
  if (!typed.trim() || !data) return NONE;
  return data[0]?.sure ? [...data, asWords(typed.trim())] : data;
}

/** Words with which limits begin; what follows them is not searched while it may become one. */
const BEGINS =
  /(?:^|\s)(?:title|comment|grouping|tempo|energy|stars|year|length|loudness|doubt|cues|plays|bitrate|routes|key|added|played|artist|album|label|style|remixer|composer|catalogue|isrc|marks|language|format|file|folder|colour|tag|without|with|not|in|backing)\s.*$/i;

function wordsOf(typed: string): string {
  return typed.replace(BEGINS, "");
}

/** Whether a text ends in a limit as it is written. */
function isWhole(words: string, typed: string): boolean {
  return ` ${typed.trim().toLowerCase()}`.endsWith(` ${words.toLowerCase()}`);
}

function isChoosing(event: React.KeyboardEvent): boolean {
  return (event.target as HTMLInputElement).getAttribute("aria-activedescendant") !== null;
}

/** Nothing is ever chosen for good: what is taken becomes a chip. */
const EMPTY = "";

/** Leaves the search for the rows. Enter does not: who types on types words, where rows have commands. */
function leave(event: React.KeyboardEvent & { defaultMuiPrevented?: boolean }): void {
  event.preventDefault();
  event.defaultMuiPrevented = true;
  (event.target as HTMLInputElement).blur();
}
