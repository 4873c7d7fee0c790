/** What stands in the page's place while there is none, and what to do about it. */
import { Button } from "@mui/material";
import { useChange } from "../../api/changes";
import { client, unwrap, type Schema, type Workbench } from "../../api/client";
import { Empty } from "../../components/empty";

/** Analysis waits until it is asked for. */
function NotAsked({ id }: { id: number }) {
  const ask = useChange(() => unwrap(client.POST("/api/analysis/again", { body: analyse(id) })));
  return (
    <Empty title="Not analysed">
      <p>New tracks are not analysed by themselves, as it is chosen in Arrivals. You can listen already.</p>
      <Button disabled={ask.isPending} onClick={() => ask.mutate(undefined)}>
        Analyse it now
      </Button>
    </Empty>
  );
}

const analyse = (id: number): Schema["AnalyseIn"] => ({ ids: [id], only_missing: false, first: true });

export function NoPage({ data, onType }: { data: Workbench; onType: () => void }) {
  const { analysis_state: state, analysis_error: error } = data.track;
  if (state === "failed")
    return (
      <Empty title="This track could not be analysed">
        <p>{error}</p>
      </Empty>
    );
  if (state === "none") return <NotAsked id={data.track.id} />;
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
