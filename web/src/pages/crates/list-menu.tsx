/** All else that can be done with an open list: copied, combined, put in order, divided, given a look. */
import { Button, Divider, Menu, MenuItem } from "@mui/material";
import { useState } from "react";
import type { Crate } from "../../api/client";
import type { Sort } from "../../api/queries";
import { KeyHint } from "../../components/key-hint";
import { shown } from "../../components/key-map";
import { KEYS } from "../../components/keys";
import { CombineDialog } from "./combine-dialog";
import { CopyDialog } from "./copy-dialog";
import { DivideDialog } from "./divide-dialog";
import { useListChanges } from "./list-changes";
import { useCrateActions } from "./use-crate-actions";
import { LooksDialog } from "./looks-dialog";

interface Props {
  crate: Crate;
  sorts: readonly Sort[];
  /** Back to the list's own order, once it is what is shown. */
  onOwnOrder?: () => void;
  /** Sets a divider before the chosen track. */
  onDivider?: (() => void) | undefined;
}

type Asking = "copy" | "combine" | "divide" | "looks" | null;

export function ListMenu({ crate, sorts, onOwnOrder, onDivider }: Props) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [asking, setAsking] = useState<Asking>(null);
  const changes = useListChanges(crate);
  const { repeat } = useCrateActions(crate);
  const byHand = !crate.fills_itself && !crate.is_folder;
  const pick = (act: () => void) => () => {
    setAnchor(null);
    act();
  };
  const arrange = (how: "shuffle" | "reverse") => pick(() => changes.arrange.mutate({ how, sorts: [] }));
  const keepOrder = pick(() =>
    changes.arrange.mutate({ how: "as sorted", sorts: [...sorts] }, { onSuccess: () => onOwnOrder?.() }),
  );
  return (
    <>
      <Button onClick={(event) => setAnchor(event.currentTarget)}>
        {crate.is_folder ? "This folder…" : "This crate…"}
      </Button>
      <Menu
        anchorEl={anchor}
        open={anchor !== null}
        onClose={() => setAnchor(null)}
        slotProps={{ list: { dense: true } }}
      >
        <MenuItem onClick={pick(() => setAsking("looks"))}>Sign, colour and note…</MenuItem>
        <MenuItem onClick={pick(() => setAsking("copy"))}>Make a copy…</MenuItem>
        <MenuItem onClick={pick(() => setAsking("divide"))}>Divide by…</MenuItem>
        {byHand && crate.divided_by && (
          <MenuItem onClick={pick(() => changes.keepDividers.mutate())}>
            Keep these dividers as my own
          </MenuItem>
        )}
        {byHand && !crate.divided_by && onDivider && (
          <MenuItem onClick={pick(onDivider)}>
            Set a divider… <KeyHint>{shown(KEYS.lists.divider)}</KeyHint>
          </MenuItem>
        )}
        {byHand && (
          <MenuItem onClick={pick(() => repeat.mutate(!crate.repeats))}>
            {crate.repeats ? "Each track once only" : "Let a track stand here more than once"}
          </MenuItem>
        )}
        {byHand && <Divider />}
        {byHand && <MenuItem onClick={pick(() => setAsking("combine"))}>With another crate…</MenuItem>}
        {byHand && <MenuItem onClick={arrange("shuffle")}>Shuffle</MenuItem>}
        {byHand && <MenuItem onClick={arrange("reverse")}>Turn round</MenuItem>}
        {byHand && (
          <MenuItem disabled={!sorts.length} onClick={keepOrder}>
            Keep it as it is sorted now
          </MenuItem>
        )}
      </Menu>
      <Asked crate={crate} asking={asking} onClose={() => setAsking(null)} />
    </>
  );
}

interface AskedProps {
  crate: Crate;
  asking: Asking;
  onClose: () => void;
}

function Asked({ crate, asking, onClose }: AskedProps) {
  if (asking === "combine") return <CombineDialog crate={crate} onClose={onClose} />;
  if (asking === "divide") return <DivideDialog crate={crate} onClose={onClose} />;
  if (asking === "looks") return <LooksDialog crate={crate} onClose={onClose} />;
  return asking === "copy" && <CopyDialog crate={crate} onClose={onClose} />;
}
