/** Words with how many tracks have each, as buttons that filter. */
import { Box } from "@mui/material";

interface Word {
  value: string;
  name: string;
  count: number;
  on: boolean;
}

export function WordPicture({ words, onChoose }: { words: Word[]; onChoose: (value: string) => void }) {
  return (
    <Box
      sx={{
        ...{ display: "flex", flexWrap: "wrap", alignContent: "flex-start", gap: 0.5 },
        ...{ height: "100%", overflow: "auto", pt: 0.3 },
      }}
    >
      {words.map(({ value, name, count, on }) => (
        <Box
          key={value}
          component="button"
          type="button"
          aria-pressed={on}
          onClick={() => onChoose(value)}
          sx={(theme) => ({
            font: "inherit",
            fontSize: "0.78rem",
            px: 0.7,
            py: 0.1,
            borderRadius: "3px",
            cursor: "pointer",
            border: `1px solid ${on ? theme.inks.chosen : theme.inks.rule}`,
            bgcolor: on ? theme.inks.chosen : "background.paper",
            color: on ? theme.inks.onStrong : theme.inks.ink,
          })}
        >
          {name} <span>{count.toLocaleString("en")}</span>
        </Box>
      ))}
    </Box>
  );
}
