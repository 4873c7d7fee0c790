/** A few bars, each a button that filters. */
import { Box } from "@mui/material";
import { useTheme } from "@mui/material/styles";

interface Bar {
  value: string;
  label: string;
  count: number;
}

interface Props {
  bars: Bar[];
  chosen: string | null;
  onChoose: (value: string) => void;
  what: string;
}

export function BarPicture({ bars, chosen, onChoose, what }: Props) {
  const most = Math.max(1, ...bars.map((bar) => bar.count));
  const labelled = bars.filter((bar) => bar.label);
  return (
    <Box sx={{ height: "100%", display: "flex", flexDirection: "column" }}>
      <Box sx={{ flex: 1, minHeight: 0, display: "flex", alignItems: "stretch", gap: "2px" }}>
        {bars.map((bar) => (
          <BarButton
            key={bar.value}
            title={`${bar.value} ${what}: ${bar.count}`}
            share={bar.count / most}
            on={bar.value === chosen}
            onClick={() => onChoose(bar.value)}
          />
        ))}
      </Box>
      <Box
        sx={{
          display: "flex",
          justifyContent: "space-between",
          fontSize: "0.62rem",
          color: "text.secondary",
          height: 16,
          overflow: "hidden",
        }}
      >
        {labelled.map((bar) => (
          <span key={bar.value}>{bar.label}</span>
        ))}
      </Box>
    </Box>
  );
}

interface ButtonProps {
  title: string;
  /** How tall, from 0 to 1. */
  share: number;
  on: boolean;
  onClick: () => void;
}

function BarButton({ title, share, on, onClick }: ButtonProps) {
  const { inks } = useTheme();
  return (
    <Box
      component="button"
      type="button"
      title={title}
      aria-label={title}
      aria-pressed={on}
      onClick={onClick}
      sx={{
        flex: 1,
        border: 0,
        p: 0,
        background: "none",
        cursor: "pointer",
        display: "flex",
        alignItems: "flex-end",
        "&:hover div": { opacity: 0.7 },
      }}
    >
      <div
        style={{
          width: "100%",
          height: `${Math.max(100 * share, share ? 4 : 1)}%`,
          background: on ? inks.chosen : share ? inks.body : inks.rule,
        }}
      />
    </Box>
  );
}
