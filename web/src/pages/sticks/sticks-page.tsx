/** Sticks: packing for standalone players. */
import { Box, Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Stick } from "../../api/client";
import { sticksQuery } from "../../api/queries";
import { CardColumn, ColumnCard } from "../../components/card-column";
import { Empty } from "../../components/empty";
import { FirstSteps } from "../../components/first-steps";
import { ago, plural, size } from "../../components/format";
import { useItemMenu, type ItemMenu } from "../../components/item-menu";
import { Capacity } from "./capacity";
import { MakeStick } from "./make-stick";
import { StickView } from "./stick-view";
import { useStickActions } from "./use-stick-actions";

/** Packing for standalone players. */
export function SticksPage() {
  const sticks = useQuery(sticksQuery).data;
  const [chosen, setChosen] = useState<number | null>(null);
  const [making, setMaking] = useState(false);
  const stick = sticks?.find((each) => each.id === chosen) ?? sticks?.[0];
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "270px minmax(0, 1fr)" }}>
      <CardColumn
        label="Sticks"
        heading="Sticks"
        action={<Button onClick={() => setMaking(true)}>A stick…</Button>}
      >
        {sticks?.map((each) => (
          <StickCard
            key={each.id}
            stick={each}
            open={each.id === stick?.id}
            onShow={() => setChosen(each.id)}
          />
        ))}
        <Box sx={{ mt: 3, fontSize: "0.8rem", color: "text.secondary" }}>
          A stand-in stick is a folder that behaves like a stick of a given size.{" "}
          <Box component="a" href="/player/" target="_blank" rel="noreferrer" sx={{ color: "info.main" }}>
            Open a stand-in player
          </Box>{" "}
          to rehearse with it.
        </Box>
      </CardColumn>
      {stick ? (
        <StickView key={stick.id} stick={stick} />
      ) : (
        sticks && (
          <Empty title="No stick is here">
            <p>
              Put in a stick, or make a stand-in, to pack crates for the gig and rehearse them in a stand-in
              player.
            </p>
            <Button variant="contained" color="error" onClick={() => setMaking(true)}>
              A stick…
            </Button>
            <FirstSteps />
          </Empty>
        )
      )}
      {making && (
        <MakeStick
          sticks={sticks ?? []}
          onClose={() => setMaking(false)}
          onMade={(made) => setChosen(made.id)}
        />
      )}
    </Box>
  );
}

function StickCard({ stick, open, onShow }: { stick: Stick; open: boolean; onShow: () => void }) {
  const players = `for ${stick.players.map(({ profile }) => profile).join(" and ")}`;
  const packed = stick.packed_at ? `packed ${ago(stick.packed_at)}` : "never packed";
  const free = `${size(stick.capacity_bytes - stick.used_bytes)} free of ${size(stick.capacity_bytes)}`;
  const menu = useStickMenu(stick, onShow);
  return (
    <ColumnCard
      menu={menu}
      name={stick.name}
      says={stick.is_in ? free : "not in the computer"}
      open={open}
      corners="2px 7px 7px 2px"
      onShow={onShow}
    >
      {stick.is_in && <Capacity used={stick.used_bytes} added={0} capacity={stick.capacity_bytes} />}
      <Box sx={{ fontSize: "0.78rem", color: "text.secondary", mt: 0.4 }}>
        {players} · {packed}
      </Box>
      {stick.same_as.length > 0 && (
        <Box sx={{ fontSize: "0.78rem", color: "text.secondary" }}>
          the same sound as {stick.same_as.join(", ")}
        </Box>
      )}
      {stick.came_home > 0 && (
        <Box sx={{ fontSize: "0.78rem", color: "secondary.main", fontWeight: 600 }}>
          came home with {plural(stick.came_home, "change")}
        </Box>
      )}
      {menu.menu}
    </ColumnCard>
  );
}

function useStickMenu(stick: Stick, onShow: () => void): ItemMenu {
  const act = useStickActions(stick);
  const inOrOut =
    stick.kind === "stand-in" && !stick.is_in
      ? { words: "Put it into the computer", act: () => act.insert.mutate(undefined) }
      : { words: "Eject", act: () => act.eject.mutate(undefined), off: !stick.is_in };
  return useItemMenu(`With ${stick.name}`, () => [
    { words: "Show its plan", act: onShow },
    { words: "Check", act: () => act.check.mutate(false), off: !stick.is_in || !stick.packed_at },
    inOrOut,
  ]);
}
