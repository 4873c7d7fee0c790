/** Making a crate by hand, one that fills itself, or a folder. */
import { useMakeCrate, useMakeRuleCrate } from "../../api/changes";
import type { Schema } from "../../api/client";
import { NameDialog } from "../../components/name-dialog";

/** What is to be made, and in which folder. */
export interface Making {
  kind: "hand" | "rule" | "folder";
  folder_id: number | null;
}

interface Props {
  /** Null for nothing. It stays there nevertheless: what was asked for is shown once it is made. */
  making: Making | null;
  onMade: (crate: { id: number }) => void;
  onClose: () => void;
}

const TITLES: Record<Making["kind"], string> = {
  hand: "Make a crate",
  rule: "Make a crate that fills itself",
  folder: "Make a folder",
};

export function MakeCrate({ making, onMade, onClose }: Props) {
  const make = useMakeCrate();
  const makeRule = useMakeRuleCrate();
  if (!making) return null;
  const { kind, folder_id } = making;
  const done = (name: string) => {
    if (kind === "rule") makeRule.mutate({ name, folder_id, rule: ALL_NEWEST }, { onSuccess: onMade });
    else if (kind === "hand") make.mutate({ name, folder_id }, { onSuccess: onMade });
    else make.mutate({ name, folder_id, is_folder: true });
  };
  return <NameDialog title={TITLES[kind]} label="Name" action="Make" onClose={onClose} onDone={done} />;
}

const ALL_NEWEST: Schema["RuleBody"] = {
  where: { kind: "all", parts: [] },
  order: [{ sort: "added_at", descending: true }],
  limit: null,
};
