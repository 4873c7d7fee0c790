/** A list of which one is chosen: ↑ and ↓ choose, Enter sends the form it stands in, Tab goes past it. */
import { ListItemText, MenuItem, MenuList } from "@mui/material";

export interface Choice<Id> {
  id: Id;
  primary: string;
  secondary?: string;
  /** How deep it lies in a tree. */
  depth?: number;
}

interface Props<Id> {
  label: string;
  choices: readonly Choice<Id>[];
  chosen: Id | undefined;
  onChoose: (id: Id) => void;
}

export function ChoiceList<Id extends React.Key | null>({ label, choices, chosen, onChoose }: Props<Id>) {
  return (
    <MenuList dense autoFocusItem role="listbox" aria-label={label}>
      {choices.map(({ id, primary, secondary, depth = 0 }) => (
        <MenuItem
          key={id}
          role="option"
          aria-selected={id === chosen}
          selected={id === chosen}
          onFocus={() => onChoose(id)}
          onClick={() => onChoose(id)}
          onKeyDown={sendOnEnter}
          sx={{ pl: 2 + 2 * depth, whiteSpace: "normal" }}
        >
          <ListItemText primary={primary} secondary={secondary} />
        </MenuItem>
      ))}
    </MenuList>
  );
}

function sendOnEnter(event: React.KeyboardEvent<HTMLElement>): void {
  if (event.key !== "Enter") return;
  event.preventDefault();
  event.currentTarget.closest("form")?.requestSubmit();
}
