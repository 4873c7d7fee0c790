/** How often each key was played, in the order of the circle of fifths; each opens the Shelf with that key. */
import { Box } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useNavigate } from "react-router";

const TONICS = ["C", "G", "D", "A", "E", "B", "F#", "Db", "Ab", "Eb", "Bb", "F"];
const MINORS = ["A", "E", "B", "F#", "Db", "Ab", "Eb", "Bb", "F", "C", "G", "D"];
const ORDER = TONICS.flatMap((tonic, i) => [`${tonic} major`, `${MINORS[i] ?? ""} minor`]);

export function Keys({ counts, what }: { counts: Record<string, number>; what: string }) {
  const { inks } = useTheme();
  const navigate = useNavigate();
  const most = Math.max(1, ...Object.values(counts));
  return (
    <Box
      sx={{ display: "grid", gridTemplateColumns: "repeat(auto-fill, minmax(8.5rem, 1fr))", columnGap: 1 }}
    >
      {ORDER.filter((key) => counts[key]).map((key) => (
        <Box
          component="button"
          type="button"
          key={key}
          title={`${key}: ${counts[key] ?? 0} ${what}. Show all in ${key} on the Shelf`}
          onClick={() => void navigate(`/shelf?key=${encodeURIComponent(key)}`)}
          sx={{
            ...{ display: "grid", gridTemplateColumns: "4.4rem 1fr auto", alignItems: "center", gap: 0.8 },
            ...{ border: 0, background: "none", font: "inherit", color: "inherit", p: 0, py: 0.2 },
            ...{ textAlign: "left", cursor: "pointer", fontSize: "0.8rem" },
          }}
        >
          {key}
          <span
            style={{ height: 8, width: `${(100 * (counts[key] ?? 0)) / most}%`, background: inks.body }}
          />
          {counts[key]}
        </Box>
      ))}
    </Box>
  );
}
