/** Tags as they look: by their own colour and sign, or their family's. */
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { Family, Tag } from "../api/client";
import { familiesQuery } from "../api/queries";

export interface TagLook {
  tag: Tag;
  family: Family;
  colour: string;
  sign: string;
  /** Its place among all tags. */
  place: number;
}

const NONE: Family[] = [];

export function useFamilies(): Family[] {
  return useQuery(familiesQuery).data ?? NONE;
}

/** Every tag by its id. */
export function useTagLooks(): ReadonlyMap<number, TagLook> {
  const families = useFamilies();
  return useMemo(() => {
    const looks = families.flatMap((family) =>
      family.tags.map((tag) => ({
        ...{ tag, family, colour: tag.colour ?? family.colour, sign: tag.sign || family.sign, place: 0 },
      })),
    );
    return new Map(looks.map((look, place) => [look.tag.id, { ...look, place }]));
  }, [families]);
}
