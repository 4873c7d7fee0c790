/** Genre words of the files as tags: the spellings that are one, the tag each becomes, and how many tracks get it. */
import { Box, Checkbox, DialogContentText, InputBase } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted, useChange } from "../api/changes";
import { client, unwrap, type Family, type Schema } from "../api/client";
import { offersQuery } from "../api/queries";
import { FormDialog } from "./form-dialog";

type Offer = Schema["OfferOut"];

export function StylesDialog({ family, onClose }: { family: Family; onClose: () => void }) {
  const offers = useQuery(offersQuery(family.id)).data;
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [names, setNames] = useState<Readonly<Record<string, string>>>({});
  const nameOf = (offer: Offer) =>
    names[offer.name] ?? family.tags.find((tag) => tag.id === offer.tag_id)?.name ?? offer.name;
  const taken = (offers ?? []).filter(
    (offer) => offer.missing && !left.has(offer.name) && nameOf(offer).trim(),
  );
  const take = useChange(
    (mapping: Record<string, string>) =>
      unwrap(
        client.POST("/api/tag-families/{family_id}/offers", {
          params: { path: { family_id: family.id } },
          body: { mapping },
        }),
      ),
    ({ tracks }) => `${counted(tracks, "track")} tagged by what their files say.`,
  );
  const submit = () =>
    take.mutate(Object.fromEntries(taken.map((offer) => [offer.name, nameOf(offer).trim()])), {
      onSuccess: onClose,
    });
  return (
    <FormDialog
      title={`${family.name} from the files’ genre words`}
      action={taken.length ? `Take ${counted(taken.length, "tag")}` : "Nothing to take"}
      disabled={!taken.length || take.isPending}
      width="md"
      onSubmit={submit}
      onClose={onClose}
    >
      <DialogContentText sx={{ fontSize: "0.82rem", mb: 1 }}>
        Spellings of one style are put together. Give two the same name to make them one tag; locked tags stay
        as they are.
      </DialogContentText>
      {offers?.map((offer) => (
        <OfferLine
          key={offer.name}
          offer={offer}
          name={nameOf(offer)}
          on={!left.has(offer.name)}
          onTick={() => setLeft(toggled(left, offer.name))}
          onName={(name) => setNames({ ...names, [offer.name]: name })}
        />
      ))}
      {offers?.length === 0 &&
        "No file says what its style is. Give tags by hand (Alt T), or write genres into the files and read their tags again (⇧ F)."}
    </FormDialog>
  );
}

function toggled(set: ReadonlySet<string>, name: string): ReadonlySet<string> {
  const next = new Set(set);
  if (!next.delete(name)) next.add(name);
  return next;
}

interface LineProps {
  offer: Offer;
  name: string;
  on: boolean;
  onTick: () => void;
  onName: (name: string) => void;
}

function OfferLine({ offer, name, on, onTick, onName }: LineProps) {
  const spellings = Object.entries(offer.spellings)
    .map(([word, tracks]) => `${word} ${tracks.toLocaleString("en")}`)
    .join(" · ");
  return (
    <Box
      sx={{ display: "grid", gridTemplateColumns: "40px 1fr 24px 200px 130px", alignItems: "center", gap: 1 }}
    >
      <Checkbox
        size="small"
        checked={on && offer.missing > 0}
        disabled={!offer.missing}
        onChange={onTick}
        slotProps={{ input: { "aria-label": `Take ${offer.name}` } }}
      />
      <Box sx={{ color: "text.secondary", fontSize: "0.84rem" }}>{spellings}</Box>
      <span aria-hidden>→</span>
      <InputBase
        value={name}
        disabled={!on || !offer.missing}
        onChange={(event) => onName(event.target.value)}
        inputProps={{ "aria-label": `Tag for ${offer.name}`, maxLength: 60 }}
        sx={{ bgcolor: "background.paper", border: 1, borderColor: "divider", px: 1, borderRadius: "3px" }}
      />
      <Box sx={{ fontSize: "0.8rem", color: "text.secondary" }}>
        {offer.missing ? `${counted(offer.missing, "track")} get it` : "all have it"}
      </Box>
    </Box>
  );
}
