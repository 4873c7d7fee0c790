/** Twins: files with one recording, and versions of one work, found and put in order. */
import { Box, Button, CircularProgress } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { isOpen } from "../../api/jobs";
import { jobsQuery } from "../../api/queries";
import { Empty } from "../../components/empty";
import { progressOf } from "../../components/job-line";
import { KEYS } from "../../components/keys";
import { useKeys } from "../../components/use-keys";
import { useRemembered } from "../../settings";
import { GroupList, isOf, type Which } from "./group-list";
import { GroupView } from "./group-view";
import { OrderDialog } from "./order-dialog";
import { SureDialog } from "./sure-dialog";
import { twinsQuery, useTwinChanges } from "./use-twins";

export function TwinsPage() {
  const found = useQuery(twinsQuery).data;
  const [which, setWhich] = useRemembered<Which>("twins.which", "all");
  const [chosen, setChosen] = useState(0);
  const [dialog, setDialog] = useState<"sure" | "order" | null>(null);
  const all = found?.groups ?? [];
  const lines = all.filter((line) => isOf(line, which));
  const place = Math.min(chosen, Math.max(0, lines.length - 1));
  const line = lines[place];
  useKeys(KEYS.lists.move, () => setChosen(Math.max(0, place - 1)));
  useKeys(KEYS.lists.down, () => setChosen(Math.min(lines.length - 1, place + 1)));
  useKeys(KEYS.twins.order, () => setDialog("order"));
  useKeys(
    KEYS.twins.sure,
    () => all.some(({ kind, later }) => kind === "sure" && !later) && setDialog("sure"),
  );
  if (!found)
    return (
      <Box sx={{ m: "auto" }}>
        <CircularProgress aria-label="The groups are on their way" />
      </Box>
    );
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "262px minmax(0, 1fr)" }}>
      <GroupList
        all={all}
        lines={lines}
        chosen={place}
        which={which}
        onWhich={(wanted) => {
          setWhich(wanted);
          setChosen(0);
        }}
        onChoose={setChosen}
        onSure={() => setDialog("sure")}
        onOrder={() => setDialog("order")}
      />
      <Box sx={{ minWidth: 0, minHeight: 0, display: "flex", flexDirection: "column" }}>
        <Searching unseen={found.unseen} />
        {line && <GroupView line={line} onDone={() => setChosen(place)} />}
        {!line && <NoGroups some={all.length > 0} unseen={found.unseen} />}
      </Box>
      {dialog === "sure" && <SureDialog onClose={() => setDialog(null)} />}
      {dialog === "order" && <OrderDialog onClose={() => setDialog(null)} />}
    </Box>
  );
}

/** What is still looked for, while it is. */
function Searching({ unseen }: { unseen: number }) {
  const job = (useQuery(jobsQuery).data ?? []).find((each) => each.kind === "twins" && isOpen(each));
  if (!job && !unseen) return null;
  return (
    <Box role="status" sx={{ px: 2.6, py: 0.6, fontSize: "0.84rem", bgcolor: "background.default" }}>
      {job
        ? `Looking for twins: ${progressOf(job)}. What was found already stands here.`
        : `${unseen.toLocaleString("en")} tracks are looked at once they are analysed.`}
    </Box>
  );
}

function NoGroups({ some, unseen }: { some: boolean; unseen: number }) {
  const { search } = useTwinChanges();
  return (
    <Empty title={some ? "No group of this kind" : unseen ? "Nothing found yet" : "No file is here twice"}>
      <p>
        {some
          ? "Choose another kind at the left."
          : "Twins are found by their sound, their file names, and by artist and title, as tracks are analysed. What you settled is off the Shelf, in Arrivals."}
      </p>
      <Button onClick={() => search.mutate()}>Look at all tracks once more</Button>
    </Empty>
  );
}
