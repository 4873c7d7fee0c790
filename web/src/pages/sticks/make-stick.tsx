/** Making a stick: a real drive, a folder, or a stand-in; its player, or those of the stick it is a spare of. */
import { Alert, Box, Button, TextField } from "@mui/material";
import { queryOptions, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useChange } from "../../api/changes";
import { client, unwrap, type Schema, type Stick } from "../../api/client";
import { FormDialog } from "../../components/form-dialog";
import { size } from "../../components/format";
import { profilesQuery } from "./players-line";

const SIZES_MB = [
  { mb: 60, name: "A stand-in of 60 MB (soon full)" },
  { mb: 1000, name: "A stand-in of 1 GB" },
  { mb: 8000, name: "A stand-in of 8 GB" },
  { mb: 64000, name: "A stand-in of 64 GB" },
];
const FOLDER = "folder";
const USUAL = "8000";
// Also while what is chosen among is still on its way, and nothing stands in the field.
const NATIVE = { select: { native: true }, inputLabel: { shrink: true } };
const NAME = { htmlInput: { maxLength: 40 } };

interface Props {
  sticks: readonly Stick[];
  onClose: () => void;
  onMade: (stick: Stick) => void;
}

export function MakeStick({ sticks, onClose, onMade }: Props) {
  const profiles = useQuery(profilesQuery).data ?? [];
  const { data: drives } = useQuery(drivesQuery);
  // A drive that is put in while one looks is offered, but never chosen by itself.
  const [first, setFirst] = useState<string>();
  if (drives && first === undefined) setFirst(drives[0]?.path ?? USUAL);
  const [typed, setTyped] = useState<string>();
  const [picked, setPicked] = useState<string>();
  const what = picked ?? first ?? USUAL;
  const name = typed ?? freeName(drives?.find(({ path }) => path === what)?.name ?? "Stick 1", sticks);
  const [folder, setFolder] = useState("");
  const [profile, setProfile] = useState("Quay One");
  const place = what === FOLDER ? folder.trim() : Number(what) ? null : what;
  const spare = Number(profile) || null;
  const make = useMake({
    name: name.trim(),
    capacity_mb: Number(what) || 1000,
    folder: place,
    profile: spare ? "Quay One" : profile,
    spare_of: spare,
  });
  const submit = () =>
    make.mutate(undefined, {
      onSuccess: (stick) => {
        onMade(stick);
        onClose();
      },
    });
  return (
    <FormDialog
      title="A stick"
      action="Make"
      disabled={!name.trim() || (what === FOLDER && !folder.trim()) || make.isPending}
      content={{ display: "flex", flexDirection: "column", gap: 2 }}
      onSubmit={submit}
      onClose={onClose}
    >
      <TextField
        autoFocus
        size="small"
        margin="dense"
        label="Name"
        value={name}
        onChange={(e) => setTyped(e.target.value)}
        onFocus={(e) => e.target.select()}
        slotProps={NAME}
      />
      <WhatItIs drives={drives ?? []} value={what} onPick={setPicked} />
      {what === FOLDER && <WhichFolder value={folder} onPick={setFolder} />}
      {place && <Whose folder={place} />}
      <ForWhom value={profile} profiles={profiles} sticks={sticks} onPick={setProfile} />
      <Box sx={{ fontSize: "0.82rem", color: "text.secondary" }}>
        {spare
          ? "It carries the same lists for the same players."
          : profiles.find((each) => each.name === profile)?.description}{" "}
        {place ? "Vinyl writes only files of its own there, and removes no others." : ""}
      </Box>
    </FormDialog>
  );
}

/** A stick of another Vinyl is never written on; what it holds can be taken in as an import. */
function Whose({ folder }: { folder: string }) {
  const navigate = useNavigate();
  const whose = useQuery({
    queryKey: ["sticks", "whose", folder],
    queryFn: () => unwrap(client.GET("/api/sticks/whose", { params: { query: { folder } } })),
  }).data?.whose;
  const look = useChange(() =>
    unwrap(client.POST("/api/exchange/looks", { body: { target: "stick", place: folder } })),
  );
  if (whose !== "another") return null;
  return (
    <Alert
      severity="info"
      action={
        <Button
          disabled={look.isPending}
          onClick={() =>
            look.mutate(undefined, {
              onSuccess: (job) => void navigate(`/exchange?view=here&look=${job.id}`),
            })
          }
        >
          See what is on it
        </Button>
      }
    >
      Another Vinyl packed this stick: nothing is written on it. What it holds can be taken in as an import.
    </Alert>
  );
}

/** A name that no stick has, by counting up the number at its end. */
function freeName(wanted: string, sticks: readonly Stick[]): string {
  const taken = new Set(sticks.map(({ name }) => name));
  const [, words = "", number = "1"] = /^(.*?) ?(\d*)$/.exec(wanted) ?? [];
  let free = wanted;
  for (let next = Number(number || 1) + 1; taken.has(free); next += 1) free = `${words} ${next}`;
  return free;
}

const useMake = (body: Schema["StickIn"]) => useChange(() => unwrap(client.POST("/api/sticks", { body })));

interface PickProps {
  value: string;
  onPick: (value: string) => void;
}

function WhichFolder({ value, onPick }: PickProps) {
  return (
    <TextField
      size="small"
      label="Which folder"
      value={value}
      onChange={(event) => onPick(event.target.value)}
    />
  );
}

const drivesQuery = queryOptions({
  queryKey: ["sticks", "drives"],
  queryFn: () => unwrap(client.GET("/api/sticks/drives")),
  refetchInterval: 3000,
});

interface WhatProps extends PickProps {
  drives: readonly Schema["DriveOut"][];
}

/** Real drives first; then what stands in for one. */
function WhatItIs({ drives, value, onPick }: WhatProps) {
  return (
    <TextField
      select
      size="small"
      label="What it is"
      value={value}
      onChange={(e) => onPick(e.target.value)}
      slotProps={NATIVE}
    >
      {drives.map((drive) => (
        <option key={drive.path} value={drive.path}>
          {`The drive ${drive.name}, ${size(drive.capacity_bytes)}, ${drive.file_system}`}
        </option>
      ))}
      <option value={FOLDER}>A folder of my own</option>
      {SIZES_MB.map((each) => (
        <option key={each.mb} value={each.mb}>
          {each.name}
        </option>
      ))}
    </TextField>
  );
}

interface ForWhomProps extends PickProps {
  profiles: readonly Schema["ProfileOut"][];
  sticks: readonly Stick[];
}

function ForWhom({ value, profiles, sticks, onPick }: ForWhomProps) {
  return (
    <TextField
      select
      size="small"
      label="For the player"
      value={value}
      onChange={(e) => onPick(e.target.value)}
      slotProps={NATIVE}
    >
      {profiles.map((each) => (
        <option key={each.name} value={each.name}>
          {each.name}
        </option>
      ))}
      {sticks.map((each) => (
        <option key={each.id} value={String(each.id)}>
          {`the same as “${each.name}”, as its spare`}
        </option>
      ))}
    </TextField>
  );
}
