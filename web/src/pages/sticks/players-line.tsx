/** For which players a stick is packed, as a sentence whose parts can be changed. */
import { Box, Button, IconButton } from "@mui/material";
import { queryOptions, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schema, type Stick } from "../../api/client";
import { Answers } from "../../components/answers";
import { SettingsDialog } from "./settings-dialog";
import { settingsQuery } from "./settings-query";
import { venuesQuery } from "../../api/queries";
import type { StickActions } from "./use-stick-actions";

type Player = Schema["PlayerIn"];

export const profilesQuery = queryOptions({
  queryKey: ["sticks", "profiles"],
  queryFn: () => unwrap(client.GET("/api/sticks/profiles")),
  staleTime: Infinity,
});

export function PlayersLine({ stick, busy, act }: { stick: Stick; busy: boolean; act: StickActions }) {
  const profiles = useQuery(profilesQuery).data ?? [];
  const others = profiles.filter(({ name }) => !stick.players.some(({ profile }) => profile === name));
  const put = (players: Player[]) => act.players.mutate(players);
  const [changing, setChanging] = useState(false);
  return (
    <Box sx={{ lineHeight: 1.9 }}>
      {stick.players.map((player, at) => (
        <PlayerPart
          key={player.profile}
          player={player}
          first={at === 0}
          alone={stick.players.length === 1}
          profile={profiles.find(({ name }) => name === player.profile)}
          others={others}
          disabled={busy}
          onChange={(changed) => put(stick.players.map((each, i) => (i === at ? changed : each)))}
          onDrop={() => put(stick.players.filter((_, i) => i !== at))}
        />
      ))}
      <HowTheyGo stick={stick} busy={busy} act={act} />
      <Box sx={{ display: "flex", gap: 1, mt: 0.6 }}>
        {others[0] && (
          <Button
            disabled={busy}
            onClick={() => put([...stick.players, { profile: others[0]?.name ?? "", form: "" }])}
          >
            For another player too
          </Button>
        )}
        <Button onClick={() => setChanging(true)}>Players’ settings…</Button>
        <AtVenue profiles={profiles} disabled={busy} onPick={put} />
      </Box>
      {changing && <SettingsDialog onClose={() => setChanging(false)} />}
    </Box>
  );
}

const LEVELS = [
  { value: "", words: "as it is" },
  { value: "-9", words: "brought to −9 LUFS" },
  { value: "-11", words: "brought to −11 LUFS" },
  { value: "-14", words: "brought to −14 LUFS" },
  { value: "tags", words: "told in the files’ tags" },
];
const ROUTES = [
  { value: "known", words: "go along where a player knows them" },
  { value: "files", words: "go as tracks of their own" },
  { value: "both", words: "go along, and as tracks of their own" },
  { value: "", words: "stay here" },
];

function HowTheyGo({ stick, busy, act }: { stick: Stick; busy: boolean; act: StickActions }) {
  const { options } = stick;
  const ways = options.route_files ? (options.routes ? "both" : "files") : options.routes ? "known" : "";
  const level = (value: string) => ({
    loudness_tags: value === "tags",
    level_lufs: value && value !== "tags" ? Number(value) : null,
  });
  return (
    <Box>
      Lossless files go{" "}
      <Answers
        label="How lossless files go"
        value={options.smaller ? "smaller" : ""}
        disabled={busy}
        answers={[
          { value: "", words: "as they are" },
          { value: "smaller", words: "smaller, as MP3" },
        ]}
        onPick={(value) => act.options.mutate({ ...options, smaller: value !== "" })}
      />
      ; loudness{" "}
      <Answers
        label="How loud copies are"
        title="Copies that are raised or lowered are made anew, as far as their peaks allow it. Tags tell players how far a track is from −18 LUFS."
        value={options.loudness_tags ? "tags" : String(options.level_lufs ?? "")}
        disabled={busy}
        answers={LEVELS}
        onPick={(value) => act.options.mutate({ ...options, ...level(value) })}
      />
      ; routes{" "}
      <Answers
        label="Whether routes go"
        value={ways}
        disabled={busy}
        answers={ROUTES}
        onPick={(value) =>
          act.options.mutate({
            ...options,
            routes: value === "known" || value === "both",
            route_files: value === "files" || value === "both",
          })
        }
      />
      .
    </Box>
  );
}

interface VenueProps {
  profiles: readonly Schema["ProfileOut"][];
  disabled: boolean;
  onPick: (players: Player[]) => void;
}

/** The players that stand at a venue, as its page in the Logbook says, with the settings that bear its name. */
function AtVenue({ profiles, disabled, onPick }: VenueProps) {
  const venues = useQuery(venuesQuery).data ?? [];
  const sets = useQuery(settingsQuery).data ?? [];
  const standing = (said: string) => profiles.filter(({ name }) => said.includes(name));
  const known = venues.filter(({ players }) => standing(players).length);
  const pick = (id: string) => {
    const venue = known.find((each) => String(each.id) === id);
    const settings_id = sets.find(({ name }) => name === venue?.name)?.id ?? null;
    if (venue) onPick(standing(venue.players).map(({ name }) => ({ profile: name, form: "", settings_id })));
  };
  if (!known.length) return null;
  return (
    <Box sx={{ alignSelf: "center" }}>
      or{" "}
      <Answers
        label="As at a venue"
        title="Which players stand there is said on its page in the Logbook"
        value=""
        disabled={disabled}
        answers={[
          { value: "", words: "as at a venue…" },
          ...known.map(({ id, name, players }) => ({ value: String(id), words: `${name}: ${players}` })),
        ]}
        onPick={pick}
      />
    </Box>
  );
}

interface PartProps {
  player: Stick["players"][number];
  first: boolean;
  alone: boolean;
  profile: Schema["ProfileOut"] | undefined;
  others: readonly Schema["ProfileOut"][];
  disabled: boolean;
  onChange: (player: Player) => void;
  onDrop: () => void;
}

function PlayerPart({ player, first, alone, profile, others, disabled, onChange, onDrop }: PartProps) {
  const sets = useQuery(settingsQuery).data ?? [];
  const names = [player.profile, ...others.map(({ name }) => name)];
  return (
    <Box title={profile?.description}>
      {first ? "For " : "and for "}
      <Answers
        label="Which player"
        title={profile?.description}
        value={player.profile}
        disabled={disabled}
        answers={names.map((name) => ({ value: name, words: name }))}
        onPick={(name) => onChange({ profile: name, form: "" })}
      />
      ; what it cannot play becomes{" "}
      <Answers
        label={`What files become for ${player.profile}`}
        value={player.form}
        disabled={disabled}
        answers={(profile?.converts_to ?? [player.form]).map((form) => ({
          value: form,
          words: form.toUpperCase(),
        }))}
        onPick={(form) => onChange({ ...player, form })}
      />
      {profile?.settings.length ? (
        <>
          ; its settings are{" "}
          <Answers
            label={`Settings for ${player.profile}`}
            value={String(player.settings_id ?? "")}
            disabled={disabled}
            answers={[
              { value: "", words: "the usual ones" },
              ...sets.map((set) => ({ value: String(set.id), words: `“${set.name}”` })),
            ]}
            onPick={(id) => onChange({ ...player, settings_id: id ? Number(id) : null })}
          />
        </>
      ) : null}
      .
      {!alone && (
        <IconButton
          size="small"
          disabled={disabled}
          title={`Not for ${player.profile}`}
          aria-label={`Not for ${player.profile}`}
          onClick={onDrop}
        >
          ×
        </IconButton>
      )}
    </Box>
  );
}
