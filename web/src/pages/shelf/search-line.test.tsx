// @vitest-environment jsdom
/** The search line where answers come late: what was cleared stays cleared, what was typed on stays typed. */
import { act, cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { BrowserRouter } from "react-router";
import { afterEach, expect, test } from "vitest";
import { App } from "../../testing";
import { serve } from "../../testing-server";
import { SearchLine } from "./search-line";
import { useShelfQuery } from "./use-shelf-query";

afterEach(cleanup);

const HOUSE = {
  words: "style House",
  rest: "",
  sure: true,
  where: { kind: "text", field: "genre", text: "House", how: "is" },
  ...{ parts: [], order: [] },
};

/** The line over an address; offers come when the test lets them. */
function show(address: string) {
  window.history.replaceState(null, "", address);
  let answer: (offers: unknown) => void = () => undefined;
  const offers = new Promise((done) => (answer = done));
  const asked = serve({ "POST /api/limits": () => offers });
  const isAsked = (text: string) =>
    waitFor(() => expect(asked).toContainEqual({ what: "POST /api/limits", body: { text } }));
  const got = { shelf: null as ReturnType<typeof useShelfQuery> | null };
  function Shelf() {
    const shelf = useShelfQuery();
    got.shelf = shelf;
    const text = shelf.filters.q ?? "";
    return <SearchLine begun={text} marked={shelf.marked} onChange={shelf.change} onRows={() => undefined} />;
  }
  render(
    <App>
      <BrowserRouter>
        <Shelf />
      </BrowserRouter>
    </App>,
  );
  const shelf = () => got.shelf ?? expect.unreachable("the Shelf is not drawn");
  return { user: userEvent.setup(), shelf, isAsked, answer: (is: unknown) => answer(is) };
}

test("of two changes before the page is drawn again the second does not undo the first", async () => {
  const { shelf } = show("/shelf?genre=Dub&bpm_from=110");
  const { clear, change } = shelf();
  act(() => {
    clear();
    change({ q: "halyard" });
  });
  await waitFor(() => expect(shelf().filters).toEqual({ q: "halyard" }));
});

test("what is typed on while Enter is being answered is kept, and text that was taken away stays away", async () => {
  const { user, shelf, isAsked, answer } = show("/shelf");
  const line = screen.getByRole("combobox");
  await user.type(line, "house");
  await isAsked("house");
  await user.type(line, "{Enter} kelp");
  await isAsked("house kelp");
  await act(async () => answer([HOUSE]));
  await waitFor(() => expect(shelf().filters.limits).toContain("style House"));
  expect(line).toHaveProperty("value", " kelp");
  cleanup();
  const later = show("/shelf");
  await later.user.type(screen.getByRole("combobox"), "house{Enter}{Escape}");
  await act(async () => later.answer([HOUSE]));
  expect(later.shelf().filters).toEqual({});
});
