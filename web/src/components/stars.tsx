import { Box } from "@mui/material";

interface Props {
  value: number;
  onChange?: (stars: number) => void;
  label: string;
}

/** One to five stars; a click on the present number takes them away. */
export function Stars({ value, onChange, label }: Props) {
  return (
    <Box role="group" aria-label={`${label}: ${value} of 5 stars`} sx={{ display: "inline-flex", fontSize: "0.9rem", lineHeight: 1 }}>
      {[1, 2, 3, 4, 5].map((n) => (
        <Box
          key={n}
          component={onChange ? "button" : "span"}
          type={onChange ? "button" : undefined}
          tabIndex={-1}
          aria-label={onChange ? `${n} stars` : undefined}
          onClick={
            onChange &&
            ((event: React.MouseEvent) => {
              event.stopPropagation();
              onChange(n === value ? 0 : n);
            })
          }
          onDoubleClick={onChange && ((event: React.MouseEvent) => event.stopPropagation())}
          sx={(theme) => ({
            border: 0, p: 0, background: "none", font: "inherit", cursor: onChange ? "pointer" : "inherit",
            color: n <= value ? theme.inks.ink : theme.inks.rule, "&:hover": onChange ? { color: theme.inks.now } : {},
          })}
        >
          ★
        </Box>
      ))}
    </Box>
  );
}
