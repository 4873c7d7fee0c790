/** Which columns a list shows and in which order, also by keyboard. */
import { Box, Button, Checkbox, FormControlLabel, IconButton, Popover, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { memo, useEffect, useLayoutEffect, useRef, useState } from "react";
import { venuesQuery } from "../api/queries";
import { setColumnVenue, useColumnVenue } from "./column-venue";
import { NAMES } from "./track-columns";
import type { TableLayout } from "./use-table-layout";

export const ColumnChooser = memo(function ColumnChooser({ layout }: { layout: TableLayout }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button size="small" onClick={(event) => setAnchor(event.currentTarget)}>
        Columns
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: "top", horizontal: "right" }}
        transformOrigin={{ vertical: "bottom", horizontal: "right" }}
      >
        <Choices layout={layout} />
      </Popover>
    </>
  );
});

/** The list's columns in their order, then the others. What was pressed keeps the focus where it goes. */
function Choices({ layout }: { layout: TableLayout }) {
  const group = useRef<HTMLDivElement>(null);
  const pressed = useRef<string | null>(null);
  useLayoutEffect(() => {
    const all = group.current?.querySelectorAll<HTMLElement>("[aria-label]") ?? [];
    [...all].find((each) => each.ariaLabel === pressed.current)?.focus({ preventScroll: true });
  }, [layout.columns]);
  const remember = (event: React.MouseEvent) => {
    const labelled = (event.target as HTMLElement).closest("[aria-label]");
    if (labelled !== group.current) pressed.current = labelled?.ariaLabel ?? null;
  };
  return (
    <Box
      ref={group}
      role="group"
      aria-label="Columns"
      onClick={remember}
      sx={{ p: 1.5, width: 300, maxHeight: "70vh", overflow: "auto" }}
    >
      {THERE.some((name) => layout.columns.includes(name)) && <There />}
      {layout.columns.map((name, place) => (
        <Choice key={name} name={name} on layout={layout} place={place} />
      ))}
      <Box sx={{ borderTop: 1, borderColor: "divider", my: 0.5 }} />
      {NAMES.filter((name) => !layout.columns.includes(name)).map((name) => (
        <Choice key={name} name={name} on={false} layout={layout} place={-1} />
      ))}
      <Button size="small" onClick={layout.reset} sx={{ mt: 1 }}>
        The usual columns
      </Button>
    </Box>
  );
}

const THERE = ["Last there", "Times there"];

/** At which venue the columns of that tell. */
function There() {
  const venues = useQuery(venuesQuery).data;
  const venue = useColumnVenue();
  const first = venues?.[0];
  const known = venues?.some(({ id }) => id === venue);
  useEffect(() => {
    if (!known && first) setColumnVenue(first.id);
  }, [known, first]);
  if (!first) return <Box sx={{ fontSize: "0.82rem" }}>There is no venue in the Logbook yet.</Box>;
  return (
    <TextField
      select
      fullWidth
      size="small"
      margin="dense"
      label="“There” is"
      value={known ? venue : first.id}
      onChange={(event) => setColumnVenue(Number(event.target.value))}
      slotProps={{ select: { native: true }, inputLabel: { shrink: true } }}
    >
      {venues?.map((each) => (
        <option key={each.id} value={each.id}>
          {each.name}
        </option>
      ))}
    </TextField>
  );
}

interface ChoiceProps {
  name: string;
  on: boolean;
  place: number;
  layout: TableLayout;
}

function Choice({ name, on, place, layout }: ChoiceProps) {
  const last = layout.columns.length - 1;
  const hasRoom = !on || layout.shown.includes(name);
  return (
    <Box sx={{ display: "flex", alignItems: "center" }}>
      <FormControlLabel
        sx={{ flex: 1, m: 0 }}
        control={
          <Checkbox
            size="small"
            sx={{ p: 0.4 }}
            slotProps={{ input: { "aria-label": name } }}
            checked={on}
            onChange={(_e, next) => layout.show(name, next)}
          />
        }
        label={hasRoom ? name : `${name} (no room now)`}
        slotProps={{ typography: { sx: { fontSize: "0.86rem" } } }}
      />
      {on && (
        <>
          <Arrow
            label={`${name} to the left`}
            sign="←"
            off={place === 0}
            act={() => layout.move(name, place - 1)}
          />
          <Arrow
            label={`${name} to the right`}
            sign="→"
            off={place === last}
            act={() => layout.move(name, place + 1)}
          />
        </>
      )}
    </Box>
  );
}

function Arrow({ label, sign, off, act }: { label: string; sign: string; off: boolean; act: () => void }) {
  return (
    <IconButton
      size="small"
      aria-label={label}
      disabled={off}
      onClick={act}
      sx={{ fontSize: "0.85rem", py: 0.2 }}
    >
      {sign}
    </IconButton>
  );
}
