import { Alert, Box, Button, Checkbox, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { client, unwrap, type Schema, type Stick } from "../../api/client";
import { counted, cratesQuery, planQuery, useChange, workQuery } from "../../api/queries";
import { size } from "../../components/format";
import { PackLine } from "../../components/work-tray";
import { FIGURES } from "../../theme";
import { Capacity } from "./capacity";

type Plan = Schema["PlanOut"];

/** One stick: which crates it shall carry, the plan, and packing. */
export function StickView({ stick }: { stick: Stick }) {
  const packing = useQuery(workQuery).data?.packing.find((each) => each.stick_id === stick.id);
  const busy = packing !== undefined || stick.last_run?.state === "running";
  const plan = useQuery({ ...planQuery(stick), enabled: stick.is_in && !busy });
  const act = useStickActions(stick);
  return (
    <Box
      sx={{ minHeight: 0, overflow: "auto", px: 3, py: 2, display: "flex", flexDirection: "column", gap: 2 }}
    >
      <Box sx={{ display: "flex", alignItems: "flex-start", gap: 1 }}>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h1">{stick.name}</Typography>
          <Box sx={{ color: "text.secondary", fontSize: "0.84rem" }}>
            for {stick.profile.name}. {stick.profile.description}
          </Box>
        </Box>
        {stick.is_in ? (
          <>
            <Button disabled={busy} onClick={() => act.eject.mutate(undefined)}>
              Eject
            </Button>
            <Button
              onClick={() => act.pull.mutate(undefined)}
              title="The stand-in for pulling it out without ejecting, even while it is written"
            >
              Pull out
            </Button>
          </>
        ) : (
          <Button variant="contained" onClick={() => act.insert.mutate(undefined)}>
            Put it into the computer
          </Button>
        )}
      </Box>
      {stick.is_in ? (
        <Box
          sx={{
            display: "grid",
            gridTemplateColumns: "minmax(220px, 300px) minmax(0, 1fr)",
            gap: 4,
            alignItems: "start",
          }}
        >
          <CrateChoice stick={stick} disabled={busy} onChoose={(ids) => act.choose.mutate(ids)} />
          <Box sx={{ minWidth: 0, display: "flex", flexDirection: "column", gap: 1.6 }}>
            {packing ? <PackLine pack={packing} /> : <LastRun stick={stick} />}
            {plan.error && <Alert severity="error">{plan.error.message}</Alert>}
            {plan.data && !busy && (
              <PlanView plan={plan.data} stick={stick} onPack={() => act.pack.mutate(undefined)} />
            )}
          </Box>
        </Box>
      ) : (
        <>
          <LastRun stick={stick} />
          <Box sx={{ maxWidth: 520, color: "text.secondary" }}>
            It is out of the computer. You can take it to the gig:{" "}
            <Box component="a" href="/player/" target="_blank" rel="noreferrer" sx={{ color: "info.main" }}>
              open the stand-in player
            </Box>{" "}
            to hear it.
          </Box>
        </>
      )}
    </Box>
  );
}

function useStickActions(stick: Stick) {
  const params = { path: { stick_id: stick.id } };
  const touches = ["sticks", "work"];
  return {
    choose: useChange(
      (ids: number[]) =>
        unwrap(client.PUT("/api/sticks/{stick_id}/crates", { params, body: { crate_ids: ids } })),
      touches,
    ),
    pack: useChange(() => unwrap(client.POST("/api/sticks/{stick_id}/pack", { params })), touches),
    eject: useChange(
      () => unwrap(client.POST("/api/sticks/{stick_id}/eject", { params })),
      touches,
      () => `“${stick.name}” can be taken out now.`,
    ),
    pull: useChange(() => unwrap(client.POST("/api/sticks/{stick_id}/pull", { params })), touches),
    insert: useChange(() => unwrap(client.POST("/api/sticks/{stick_id}/insert", { params })), touches),
  };
}

function CrateChoice({
  stick,
  disabled,
  onChoose,
}: {
  stick: Stick;
  disabled: boolean;
  onChoose: (ids: number[]) => void;
}) {
  const crates = useQuery(cratesQuery).data ?? [];
  const chosen = new Set(stick.crate_ids);
  const toggle = (id: number) =>
    onChoose(
      crates
        .filter((crate) => (crate.id === id ? !chosen.has(id) : chosen.has(crate.id)))
        .map((crate) => crate.id),
    );
  return (
    <Box>
      <Typography variant="h2" sx={{ mb: 0.6 }}>
        Crates to carry
      </Typography>
      {crates.map((crate) => (
        <Box
          key={crate.id}
          component="label"
          sx={{
            display: "flex",
            alignItems: "center",
            gap: 0.5,
            borderTop: 1,
            borderColor: "divider",
            py: 0.4,
            cursor: "pointer",
          }}
        >
          <Checkbox
            size="small"
            color="secondary"
            checked={chosen.has(crate.id)}
            disabled={disabled}
            onChange={() => toggle(crate.id)}
          />
          <Box sx={{ flex: 1, fontWeight: 500 }}>{crate.name}</Box>
          <Box sx={{ fontFamily: FIGURES, fontSize: "0.78rem", color: "text.secondary" }}>{crate.tracks}</Box>
        </Box>
      ))}
      {!crates.length && (
        <Box sx={{ color: "text.secondary" }}>There is no crate yet. Make one in Crates.</Box>
      )}
    </Box>
  );
}

function LastRun({ stick }: { stick: Stick }) {
  const run = stick.last_run;
  if (!run || run.state === "running") return null;
  if (run.state === "done")
    return (
      <Alert severity="success" variant="outlined">
        Packed and verified: {counted(run.tracks ?? 0, "track")} on the stick, {run.written} written
        {run.removed ? `, ${run.removed} removed` : ""}.
      </Alert>
    );
  return (
    <Alert severity={run.state === "failed" ? "error" : "info"} variant="outlined">
      {run.error}
    </Alert>
  );
}

function PlanView({ plan, stick, onPack }: { plan: Plan; stick: Stick; onPack: () => void }) {
  const count = (action: string) => plan.tracks.filter((track) => track.action === action).length;
  const writing = count("copy") + count("convert");
  const changes = writing + count("update") + plan.removed.length;
  const carried = stick.crate_ids.length > 0;
  return (
    <>
      <Typography variant="h2">The plan</Typography>
      <Box sx={{ display: "flex", gap: 3, flexWrap: "wrap" }}>
        <Sum value={String(writing)} text={`to write, about ${size(plan.write_bytes)}`} />
        <Sum value={String(count("convert"))} text="of them to convert" />
        <Sum
          value={String(count("keep") + count("update"))}
          text={`there already${count("update") ? `, ${count("update")} with new grid or cues` : ""}`}
        />
        <Sum
          value={String(plan.removed.length)}
          text={plan.removed_bytes ? `to remove, ${size(plan.removed_bytes)}` : "to remove"}
        />
      </Box>
      <Box>
        <Capacity
          used={plan.capacity_bytes - plan.free_bytes - plan.removed_bytes}
          added={plan.write_bytes}
          capacity={plan.capacity_bytes}
        />
        <Box sx={{ fontSize: "0.8rem", color: "text.secondary", mt: 0.4 }}>
          {size(plan.free_bytes)} free of {size(plan.capacity_bytes)} now
        </Box>
      </Box>
      {plan.missing_bytes > 0 && (
        <Alert severity="error">
          It does not fit: {size(plan.missing_bytes)} too much. Leave a crate out, or use a larger stick.
        </Alert>
      )}
      {plan.left_out.map((text) => (
        <Alert key={text} severity="warning" variant="outlined">
          {text}
        </Alert>
      ))}
      <Box>
        <Button
          variant="contained"
          color="error"
          size="medium"
          disabled={plan.missing_bytes > 0 || (!carried && !changes)}
          onClick={onPack}
        >
          {changes || !stick.last_run ? "Pack the stick" : "Pack again"}
        </Button>
        {!carried && (
          <Box component="span" sx={{ ml: 1.5, color: "text.secondary" }}>
            Choose a crate first.
          </Box>
        )}
      </Box>
      <Box sx={{ borderTop: 1, borderColor: "divider" }} role="list" aria-label="Files in the plan">
        {plan.removed.map((file) => (
          <PlanRow key={file} action="remove" file={file} bytes={null} />
        ))}
        {plan.tracks.slice(0, 300).map((track) => (
          <PlanRow key={track.file} action={track.action} file={track.file} bytes={track.size_bytes} />
        ))}
        {plan.tracks.length > 300 && (
          <Box sx={{ py: 1, color: "text.secondary" }}>and {plan.tracks.length - 300} more</Box>
        )}
      </Box>
    </>
  );
}

function Sum({ value, text }: { value: string; text: string }) {
  return (
    <Box sx={{ minWidth: 90 }}>
      <Box sx={{ fontFamily: FIGURES, fontSize: "1.5rem", lineHeight: 1.2 }}>{value}</Box>
      <Box sx={{ fontSize: "0.8rem", color: "text.secondary" }}>{text}</Box>
    </Box>
  );
}

const SIGNS: Record<string, string> = {
  copy: "+ write",
  convert: "+ convert",
  keep: "= keep",
  update: "≈ update",
  remove: "− remove",
};

function PlanRow({ action, file, bytes }: { action: string; file: string; bytes: number | null }) {
  return (
    <Box
      role="listitem"
      sx={{
        display: "grid",
        gridTemplateColumns: "96px minmax(0, 1fr) 80px",
        gap: 1.5,
        py: 0.5,
        borderBottom: 1,
        borderColor: "divider",
        fontSize: "0.85rem",
      }}
    >
      <Box
        sx={(theme) => ({
          fontWeight: 600,
          color:
            action === "keep" ? theme.inks.faint : action === "remove" ? theme.inks.now : theme.inks.sure,
        })}
      >
        {SIGNS[action]}
      </Box>
      <Box sx={{ overflowWrap: "anywhere" }}>{file}</Box>
      <Box sx={{ fontFamily: FIGURES, fontSize: "0.78rem", textAlign: "right" }}>
        {bytes === null ? "" : `${action === "convert" ? "~" : ""}${size(bytes)}`}
      </Box>
    </Box>
  );
}
