/** Ways to make a plan fit that does not. */
import { Alert, Box, Button } from "@mui/material";
import type { Stick } from "../../api/client";
import { plural, size } from "../../components/format";
import type { Plan } from "./plan-view";
import type { StickActions } from "./use-stick-actions";

export function NotFitting({ plan, stick, act }: { plan: Plan; stick: Stick; act: StickActions }) {
  const { proposals } = plan;
  const least = proposals?.leave_out ?? [];
  const enough = (proposals?.smaller_saves ?? 0) >= plan.missing_bytes;
  const rest = plan.lists.filter((name) => !proposals?.lists.includes(name));
  return (
    <Alert severity="error" sx={{ "& .MuiAlert-message": { width: "100%" } }}>
      It does not fit: {size(plan.missing_bytes)} too much.
      <Box component="ul" sx={{ pl: 2.2, my: 0.8, "& li": { mb: 0.6 } }}>
        {least.length > 0 && (
          <li title={least.map(({ title, plays }) => `${title}, ${plays}×`).join("\n")}>
            <Button
              onClick={() => act.leaveOut.mutate({ track_ids: least.map(({ id }) => id), left_out: true })}
            >
              Go without {plural(least.length, "track")}
            </Button>{" "}
            that {least.length === 1 ? "was" : "were"} played least:{" "}
            {namesOf(least.map(({ title }) => title))}.
          </li>
        )}
        {!stick.options.smaller && (proposals?.smaller_saves ?? 0) > 0 && (
          <li>
            <Button onClick={() => act.options.mutate({ ...stick.options, smaller: true })}>
              Make lossless files smaller
            </Button>{" "}
            as MP3: saves about {size(proposals?.smaller_saves ?? 0)}
            {enough ? ", which is enough." : ", which is not enough alone."}
          </li>
        )}
        {rest.length > 0 && rest.length < plan.lists.length && (
          <li>
            Take a second stick: {namesOf(proposals?.lists ?? [])} fit here whole, {namesOf(rest)}{" "}
            {rest.length === 1 ? "goes" : "go"} there.
          </li>
        )}
      </Box>
    </Alert>
  );
}

/** The first few names, and how many more. */
const namesOf = (names: readonly string[]): string =>
  names.slice(0, 3).join(", ") + (names.length > 3 ? ` and ${names.length - 3} more` : "");
