/** A part of a sentence that can be changed: its answers open where it stands. */
import { Box } from "@mui/material";

interface Props {
  label: string;
  value: string;
  answers: readonly { value: string; words: string }[];
  title?: string;
  disabled?: boolean;
  onPick: (value: string) => void;
}

export function Answers({ label, value, answers, title, disabled, onPick }: Props) {
  return (
    <Box
      component="select"
      aria-label={label}
      title={title}
      disabled={disabled}
      value={value}
      onChange={(event: React.ChangeEvent<HTMLSelectElement>) => onPick(event.target.value)}
      sx={{
        ...{ font: "inherit", fontWeight: 600, color: "text.primary", bgcolor: "transparent" },
        ...{ border: 0, borderBottom: 1, borderColor: "text.primary", p: 0, maxWidth: "100%" },
        // As wide as what is chosen, where the browser can.
        fieldSizing: "content",
        ...{ appearance: "none", cursor: "pointer", textOverflow: "ellipsis" },
        "& option": { color: "text.primary", bgcolor: "background.default" },
      }}
    >
      {answers.map((answer) => (
        <option key={answer.value} value={answer.value}>
          {answer.words}
        </option>
      ))}
    </Box>
  );
}
