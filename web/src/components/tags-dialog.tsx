/** Families and their tags: making, naming, ordering, colouring, merging and retiring them. */
import {
  Box,
  Button,
  DialogActions,
  DialogContent,
  DialogTitle,
  IconButton,
  InputBase,
  Menu,
  MenuItem,
  TextField,
} from "@mui/material";
import { useState } from "react";
import { counted } from "../api/changes";
import type { Family, Schema, Tag } from "../api/client";
import { Confirm } from "./confirm";
import { ColourChoice } from "./colour-choice";
import { useFamilies } from "./tags";
import { useTagChanges, type TagChanges } from "./use-tag-changes";
import { KeepingDialog } from "./keeping-dialog";

export function TagsDialog({ onClose }: { onClose: () => void }) {
  const families = useFamilies();
  const changes = useTagChanges();
  const [name, setName] = useState("");
  const make = () => name.trim() && changes.makeFamily.mutate(name.trim(), { onSuccess: () => setName("") });
  return (
    <KeepingDialog onClose={onClose} fullWidth maxWidth="md">
      <DialogTitle>Families and tags</DialogTitle>
      <DialogContent sx={{ display: "flex", flexDirection: "column", gap: 2 }}>
        {families.map((family, place) => (
          <FamilyEditor
            key={family.id}
            family={family}
            place={place}
            last={place === families.length - 1}
            families={families}
            changes={changes}
          />
        ))}
        <Box sx={{ display: "flex", gap: 1 }}>
          <TextField
            size="small"
            label="A new family"
            value={name}
            onChange={(event) => setName(event.target.value)}
            onKeyDown={(event) => event.key === "Enter" && make()}
          />
          <Button disabled={!name.trim()} onClick={make}>
            Make the family
          </Button>
        </Box>
      </DialogContent>
      <DialogActions>
        <Button variant="contained" onClick={onClose}>
          Done
        </Button>
      </DialogActions>
    </KeepingDialog>
  );
}

interface FamilyProps {
  family: Family;
  place: number;
  last: boolean;
  families: Family[];
  changes: TagChanges;
}

function FamilyEditor({ family, place, last, families, changes }: FamilyProps) {
  return (
    <Box component="section" aria-label={family.name} sx={{ opacity: family.retired ? 0.6 : 1 }}>
      <FamilyHead family={family} place={place} last={last} changes={changes} />
      {family.tags.map((tag, at) => (
        <TagEditor
          key={tag.id}
          tag={tag}
          place={at}
          last={at === family.tags.length - 1}
          families={families}
          changes={changes}
        />
      ))}
      <NewTag family={family} changes={changes} />
    </Box>
  );
}

function FamilyHead({ family, place, last, changes }: Omit<FamilyProps, "families">) {
  const [deleting, setDeleting] = useState(false);
  const change = (body: Schema["FamilyChange"]) => changes.changeFamily.mutate({ id: family.id, body });
  return (
    <Box
      sx={{ display: "flex", gap: 1, alignItems: "center", borderBottom: 1, borderColor: "divider", pb: 0.5 }}
    >
      <Arrows what={family.name} place={place} last={last} onMove={(to) => change({ to })} />
      <ColourChoice
        label={`Colour of ${family.name}`}
        colour={family.colour}
        onChange={(colour) => colour && change({ colour })}
      />
      <Editable
        label={`Sign of ${family.name}`}
        value={family.sign}
        width={44}
        onKeep={(sign) => change({ sign })}
      />
      <Editable
        label={`Name of ${family.name}`}
        value={family.name}
        width={200}
        onKeep={(name) => change({ name })}
      />
      <Box sx={{ flex: 1 }} />
      <Button size="small" onClick={() => change({ retired: !family.retired })}>
        {family.retired ? "Take up again" : "Retire"}
      </Button>
      <Button size="small" onClick={() => setDeleting(true)}>
        Delete…
      </Button>
      <Confirm
        open={deleting}
        title={`Delete the family “${family.name}”?`}
        action="Delete the family"
        onClose={() => setDeleting(false)}
        onConfirm={() => changes.deleteFamily.mutate(family.id)}
      >
        Its {counted(family.tags.length, "tag")} go from all tracks. To keep what tracks have and only not
        offer it any more, retire it. Undo brings it back.
      </Confirm>
    </Box>
  );
}

function NewTag({ family, changes }: { family: Family; changes: TagChanges }) {
  const [name, setName] = useState("");
  const make = () =>
    name.trim() &&
    changes.makeTag.mutate({ family_id: family.id, name: name.trim() }, { onSuccess: () => setName("") });
  return (
    <Box sx={{ display: "flex", gap: 1, mt: 0.5, pl: 7 }}>
      <InputBase
        value={name}
        placeholder="A new tag"
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => event.key === "Enter" && make()}
        inputProps={{ "aria-label": `A new tag of ${family.name}`, maxLength: 60 }}
        sx={{ ...FIELD, width: 200 }}
      />
      <Button size="small" disabled={!name.trim()} onClick={make}>
        Make the tag
      </Button>
    </Box>
  );
}

interface TagProps {
  tag: Tag;
  place: number;
  last: boolean;
  families: Family[];
  changes: TagChanges;
}

function TagEditor({ tag, place, last, families, changes }: TagProps) {
  const change = (body: Schema["TagChange"]) => changes.changeTag.mutate({ id: tag.id, body });
  return (
    <Box sx={{ display: "flex", gap: 1, alignItems: "center", py: 0.2, opacity: tag.retired ? 0.6 : 1 }}>
      <Arrows what={tag.name} place={place} last={last} onMove={(to) => change({ to })} />
      <ColourChoice
        label={`Colour of ${tag.name}`}
        colour={tag.colour}
        asFamily
        onChange={(colour) => change({ colour })}
      />
      <Editable
        label={`Sign of ${tag.name}`}
        value={tag.sign}
        width={44}
        onKeep={(sign) => change({ sign })}
      />
      <Editable
        label={`Name of ${tag.name}`}
        value={tag.name}
        width={200}
        onKeep={(name) => change({ name })}
      />
      <Editable
        label={`Letter of ${tag.name}`}
        value={tag.letter ?? ""}
        width={36}
        onKeep={(letter) => change({ letter: letter.toLowerCase().slice(0, 1) || null })}
      />
      <Box sx={{ flex: 1, fontSize: "0.8rem", color: "text.secondary" }}>{counted(tag.tracks, "track")}</Box>
      <TagMenu
        tag={tag}
        families={families}
        changes={changes}
        onRetire={() => change({ retired: !tag.retired })}
      />
    </Box>
  );
}

interface MenuProps {
  tag: Tag;
  families: Family[];
  changes: TagChanges;
  onRetire: () => void;
}

/** What is done with a tag more rarely. */
function TagMenu({ tag, families, changes, onRetire }: MenuProps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [merging, setMerging] = useState(false);
  const others = families.flatMap((family) => family.tags).filter((each) => each.id !== tag.id);
  const choose = (act: () => void) => () => {
    setAnchor(null);
    setMerging(false);
    act();
  };
  const into = (other: Tag) => () => changes.mergeTag.mutate({ id: tag.id, into: other.id });
  return (
    <>
      <Button
        size="small"
        aria-label={`More for ${tag.name}`}
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        …
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={choose(() => undefined)}>
        {!merging && [
          <MenuItem key="merge" onClick={() => setMerging(true)} disabled={!others.length}>
            Merge into…
          </MenuItem>,
          ...families
            .filter((family) => family.id !== tag.family_id)
            .map((family) => (
              <MenuItem
                key={family.id}
                onClick={choose(() =>
                  changes.changeTag.mutate({ id: tag.id, body: { family_id: family.id } }),
                )}
              >
                Move to {family.name}
              </MenuItem>
            )),
          <MenuItem key="retire" onClick={choose(onRetire)}>
            {tag.retired ? "Take up again" : "Retire: offer it no more"}
          </MenuItem>,
          <MenuItem key="delete" onClick={choose(() => changes.deleteTag.mutate(tag.id))}>
            Delete, from {counted(tag.tracks, "track")}
          </MenuItem>,
        ]}
        {merging &&
          others.map((other) => (
            <MenuItem key={other.id} onClick={choose(into(other))}>
              {other.name}
            </MenuItem>
          ))}
      </Menu>
    </>
  );
}

const FIELD = {
  bgcolor: "background.paper",
  border: 1,
  borderColor: "divider",
  px: 0.8,
  borderRadius: "3px",
};

interface EditableProps {
  label: string;
  value: string;
  width: number;
  onKeep: (value: string) => void;
}

/** A text that is kept when it is left or by Enter, if it is another. */
function Editable({ label, value, width, onKeep }: EditableProps) {
  const keep = (event: React.FocusEvent<HTMLInputElement | HTMLTextAreaElement>) => {
    const next = event.target.value.trim();
    if (next !== value) onKeep(next);
  };
  return (
    <InputBase
      key={value}
      defaultValue={value}
      onBlur={keep}
      onKeyDown={(event) => event.key === "Enter" && (event.target as HTMLInputElement).blur()}
      inputProps={{ "aria-label": label, maxLength: 60 }}
      sx={{ ...FIELD, width, fontSize: "0.86rem" }}
    />
  );
}

interface ArrowProps {
  what: string;
  place: number;
  last: boolean;
  onMove: (to: number) => void;
}

function Arrows({ what, place, last, onMove }: ArrowProps) {
  return (
    <Box sx={{ display: "flex", flex: "none" }}>
      <IconButton
        size="small"
        aria-label={`${what} up`}
        disabled={place === 0}
        onClick={() => onMove(place - 1)}
        sx={SMALL}
      >
        ↑
      </IconButton>
      <IconButton
        size="small"
        aria-label={`${what} down`}
        disabled={last}
        onClick={() => onMove(place + 1)}
        sx={SMALL}
      >
        ↓
      </IconButton>
    </Box>
  );
}

const SMALL = { fontSize: "0.8rem", width: 24, height: 24 };
