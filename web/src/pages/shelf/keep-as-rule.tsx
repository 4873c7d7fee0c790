/** What the Shelf shows, kept as a crate that fills itself. */
import { Button } from "@mui/material";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useMakeRuleCrate } from "../../api/changes";
import type { Condition } from "../../api/client";
import type { Sort } from "../../api/queries";
import { NameDialog } from "../../components/name-dialog";

interface Props {
  where: Condition;
  sorts: readonly Sort[];
}

export function KeepAsRule({ where, sorts }: Props) {
  const [naming, setNaming] = useState(false);
  const navigate = useNavigate();
  const make = useMakeRuleCrate();
  if (where.kind !== "all" || !where.parts.length) return null;
  return (
    <>
      <Button
        size="small"
        title="A crate that always holds what meets these limits"
        onClick={() => setNaming(true)}
        sx={{ flex: "none" }}
      >
        Keep as a crate…
      </Button>
      {naming && (
        <NameDialog
          title="Keep as a crate that fills itself"
          label="Name"
          action="Keep"
          onClose={() => setNaming(false)}
          onDone={(name) =>
            make.mutate(
              { name, rule: { where, order: [...sorts], limit: null } },
              { onSuccess: ({ id }) => void navigate(`/crates/${id}`) },
            )
          }
        />
      )}
    </>
  );
}
