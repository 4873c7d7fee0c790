/** Sticks: packing for standalone players. */
import { Box, Button, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Stick } from "../../api/client";
import { useChange } from "../../api/changes";
import { sticksQuery } from "../../api/queries";
import { Empty } from "../../components/empty";
import { FormDialog } from "../../components/form-dialog";
import { size } from "../../components/format";
import { ColumnCard, CardColumn } from "../../components/card-column";
import { Capacity } from "./capacity";
import { StickView } from "./stick-view";

/** Packing for standalone players. */
export function SticksPage() {
  const sticks = useQuery(sticksQuery).data;
  const [chosen, setChosen] = useState<number | null>(null);
  const [making, setMaking] = useState(false);
  const stick = sticks?.find((each) => each.id === chosen) ?? sticks?.[0];
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "270px minmax(0, 1fr)" }}>
      <CardColumn
        label="Sticks"
        heading="Sticks"
        action={<Button onClick={() => setMaking(true)}>Make a stand-in stick</Button>}
      >
        {sticks?.map((each) => (
          <StickCard
            key={each.id}
            stick={each}
            open={each.id === stick?.id}
            onShow={() => setChosen(each.id)}
          />
        ))}
        <Box sx={{ mt: 3, fontSize: "0.8rem", color: "text.secondary" }}>
          A stand-in stick is a folder that behaves like a stick of a given size.{" "}
          <Box component="a" href="/player/" target="_blank" rel="noreferrer" sx={{ color: "info.main" }}>
            Open the stand-in player
          </Box>{" "}
          to hear what is on it.
        </Box>
      </CardColumn>
      {stick ? (
        <StickView key={stick.id} stick={stick} />
      ) : (
        sticks && (
          <Empty title="No stick is here">
            <p>Make a stand-in stick to pack crates for the gig and try them in the stand-in player.</p>
            <Button variant="contained" color="error" onClick={() => setMaking(true)}>
              Make a stand-in stick
            </Button>
          </Empty>
        )
      )}
      {making && <MakeStick onClose={() => setMaking(false)} onMade={(made) => setChosen(made.id)} />}
    </Box>
  );
}

function StickCard({ stick, open, onShow }: { stick: Stick; open: boolean; onShow: () => void }) {
  const text = stick.is_in
    ? `${size(stick.capacity_bytes - stick.used_bytes)} free of ${size(stick.capacity_bytes)}`
    : "not in the computer";
  return (
    <ColumnCard name={stick.name} says={text} open={open} corners="2px 7px 7px 2px" onShow={onShow}>
      {stick.is_in && <Capacity used={stick.used_bytes} added={0} capacity={stick.capacity_bytes} />}
    </ColumnCard>
  );
}

const SIZES_MB = [
  { mb: 60, name: "60 MB (soon full)" },
  { mb: 1000, name: "1 GB" },
  { mb: 8000, name: "8 GB" },
  { mb: 64000, name: "64 GB" },
];

function MakeStick({ onClose, onMade }: { onClose: () => void; onMade: (stick: Stick) => void }) {
  const [name, setName] = useState("Slipway Friday");
  const [mb, setMb] = useState(8000);
  const make = useChange(() =>
    unwrap(client.POST("/api/sticks", { body: { name, capacity_mb: mb, profile: "Quay One" } })),
  );
  const submit = () => {
    make.mutate(undefined, {
      onSuccess: (stick) => {
        onMade(stick);
        onClose();
      },
    });
  };
  return (
    <FormDialog
      title="Make a stand-in stick"
      action="Make"
      disabled={!name.trim() || make.isPending}
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
        onChange={(e) => setName(e.target.value)}
        onFocus={(e) => e.target.select()}
        slotProps={{ htmlInput: { maxLength: 40 } }}
      />
      <TextField
        select
        size="small"
        label="Capacity"
        value={mb}
        onChange={(e) => setMb(Number(e.target.value))}
        slotProps={{ select: { native: true } }}
      >
        {SIZES_MB.map((each) => (
          <option key={each.mb} value={each.mb}>
            {each.name}
          </option>
        ))}
      </TextField>
      <Box sx={{ fontSize: "0.82rem", color: "text.secondary" }}>
        For the player Quay One, which is Vinyl’s own stand-in: it plays MP3, AAC, FLAC and WAV; the rest is
        converted to FLAC.
      </Box>
    </FormDialog>
  );
}
