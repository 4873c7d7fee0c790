import { Box } from "@mui/material";
import { useTheme } from "@mui/material/styles";

interface Bar {
  value: string;
  label: string;
  count: number;
}

/** A few bars, each a button that filters. */
export function BarPicture({
  bars,
  chosen,
  onChoose,
  what,
}: {
  bars: Bar[];
  chosen: string | null;
  onChoose: (value: string) => void;
  what: string;
}) {
  const { inks } = useTheme();
  const most = Math.max(1, ...bars.map((bar) => bar.count));
  const lastLabelled = bars.filter((bar) => bar.label);
  return (
    <Box sx={{ height: "100%", display: "flex", flexDirection: "column" }}>
      <Box sx={{ flex: 1, minHeight: 0, display: "flex", alignItems: "stretch", gap: "2px" }}>
        {bars.map((bar) => (
          <Box
            key={bar.value}
            component="button"
            type="button"
            title={`${bar.value} ${what}: ${bar.count}`}
            aria-pressed={bar.value === chosen}
            onClick={() => onChoose(bar.value)}
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
                height: `${Math.max((100 * bar.count) / most, bar.count ? 4 : 1)}%`,
                background: bar.value === chosen ? inks.chosen : bar.count ? inks.body : inks.rule,
              }}
            />
          </Box>
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
        {lastLabelled.map((bar) => (
          <span key={bar.value}>{bar.label}</span>
        ))}
      </Box>
    </Box>
  );
}
