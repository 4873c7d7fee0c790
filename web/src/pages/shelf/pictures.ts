/** The pictures that can stand above the Shelf, and which of them do. */
import { useMemo } from "react";
import type { Family } from "../../api/client";
import type { PictureName } from "../../api/queries";
import { useFamilies } from "../../components/tags";
import { useFixed } from "../../components/use-fixed";
import { useRemembered } from "../../settings";

/** A picture by the name of what it counts, or a family of tags by "tags 3". */
export type Picture = PictureName | `tags ${number}`;

export const TITLES: Record<PictureName, string> = {
  bpm: "Tempo",
  key: "Key",
  energy: "Energy",
  rating: "Stars",
  genre: "Style, as the files say",
  month: "Added",
  year: "Year",
  plays: "Plays",
  colour: "Colour",
};

export interface Shown {
  pictures: Picture[];
  families: Family[];
  folded: boolean;
  fold: () => void;
  toggle: (picture: Picture) => void;
  nameOf: (picture: Picture) => string;
}

const USUAL: Picture[] = ["bpm", "key", "energy", "rating", "genre", "month"];
const NAMES = Object.keys(TITLES) as PictureName[];

export function useShownPictures(): Shown {
  const all = useFamilies();
  const [chosen, setChosen] = useRemembered<Picture[] | null>("shelf.pictures", null);
  const [folded, setFolded] = useRemembered("shelf.folded", false);
  const { families, shown, pictures, nameOf } = useMemo(() => picturesOf(all, chosen), [all, chosen]);
  const acts = useFixed({
    fold: () => setFolded(!folded),
    toggle: (picture: Picture) =>
      setChosen(shown.includes(picture) ? shown.filter((each) => each !== picture) : [...shown, picture]),
  });
  return useMemo(
    () => ({ ...{ families, pictures, nameOf, folded }, ...acts }),
    [families, pictures, nameOf, folded, acts],
  );
}

function picturesOf(all: readonly Family[], chosen: Picture[] | null) {
  const families = all.filter((family) => !family.retired);
  const shown = chosen ?? usual(families);
  const order: Picture[] = [
    ...NAMES.filter((name) => name !== "month"),
    ...families.map((family): Picture => `tags ${family.id}`),
    "month",
  ];
  const nameOf = (picture: Picture) =>
    picture in TITLES
      ? TITLES[picture as PictureName]
      : (families.find((family) => picture === `tags ${family.id}`)?.name ?? "");
  return { families, shown, pictures: order.filter((picture) => shown.includes(picture)), nameOf };
}

/** All that can stand there, for choosing. */
export function allPictures(families: readonly Family[]): Picture[] {
  return [...NAMES, ...families.map((family): Picture => `tags ${family.id}`)];
}

/** Where tags are given, the families with tags stand in place of the files' own words. */
function usual(families: readonly Family[]): Picture[] {
  const used = families.filter((family) => family.tags.some((tag) => tag.tracks > 0));
  if (!used.length) return USUAL;
  const first = used[0];
  return [
    ...USUAL.filter((picture) => picture !== "genre" || used.length < 2),
    ...(first ? [`tags ${first.id}` as const] : []),
    ...used.slice(1, 2).map((family): Picture => `tags ${family.id}`),
  ];
}
