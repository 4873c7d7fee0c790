/** What stands in the page's place while there is none, and what to do about it. */
import { Button } from "@mui/material";
import type { Workbench } from "../../api/client";
import { Empty } from "../../components/empty";

export function NoPage({ data, onType }: { data: Workbench; onType: () => void }) {
  const { analysis_state: state, analysis_error: error } = data.track;
  if (state === "failed")
    return (
      <Empty title="This track could not be analysed">
        <p>{error}</p>
      </Empty>
    );
  if (state !== "done")
    return (
      <Empty title="Waiting for its analysis">
        <p>
          {state === "paused"
            ? "Analysis is paused; go on with it in Arrivals."
            : "The page appears as soon as the beats are found. You can listen already."}
        </p>
      </Empty>
    );
  return (
    <Empty title="No beat was found">
      <p>
        Nothing in this track repeats clearly enough for a beatgrid. If you know its tempo, type it, and move
        bar 1 to where it belongs.
      </p>
      <Button onClick={onType}>Type the tempo</Button>
    </Empty>
  );
}
