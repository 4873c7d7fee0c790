/** Sets the in points that were heard, of all tracks that lack one, after a look at them. */
import { Button } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { only } from "../api/client";
import { useSay } from "./messages";
import { TemplateDialog } from "./template-dialog";

/** `find` says which tracks they are, when it is asked. */
export function SetInPoints({ find }: { find: () => Promise<number[]> }) {
  const say = useSay();
  const found = useMutation({ mutationFn: find, onError: (error) => say(error.message, "error") });
  return (
    <>
      <Button disabled={found.isPending} onClick={() => found.mutate()}>
        Set those that were heard…
      </Button>
      {found.data && <TemplateDialog picked={only(...found.data)} sets="in" onClose={found.reset} />}
    </>
  );
}
