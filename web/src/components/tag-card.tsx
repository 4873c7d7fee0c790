/** The tag card: all families with their tags, ticked where the chosen tracks have them, half where some do; while it
 * listens, each letter gives or takes its tag. */
import { Box, Button, Typography } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useEffectEvent, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { useGiveTag } from "../api/changes";
import type { Family, Picked, Tag } from "../api/client";
import { amongQuery } from "../api/queries";
import { cueColour, FIGURES } from "../theme";
import { useItemMenu } from "./item-menu";
import { shown } from "./key-map";
import { KEYS } from "./keys";
import { StylesDialog } from "./styles-dialog";
import { TagEntry } from "./tag-entry";
import { isTagging, setTagging, useTagging } from "./tagging";
import { TagsDialog } from "./tags-dialog";
import { useFamilies } from "./tags";

type Ticked = "all" | "some" | "none";

export function TagCard({ picked }: { picked: Picked }) {
  const listens = useTagging();
  const families = useFamilies().filter((family) => !family.retired);
  const among = useQuery(amongQuery(picked)).data;
  const [asked, setAsked] = useState<"tags" | Family | null>(null);
  const counts = picked.count ? among?.counts : undefined;
  const ticked = (tag: Tag): Ticked => {
    const count = counts?.[String(tag.id)] ?? 0;
    return count === 0 ? "none" : count >= (among?.total ?? 0) ? "all" : "some";
  };
  const toggle = useToggle(picked);
  useTagLetters(listens, families, toggle);
  return (
    <Box sx={{ display: "flex", flexDirection: "column", gap: 1.2 }}>
      <Listens on={listens} />
      {!picked.count && (
        <Box sx={{ color: "text.secondary", fontSize: "0.8rem" }}>Choose tracks to tag them.</Box>
      )}
      <TagEntry picked={picked} families={families} onToggle={toggle} />
      {families.map((family) => (
        <FamilyTags
          key={family.id}
          family={family}
          ticked={ticked}
          disabled={!picked.count}
          onToggle={toggle}
          onOffers={() => setAsked(family)}
          onChange={() => setAsked("tags")}
        />
      ))}
      <Button size="small" sx={{ alignSelf: "flex-start" }} onClick={() => setAsked("tags")}>
        Change families and tags…
      </Button>
      {asked === "tags" && <TagsDialog onClose={() => setAsked(null)} />}
      {asked !== null && asked !== "tags" && <StylesDialog family={asked} onClose={() => setAsked(null)} />}
    </Box>
  );
}

/** Gives a tag to the chosen, or takes it if all have it: one after the other, each by what is there by then. */
function useToggle(picked: Picked): (tag: Tag) => void {
  const { mutateAsync } = useGiveTag();
  const last = useRef<Promise<unknown>>(Promise.resolve());
  return (tag) => {
    if (!picked.count) return;
    const go = () => mutateAsync({ ...picked.chosen, tag_id: tag.id });
    // What was refused has been said; the next goes on.
    last.current = last.current.then(go).catch(() => undefined);
  };
}

function Listens({ on }: { on: boolean }) {
  return (
    <Box
      component="button"
      type="button"
      aria-pressed={on}
      onClick={() => setTagging(!on)}
      sx={(theme) => ({
        ...{ font: "inherit", fontSize: "0.78rem", textAlign: "left", cursor: "pointer", p: 0.7 },
        border: `1px solid ${on ? theme.inks.chosen : theme.inks.rule}`,
        borderRadius: "3px",
        bgcolor: on ? theme.inks.chosen : "background.paper",
        color: on ? theme.inks.onStrong : "text.primary",
      })}
    >
      {on ? "Letters give and take tags; Esc ends that." : `Tag by letters (${shown(KEYS.lists.tags)})`}
    </Box>
  );
}

interface FamilyProps {
  family: Family;
  ticked: (tag: Tag) => Ticked;
  disabled: boolean;
  onToggle: (tag: Tag) => void;
  onOffers: () => void;
  onChange: () => void;
}

function FamilyTags({ family, ticked, disabled, onToggle, onOffers, onChange }: FamilyProps) {
  const { inks } = useTheme();
  const tags = family.tags.filter((tag) => !tag.retired || ticked(tag) !== "none");
  return (
    <Box component="section" aria-label={family.name}>
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 0.7, mb: 0.4 }}>
        <span aria-hidden style={{ color: cueColour(family.colour, inks) }}>
          {family.sign}
        </span>
        <Typography variant="overline" sx={{ flex: 1 }}>
          {family.name}
        </Typography>
        <Box
          component="button"
          type="button"
          onClick={onOffers}
          title="Take genre words of the files as tags of this family"
          sx={{ ...QUIET, fontSize: "0.7rem" }}
        >
          from the files…
        </Box>
      </Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.6 }}>
        {tags.map((tag) => (
          <TagBox
            key={tag.id}
            tag={tag}
            ticked={ticked(tag)}
            disabled={disabled}
            onToggle={() => onToggle(tag)}
            onChange={onChange}
          />
        ))}
        {!tags.length && (
          <Box sx={{ color: "text.secondary", fontSize: "0.78rem" }}>
            No tags yet: type one above, or take them from the files.
          </Box>
        )}
      </Box>
    </Box>
  );
}

const QUIET = {
  ...{ font: "inherit", border: 0, p: 0, background: "none", cursor: "pointer" },
  ...{ color: "text.secondary", textDecoration: "underline" },
} as const;

interface BoxProps {
  tag: Tag;
  ticked: Ticked;
  disabled: boolean;
  onToggle: () => void;
  /** Changes families and tags. */
  onChange: () => void;
}

const SIGNS: Record<Ticked, string> = { all: "✓", some: "–", none: "" };
const SPOKEN: Record<Ticked, true | false | "mixed"> = { all: true, some: "mixed", none: false };

function TagBox({ tag, ticked, disabled, onToggle, onChange }: BoxProps) {
  const navigate = useNavigate();
  const menu = useItemMenu(`With the tag ${tag.name}`, () => [
    { words: ticked === "all" ? "Take it" : "Give it", act: onToggle, hint: tag.letter?.toUpperCase() ?? "" },
    { words: "Its tracks on the Shelf", act: () => void navigate(`/shelf?tags=${tag.id}`) },
    { words: "Name, letter, colour, family…", act: onChange, apart: true },
  ]);
  return (
    <>
      <Box
        {...menu.handlers}
        component="button"
        type="button"
        role="checkbox"
        aria-checked={SPOKEN[ticked]}
        aria-label={tag.name}
        disabled={disabled}
        onClick={onToggle}
        data-tag={tag.name}
        sx={(theme) => ({
          ...{ font: "inherit", fontSize: "0.82rem", px: 0.8, py: 0.25, cursor: "pointer" },
          ...{ display: "inline-flex", gap: 0.6, alignItems: "baseline", borderRadius: "3px" },
          border: `1px solid ${ticked === "none" ? theme.inks.rule : theme.inks.chosen}`,
          bgcolor:
            ticked === "all"
              ? theme.inks.chosen
              : ticked === "some"
                ? theme.inks.chosenWash
                : "background.paper",
          color: ticked === "all" ? theme.inks.onStrong : "text.primary",
          "&:disabled": { opacity: 0.6, cursor: "default" },
        })}
      >
        {SIGNS[ticked] && <span aria-hidden>{SIGNS[ticked]}</span>}
        {tag.name}
        {tag.letter && (
          <Box component="span" aria-hidden sx={{ fontFamily: FIGURES, fontSize: "0.8em", opacity: 0.75 }}>
            {tag.letter.toUpperCase()}
          </Box>
        )}
      </Box>
      {menu.menu}
    </>
  );
}

/** Takes letters before anything else does, but not where text is typed or a dialog is open. */
function useTagLetters(listens: boolean, families: readonly Family[], toggle: (tag: Tag) => void): void {
  const press = useEffectEvent((event: KeyboardEvent) => {
    // A key right after Escape comes before the page is drawn anew.
    if (!isTagging()) return;
    if (event.ctrlKey || event.altKey || event.metaKey || event.shiftKey || isTyping(event)) return;
    const tags = families.flatMap((family) => family.tags).filter((tag) => !tag.retired);
    const tag = tags.find((each) => each.letter === event.key.toLowerCase());
    if (event.key === "Escape") setTagging(false);
    else if (tag && !event.repeat) toggle(tag);
    else if (!/^[a-z]$/i.test(event.key)) return;
    event.preventDefault();
    event.stopPropagation();
  });
  useEffect(() => {
    if (!listens) return;
    const listen = (event: KeyboardEvent) => press(event);
    window.addEventListener("keydown", listen, true);
    return () => window.removeEventListener("keydown", listen, true);
  }, [listens]);
}

function isTyping(event: KeyboardEvent): boolean {
  const open = document.querySelector("[role=dialog], [role=menu], .MuiPopover-root");
  return (
    open !== null || (event.target instanceof HTMLElement && event.target.matches("input, textarea, select"))
  );
}
