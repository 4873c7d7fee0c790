/** What goes wrong with a stand-in stick, to rehearse it. */
import { Box } from "@mui/material";
import type { Schema, Stick } from "../../api/client";
import { Answers } from "../../components/answers";
import type { StickActions } from "./use-stick-actions";

type Fault = Schema["FaultIn"]["fault"];

const FAULTS: Record<Fault, string> = {
  "": "behaves well",
  slow: "takes 2 MB a second only",
  full: "says in the middle that it is full",
  "torn out": "is torn out in the middle",
  "write error": "fails in the middle",
  "read-only": "lets nothing be written",
  "bit rot": "loses a bit before it comes back",
};

export function FaultLine({ stick, act }: { stick: Stick; act: StickActions }) {
  return (
    <Box sx={{ color: "text.secondary", fontSize: "0.84rem" }}>
      For a rehearsal: this stand-in{" "}
      <Answers
        label="What the stand-in does"
        value={stick.fault}
        answers={Object.entries(FAULTS).map(([value, words]) => ({ value, words }))}
        onPick={(fault) =>
          act.fault.mutate({ fault: fault as Fault, after_mb: fault === "read-only" ? 0 : 2 })
        }
      />
      .
    </Box>
  );
}
