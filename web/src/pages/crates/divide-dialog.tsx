/** By what a list stands under dividers: by hand, or by a value of its tracks, which then is always up to date. */
import { FormControlLabel, Radio, RadioGroup } from "@mui/material";
import { useState } from "react";
import type { Crate } from "../../api/client";
import { FormDialog } from "../../components/form-dialog";
import { useFamilies } from "../../components/tags";
import { useListChanges } from "./list-changes";

/** What lists are divided and made in a row by. */
export const VALUES: [string, string][] = [
  ["key", "Key"],
  ["tempo", "Tempo"],
  ["energy", "Energy"],
  ["style", "Style, as the files say"],
  ["month", "Month of arrival"],
];

export function DivideDialog({ crate, onClose }: { crate: Crate; onClose: () => void }) {
  const [by, setBy] = useState(crate.divided_by);
  const families = useFamilies();
  const { divideBy } = useListChanges(crate);
  const values: [string, string][] = [
    ["", crate.fills_itself || crate.is_folder ? "Nothing" : "My own dividers"],
    ...VALUES,
    ["backing", "Shared backing"],
    ...families.map(({ id, name }): [string, string] => [`tags ${id}`, `Tags of ${name}`]),
  ];
  return (
    <FormDialog
      title={`Divide “${crate.name}” by`}
      action="Divide"
      disabled={by === crate.divided_by}
      onSubmit={() => {
        divideBy.mutate(by);
        onClose();
      }}
      onClose={onClose}
    >
      <RadioGroup aria-label="Divide by" value={by} onChange={(event) => setBy(event.target.value)}>
        {values.map(([value, words]) => (
          <FormControlLabel key={value} value={value} label={words} control={<Radio size="small" />} />
        ))}
      </RadioGroup>
    </FormDialog>
  );
}
