/** What is done with the crates as a whole: made in a row or ready-made, put in order, brought back. */
import { Box, IconButton, Menu, MenuItem, Select, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { counted, useChange, useMakeRuleCrate } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import { deletedQuery, readyMadeQuery } from "../../api/queries";
import { ChoiceList } from "../../components/choice-list";
import { FormDialog } from "../../components/form-dialog";
import { FolderChooser } from "../arrivals/folder-chooser";
import { useFamilies } from "../../components/tags";
import { VALUES } from "./divide-dialog";
import { ManyRulesDialog } from "./many-rules-dialog";

type Asking = "series" | "ready" | "folder" | "deleted" | "line" | null;

export function TreeMenu() {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [asking, setAsking] = useState<Asking>(null);
  const order = useOrderByName();
  const ofFolder = useOfFolder();
  const close = () => setAsking(null);
  const pick = (act: () => void) => () => {
    setAnchor(null);
    act();
  };
  return (
    <>
      <IconButton
        size="small"
        aria-label="More with crates"
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        …
      </IconButton>
      <Menu
        anchorEl={anchor}
        open={anchor !== null}
        onClose={() => setAnchor(null)}
        slotProps={{ list: { dense: true } }}
      >
        <MenuItem onClick={pick(() => setAsking("ready"))}>Ready-made ones by rule…</MenuItem>
        <MenuItem onClick={pick(() => setAsking("series"))}>One by rule for each value…</MenuItem>
        <MenuItem onClick={pick(() => setAsking("line"))}>A line in many rules…</MenuItem>
        <MenuItem onClick={pick(() => setAsking("folder"))}>Of a folder of files…</MenuItem>
        <MenuItem onClick={pick(() => order.mutate(null))}>Put in order by name</MenuItem>
        <MenuItem onClick={pick(() => setAsking("deleted"))}>Deleted ones…</MenuItem>
      </Menu>
      {asking === "series" && <SeriesDialog onClose={close} />}
      {asking === "ready" && <ReadyMadeDialog onClose={close} />}
      {asking === "folder" && (
        <FolderChooser
          title="A crate of a folder of files"
          action="Make a crate of it"
          onChoose={([path]) => path && ofFolder.mutate(path)}
          onClose={close}
        />
      )}
      {asking === "deleted" && <DeletedDialog onClose={close} />}
      {asking === "line" && <ManyRulesDialog onClose={close} />}
    </>
  );
}

/** Makes a crate of the files below a folder, in their order; what is not owned yet is imported into its place. */
function useOfFolder() {
  const navigate = useNavigate();
  return useChange(
    async (path: string) => {
      const name = path.split("/").at(-1) || "Files";
      const body = { path, name, mappings: [], by_names: false, columns: null };
      const made = await unwrap(client.POST("/api/playlists", { body }));
      void navigate(`/crates/${made.crate_id}`);
    },
    () => "Files that are new are being imported into their places.",
  );
}

/** Puts the crates of a folder, or those in none, in the order of their names. */
export function useOrderByName() {
  return useChange((folder_id: number | null) =>
    unwrap(client.POST("/api/lists/order-by-name", { body: { folder_id } })),
  );
}

function SeriesDialog({ onClose }: { onClose: () => void }) {
  const families = useFamilies();
  const values = [...VALUES, ...families.map(({ id, name }) => [`tags ${id}`, `Tag of ${name}`] as const)];
  const [by, setBy] = useState("style");
  const [name, setName] = useState<string | null>(null);
  const proposed = `By ${(values.find(([value]) => value === by)?.[1] ?? by).split(",")[0]?.toLowerCase()}`;
  const make = useChange(
    (body: Schema["SeriesIn"]) => unwrap(client.POST("/api/lists/series", { body })),
    (folder) => `“${folder.name}” gets another crate as soon as a new value appears.`,
  );
  return (
    <FormDialog
      title="A crate by rule for each value"
      action="Make them"
      onSubmit={() =>
        make.mutate({ name: name?.trim() || proposed, by, folder_id: null }, { onSuccess: onClose })
      }
      onClose={onClose}
    >
      <Box sx={{ display: "flex", gap: 2, alignItems: "center", my: 1 }}>
        One for each
        <Select
          size="small"
          variant="standard"
          value={by}
          onChange={(event) => setBy(event.target.value)}
          SelectDisplayProps={{ "aria-label": "Value" }}
        >
          {values.map(([value, words]) => (
            <MenuItem key={value} value={value}>
              {words.toLowerCase()}
            </MenuItem>
          ))}
        </Select>
      </Box>
      <TextField
        fullWidth
        size="small"
        margin="dense"
        label="Folder"
        value={name ?? proposed}
        onChange={(event) => setName(event.target.value)}
      />
    </FormDialog>
  );
}

function ReadyMadeDialog({ onClose }: { onClose: () => void }) {
  const ready = useQuery(readyMadeQuery).data ?? [];
  const [chosen, setChosen] = useState(0);
  const make = useMakeRuleCrate();
  const navigate = useNavigate();
  const done = () => {
    const wanted = ready[chosen];
    if (!wanted) return;
    const { name, rule } = wanted;
    make.mutate(
      { name, rule, folder_id: null },
      {
        onSuccess: ({ id }) => {
          onClose();
          void navigate(`/crates/${id}`);
        },
      },
    );
  };
  return (
    <FormDialog title="Ready-made crates by rule" action="Make it" onSubmit={done} onClose={onClose}>
      <Box sx={{ color: "text.secondary", fontSize: "0.86rem" }}>
        Each is a rule like any other: take it apart and change it as you like.
      </Box>
      <ChoiceList
        label="Ready-made"
        choices={ready.map(({ name, says }, id) => ({ id, primary: name, secondary: says }))}
        chosen={chosen}
        onChoose={setChosen}
      />
    </FormDialog>
  );
}

function DeletedDialog({ onClose }: { onClose: () => void }) {
  const deleted = useQuery(deletedQuery).data ?? [];
  const [chosen, setChosen] = useState<number>();
  const back = useChange(
    (id: number) =>
      unwrap(
        client.POST("/api/lists/deleted/{deleted_id}/bring-back", { params: { path: { deleted_id: id } } }),
      ),
    (made) => ["It is back, at the end of the crates.", ...made.problems].join(" "),
  );
  return (
    <FormDialog
      title="Deleted crates and folders"
      action="Bring it back"
      disabled={chosen === undefined}
      onSubmit={() => chosen !== undefined && back.mutate(chosen, { onSuccess: onClose })}
      onClose={onClose}
    >
      {!deleted.length && (
        <Box sx={{ color: "text.secondary" }}>
          None was deleted. What you delete can be brought back here.
        </Box>
      )}
      <ChoiceList
        label="Deleted"
        choices={deleted.map(({ id, name, deleted_at: when, lists, places }) => ({
          id,
          primary: name,
          secondary: `${counted(lists, "crate")}, ${counted(places, "place")}; ${when.slice(0, 16).replace("T", " ")}`,
        }))}
        chosen={chosen}
        onChoose={setChosen}
      />
    </FormDialog>
  );
}
