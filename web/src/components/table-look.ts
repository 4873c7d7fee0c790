/** What cells of the track table need beside their track: how tags, lists, keys and colours are called. */
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { Schema } from "../api/client";
import { cratesQuery, trackColoursQuery } from "../api/queries";
import { useSettings } from "../settings";
import { keyName } from "./key-name";
import { useTagLooks, type TagLook } from "./tags";

export interface TableLook {
  tags: ReadonlyMap<number, TagLook>;
  lists: ReadonlyMap<number, string>;
  colours: ReadonlyMap<string, Schema["ColourMeaning"]>;
  keyName: (name: string) => string;
}

export function useTableLook(): TableLook {
  const tags = useTagLooks();
  const crates = useQuery(cratesQuery).data;
  const colours = useQuery(trackColoursQuery).data;
  const { notation } = useSettings();
  return useMemo(
    () => ({
      tags,
      lists: new Map((crates ?? []).map((crate) => [crate.id, crate.name])),
      colours: new Map((colours ?? []).map((each) => [each.colour as string, each])),
      keyName: (name: string) => keyName(name, notation),
    }),
    [tags, crates, colours, notation],
  );
}
