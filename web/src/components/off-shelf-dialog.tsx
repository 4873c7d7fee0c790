/** Taking tracks off the Shelf: what will happen where is said before it does. */
import { useState } from "react";
import { counted, useTakeOffShelf } from "../api/changes";
import type { Picked } from "../api/client";
import { FormDialog } from "./form-dialog";
import { WhatGoes } from "./what-goes";

export function OffShelfDialog({ picked, onClose }: { picked: Picked; onClose: () => void }) {
  const [aside, setAside] = useState(false);
  const take = useTakeOffShelf();
  return (
    <FormDialog
      title={`Take ${counted(picked.count, "track")} off the Shelf?`}
      action={aside ? "Take off, put aside" : "Take off the Shelf"}
      disabled={take.isPending}
      width="sm"
      onSubmit={() => take.mutate({ ...picked.chosen, aside }, { onSuccess: onClose })}
      onClose={onClose}
    >
      <WhatGoes picked={picked} aside={aside} onAside={setAside} />
    </FormDialog>
  );
}
