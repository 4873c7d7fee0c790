/** Tags by their names: one that is there is given or taken; a new one is made in the family whose letter is pressed. */
import { Box, Button, TextField } from "@mui/material";
import { useEffect, useRef, useState } from "react";
import { useGiveNewTag } from "../api/changes";
import type { Family, Picked, Tag } from "../api/client";
import { foldText } from "./format";
import { KeyHint } from "./key-hint";
import { shown } from "./key-map";
import { KEYS } from "./keys";
import { askName, useNaming } from "./tagging";

interface Props {
  picked: Picked;
  families: readonly Family[];
  onToggle: (tag: Tag) => void;
}

export function TagEntry({ picked, families, onToggle }: Props) {
  const [text, setText] = useState("");
  const [isNew, setNew] = useState(false);
  const field = useRef<HTMLInputElement>(null);
  const make = useGiveNewTag();
  const asked = useNaming();
  useEffect(() => {
    if (!asked) return;
    field.current?.focus();
    askName(false);
  }, [asked]);
  const name = text.trim();
  const meant = tagMeant(families, name);
  const done = () => {
    setText("");
    setNew(false);
  };
  const choose = (family: Family) =>
    make.mutate({ ...picked.chosen, family_id: family.id, name }, { onSuccess: done });
  const press = (event: React.KeyboardEvent) => {
    const family = isNew && families.find((_, at) => lettersOf(families)[at] === event.key.toLowerCase());
    if (family) choose(family);
    else if (event.key === "Enter" && meant && !isNew && !event.shiftKey) {
      onToggle(meant);
      done();
    } else if (event.key === "Enter" && name) setNew(true);
    else if (event.key === "Escape" && isNew) setNew(false);
    else if (event.key === "Escape") field.current?.blur();
    else if (!isNew) return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <Box onKeyDown={press}>
      <TextField
        size="small"
        fullWidth
        inputRef={field}
        disabled={!picked.count}
        value={text}
        onChange={(event) => setText(event.target.value)}
        placeholder={`Tag by name, or a new one (${shown(KEYS.lists.tagName)})`}
        slotProps={{ htmlInput: { "aria-label": "Tag by name, or a new one", maxLength: 60 } }}
      />
      <Box role="status" sx={{ fontSize: "0.78rem", color: "text.secondary", minHeight: "1.4em", pt: 0.4 }}>
        {name && !isNew && said(name, meant)}
        {isNew && `Into which family does “${name}” go? Esc goes back.`}
      </Box>
      {isNew && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.5 }}>
          {families.map((family, at) => (
            <Button key={family.id} size="small" disabled={make.isPending} onClick={() => choose(family)}>
              {family.name} <KeyHint>{lettersOf(families)[at]?.toUpperCase() ?? ""}</KeyHint>
            </Button>
          ))}
        </Box>
      )}
    </Box>
  );
}

function said(name: string, meant: Tag | undefined): string {
  if (!meant) return `↵ makes “${name}” a new tag`;
  const isWhole = foldText(meant.name) === foldText(name);
  return `↵ gives or takes “${meant.name}”${isWhole ? "" : `; ⇧ ↵ makes “${name}” a new tag`}`;
}

/** The tag of this name, or the only one that begins so. */
export function tagMeant(families: readonly Family[], name: string): Tag | undefined {
  if (!name) return undefined;
  const tags = families.flatMap((family) => family.tags).filter((tag) => !tag.retired);
  const wanted = foldText(name);
  const begun = tags.filter((tag) => foldText(tag.name).startsWith(wanted));
  return tags.find((tag) => foldText(tag.name) === wanted) ?? (begun.length === 1 ? begun[0] : undefined);
}

/** A letter for each family: the first of its name that no family before it has. */
export function lettersOf(families: readonly Family[]): string[] {
  const taken: string[] = [];
  for (const { name } of families) {
    const letters = [...foldText(name).replace(/[^a-z0-9]/g, ""), ..."abcdefghijklmnopqrstuvwxyz0123456789"];
    taken.push(letters.find((letter) => !taken.includes(letter)) ?? "");
  }
  return taken;
}
