/** Choosing one of many by typing a part of its name; a name that is not there yet can make a new one. */
import { Box, Button, List, ListItemButton, ListItemText, TextField } from "@mui/material";
import { useState } from "react";
import { FormDialog } from "./form-dialog";
import { intoSight, useSteps } from "./use-steps";

interface Item {
  id: number;
  name: string;
}

interface Props<T extends Item> {
  title: string;
  action: string;
  label: string;
  items: readonly T[];
  /** What is said of each below its name. */
  saidOf: (item: T) => string;
  /** What is said where there is none yet. */
  none: string;
  onChoose: (item: T) => void;
  onMake: (name: string) => void;
  onClose: () => void;
}

export function ChooseDialog<T extends Item>(props: Props<T>) {
  const { title, action, label, items, onChoose, onMake, onClose } = props;
  const [text, setText] = useState("");
  const name = text.trim();
  const wanted = name.toLowerCase();
  const found = items.filter((item) => item.name.toLowerCase().includes(wanted));
  const steps = useSteps(found.length);
  const exact = items.some((item) => item.name.toLowerCase() === wanted);
  const submit = () => {
    const chosen = found[steps.at];
    if (chosen) onChoose(chosen);
    else if (name) onMake(name);
  };
  return (
    <FormDialog
      title={title}
      action={action}
      disabled={!found.length && !name}
      others={name && !exact && <Button onClick={() => onMake(name)}>Make “{name}”</Button>}
      onSubmit={submit}
      onClose={onClose}
    >
      <TextField
        autoFocus
        fullWidth
        size="small"
        margin="dense"
        label={label}
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          steps.toFirst();
        }}
        onKeyDown={steps.onKeyDown}
      />
      <Items {...props} found={found} at={steps.at} empty={!found.length && !name} />
    </FormDialog>
  );
}

interface ItemsProps<T extends Item> extends Props<T> {
  found: readonly T[];
  at: number;
  empty: boolean;
}

function Items<T extends Item>({ found, at, empty, saidOf, none, onChoose }: ItemsProps<T>) {
  return (
    <List dense sx={{ maxHeight: 260, overflow: "auto" }}>
      {found.map((item, place) => (
        <ListItemButton
          key={item.id}
          selected={place === at}
          ref={place === at ? intoSight : undefined}
          onClick={() => onChoose(item)}
        >
          <ListItemText primary={item.name} secondary={saidOf(item)} />
        </ListItemButton>
      ))}
      {empty && <Box sx={{ color: "text.secondary", py: 1 }}>{none}</Box>}
    </List>
  );
}
