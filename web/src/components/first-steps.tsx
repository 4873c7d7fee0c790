/** The way from a folder to the first stick, in rooms in which there is nothing yet: what is done, what is next. */
import { Box } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { cratesQuery, EVERY, sticksQuery, windowQuery } from "../api/queries";

interface Step {
  words: string;
  to: string;
  done: boolean;
}

/** Nothing, once a stick was packed. */
export function FirstSteps() {
  const steps = useSteps();
  if (!steps || steps.every(({ done }) => done)) return null;
  const next = steps.findIndex(({ done }) => !done);
  return (
    <Box
      component="ol"
      aria-label="First steps"
      sx={{ listStyle: "none", p: 0, m: "16px 0 0", lineHeight: 1.9 }}
    >
      {steps.map(({ words, to, done }, place) => (
        <Box component="li" key={words} sx={{ fontWeight: place === next ? 650 : 400 }}>
          {done ? (
            <span role="img" aria-label="done">
              {"✓ "}
            </span>
          ) : (
            `${place + 1} `
          )}
          <Box component={Link} to={to} sx={{ color: place === next ? "text.primary" : "inherit" }}>
            {words}
          </Box>
        </Box>
      ))}
    </Box>
  );
}

function useSteps(): Step[] | null {
  const found = { where: EVERY, sort: "added_at" as const, descending: true };
  const library = useQuery(windowQuery(found, 0)).data?.library;
  const crates = useQuery(cratesQuery).data;
  const sticks = useQuery(sticksQuery).data;
  if (library === undefined || !crates || !sticks) return null;
  const filled = crates.some((crate) => crate.tracks > 0 || crate.fills_itself);
  const packed = sticks.some(({ packed_at }) => packed_at !== null);
  return [
    { words: "Bring in a folder of music", to: "/arrivals", done: library > 0 },
    { words: "Put tracks into a crate", to: crates.length ? "/shelf" : "/crates", done: filled },
    { words: "Take a stick, or make a stand-in", to: "/sticks", done: sticks.length > 0 },
    { words: "Pack it, and rehearse in a stand-in player", to: "/sticks", done: packed },
  ];
}
