/** What can be done with a night, wherever it stands. */
import { useItemMenu, type ItemMenu, type MenuLine } from "../../components/item-menu";
import { useNightActions } from "./night-actions";
import type { Gig, Logbook } from "./use-logbook";
import { dayOf } from "./words";

/** `own` are lines of the place where it stands. */
export function useNightMenu(gig: Gig, logbook: Logbook, own: readonly MenuLine[] = []): ItemMenu {
  const { throwAway, removeNights } = useNightActions();
  const { night } = logbook;
  const beside: MenuLine[] =
    night && night.id !== gig.id
      ? [
          {
            words: `Beside ${dayOf(night.on)}`,
            act: () => logbook.go({ view: "nights", night: night.id, beside: gig.id }),
          },
        ]
      : [];
  return useItemMenu(`With ${dayOf(gig.on)}`, () => [
    {
      words: "Open this night",
      act: () => logbook.go({ view: "nights", night: gig.id, beside: null }),
    },
    ...beside,
    ...own,
    {
      words: "Throw away as practice",
      act: () => throwAway.mutate({ ids: [gig.id], practice: true }),
      apart: true,
    },
    { words: "Delete this night", act: () => removeNights.mutate([gig.id]) },
  ]);
}
