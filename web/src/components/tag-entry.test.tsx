// @vitest-environment jsdom
/** Tags by their names: what is there is given, what is new is made in the family whose letter is pressed. */
import { serve } from "../testing-server";
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test } from "vitest";
import { only, type Family } from "../api/client";
import { MemoryRouter } from "react-router";
import { App } from "../testing";
import { TagCard } from "./tag-card";
import { lettersOf, tagMeant } from "./tag-entry";

afterEach(cleanup);

const tag = (id: number, name: string) => ({
  id,
  name,
  letter: null,
  colour: null,
  sign: "",
  retired: false,
  tracks: 0,
});
const family = (id: number, name: string, ...tags: object[]) =>
  ({ id, name, colour: "blue", sign: "§", retired: false, tags }) as unknown as Family;
const FAMILIES = [
  family(1, "Style", tag(11, "House")),
  family(2, "Make-up", tag(21, "Strings"), tag(22, "Stripped"), tag(23, "Été")),
  family(3, "Moment"),
];

test("a tag is meant by its whole name or by the only beginning, whatever its accents", () => {
  expect(tagMeant(FAMILIES, "HOUSE")?.id).toBe(11);
  expect(tagMeant(FAMILIES, "str")).toBeUndefined();
  expect(tagMeant(FAMILIES, "stri")?.id).toBe(undefined);
  expect(tagMeant(FAMILIES, "strin")?.id).toBe(21);
  expect(tagMeant(FAMILIES, "ete")?.id).toBe(23);
  expect(tagMeant(FAMILIES, "")).toBeUndefined();
  expect(lettersOf(FAMILIES)).toEqual(["s", "m", "o"]);
});

test("a new tag is typed, its family asked by letter, and given to what is chosen; Esc goes back", async () => {
  const asked = serve({
    "GET /api/tag-families": FAMILIES,
    "POST /api/tracks/tags/among": { total: 2, counts: {} },
    "POST /api/tracks/tags/new": { changed: 2, locked: 0 },
    "PUT /api/tracks/tags": { changed: 2, locked: 0 },
  });
  const user = userEvent.setup();
  render(
    <App>
      <MemoryRouter>
        <TagCard picked={only(7, 8)} />
      </MemoryRouter>
    </App>,
  );
  await screen.findByText("House");
  const field = screen.getByLabelText("Tag by name, or a new one");
  await user.type(field, "hou{Enter}");
  await waitFor(() =>
    expect(asked.at(-1)).toMatchObject({ what: "PUT /api/tracks/tags", body: { tag_id: 11 } }),
  );
  await user.type(field, "Foghorn{Enter}");
  screen.getByText(/Into which family/);
  await user.keyboard("{Escape}");
  expect(screen.queryByText(/Into which family/)).toBeNull();
  await user.keyboard("{Enter}o");
  await waitFor(() =>
    expect(asked.at(-1)).toMatchObject({
      what: "POST /api/tracks/tags/new",
      body: { ids: [7, 8], family_id: 3, name: "Foghorn" },
    }),
  );
  await waitFor(() => expect((field as HTMLInputElement).value).toBe(""));
  await user.type(field, "hou{Shift>}{Enter}{/Shift}s");
  await waitFor(() => expect(asked.at(-1)?.body).toMatchObject({ family_id: 1, name: "hou" }));
});
