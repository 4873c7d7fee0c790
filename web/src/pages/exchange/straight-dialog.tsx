/** Straight on: another library carried to a destination, without the own collection. */
import { Alert, Box, LinearProgress } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { plural } from "../../components/format";
import { FormDialog } from "../../components/form-dialog";
import { Answers } from "../../components/answers";
import { LedgerTable } from "./ledger-table";
import type { ReviewOf } from "./review";
import { Problems } from "./theirs";
import {
  ledgerQuery,
  useDestinationActions,
  useDestinations,
  type Destination,
  type Order,
  type Target,
} from "./use-exchange";

interface Props {
  review: ReviewOf;
  /** From which beginnings of paths its music was found here. */
  mappings: Order["mappings"];
  onReport: (jobId: number) => void;
  onClose: () => void;
}

export function StraightDialog({ review, mappings, onReport, onClose }: Props) {
  const found = useDestinations();
  const elsewhere = (found?.destinations ?? []).filter((each) => each.order.place !== review.place);
  const [chosen, setChosen] = useState<number | null>(null);
  const destination = elsewhere.find(({ id }) => id === chosen) ?? elsewhere[0];
  const target = found?.targets.find(({ name }) => name === destination?.target);
  if (!found) return null;
  if (!destination || !target)
    return (
      <FormDialog title="Straight on to…" action="Close" onSubmit={onClose} onClose={onClose}>
        There is no other destination yet: make one under Carry there first.
      </FormDialog>
    );
  return (
    <ToDestination
      {...{ review, mappings, onReport, onClose, destination, target, elsewhere }}
      onChoose={setChosen}
    />
  );
}

interface ToProps extends Props {
  destination: Destination;
  target: Target;
  elsewhere: readonly Destination[];
  onChoose: (id: number) => void;
}

function ToDestination(props: ToProps) {
  const { review, mappings, destination, target, onReport, onClose } = props;
  const { carry } = useDestinationActions();
  const [options, setOptions] = useState(destination.order.options ?? {});
  const source = { target: review.target, place: review.place, mappings: mappings ?? [] };
  const order: Order = { ...destination.order, options, source, lists: null, destination_id: null };
  const ledger = useQuery(ledgerQuery(order));
  const done = (job: { id: number }) => {
    onReport(job.id);
    onClose();
  };
  return (
    <FormDialog
      title="Straight on, without your collection"
      action={ledger.data ? `Write and check ${plural(ledger.data.tracks, "track")}` : "Write and check"}
      width="md"
      disabled={!ledger.data || ledger.isFetching || carry.isPending}
      onSubmit={() => carry.mutate(order, { onSuccess: done })}
      onClose={onClose}
    >
      <Box sx={{ mb: 1 }}>
        From {review.place.split("/").pop()} to{" "}
        <Answers
          label="To which destination"
          value={String(destination.id)}
          answers={props.elsewhere.map(({ id, name }) => ({ value: String(id), words: name }))}
          onPick={(id) => props.onChoose(Number(id))}
        />
        . Rules go as the tracks that are in them.
      </Box>
      {ledger.isFetching && <LinearProgress color="info" aria-label="Counting" />}
      {ledger.error && <Alert severity="error">{ledger.error.message}</Alert>}
      {ledger.data && !ledger.error && (
        <>
          <Problems problems={ledger.data.problems} />
          <LedgerTable
            ledger={ledger.data}
            target={target}
            order={order}
            onOption={(name, value) => setOptions({ ...options, [name]: value })}
          />
        </>
      )}
    </FormDialog>
  );
}
