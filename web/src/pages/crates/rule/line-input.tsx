/** A line of a rule as it is typed: the sentence, with what it may become offered under it. */
import { Autocomplete, Box, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import type { Condition, Offered } from "../../../api/client";
import { limitsQuery } from "../../../api/queries";

interface Props {
  /** What stands there before. */
  text?: string;
  onDone: (part: Condition) => void;
  onLeave: () => void;
}

const NONE: readonly Offered[] = [];

export function LineInput({ text = "", onDone, onLeave }: Props) {
  const [typed, setTyped] = useState(text);
  const { offered, fresh } = useSentences(typed);
  const take = ({ where, words }: Offered) => (where ? onDone(where) : setTyped(words));
  const takeTyped = () => {
    const same = ({ words }: Offered) => words.toLowerCase() === typed.trim().toLowerCase();
    const meant = offered.find((each) => each.where && same(each)) ?? offered.find((each) => each.where);
    if (meant && fresh) take(meant);
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
      onChange={(_, option) => (typeof option === "string" ? takeTyped() : take(option))}
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

/** What a sentence may be as a whole; last of all, its words in any text. */
function useSentences(typed: string): { offered: readonly Offered[]; fresh: boolean } {
  const asked = useDeferredValue(typed.trim());
  const { data, isPlaceholderData } = useQuery(limitsQuery(asked));
  if (!asked) return { offered: NONE, fresh: false };
  const whole = (data ?? NONE).filter((each) => each.rest === "");
  const words: Offered = {
    words: `“${asked}” in its text`,
    where: { kind: "words", text: asked },
    rest: "",
  };
  const fresh = asked === typed.trim() && data !== undefined && !isPlaceholderData;
  return { offered: [...whole, words], fresh };
}
