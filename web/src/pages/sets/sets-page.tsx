/** Sets: a night to come, collected in a tray, put into a running order, and checked joint by joint. */
import { Box, Button, CircularProgress } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Empty } from "../../components/empty";
import { KeyHint } from "../../components/key-hint";
import { shown } from "../../components/key-map";
import { KEYS } from "../../components/keys";
import { useKeys } from "../../components/use-keys";
import { useRemembered } from "../../settings";
import { SetDialog } from "./set-dialog";
import { SetView } from "./set-view";
import { setQuery, setsQuery, useSetMaking } from "./use-sets";

export function SetsPage() {
  const lines = useQuery(setsQuery).data;
  const [open, setOpen] = useRemembered<number>("sets.open", 0);
  const [making, setMaking] = useState(false);
  const line = lines?.find(({ id }) => id === open) ?? lines?.[0];
  const id = line?.id ?? 0;
  const found = useQuery({ ...setQuery(id), enabled: id > 0 }).data;
  const { make } = useSetMaking();
  const make_ = () => setMaking(true);
  useKeys(KEYS.sets.make, make_);
  if (!lines || (id > 0 && found?.id !== id)) return <Waiting />;
  return (
    <>
      {found && id > 0 ? (
        <SetView key={id} set={found} lines={lines} onOpen={setOpen} onMake={make_} />
      ) : (
        <NoSets onMake={make_} />
      )}
      {making && (
        <SetDialog
          title="A set for a night to come"
          action="Make it"
          from
          onDone={(body) => make.mutate(body, { onSuccess: (made) => setOpen(made.id) })}
          onClose={() => setMaking(false)}
        />
      )}
    </>
  );
}

function Waiting() {
  return (
    <Box sx={{ m: "auto" }}>
      <CircularProgress aria-label="The set is on its way" />
    </Box>
  );
}

function NoSets({ onMake }: { onMake: () => void }) {
  return (
    <Empty title="No set is planned yet">
      <p>
        A set is a night to come: candidates are collected in its tray, from the Shelf, a crate or the last
        night there, put into a running order, and checked for jumps, clashes and repeats.
      </p>
      <Button variant="contained" onClick={onMake}>
        Make a set… <KeyHint>{shown(KEYS.sets.make)}</KeyHint>
      </Button>
    </Empty>
  );
}
