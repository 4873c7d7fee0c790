// @vitest-environment jsdom
/** Versions of one work: the chosen ones are linked, those of one are shown and changed, and taken out again. */
import { serve } from "../testing-server";
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import type { Picked } from "../api/client";
import { App } from "../testing";
import { VersionsDialog } from "./versions-dialog";

afterEach(cleanup);

const row = (id: number, title: string) => ({ id, title, artist: "Kelp Union", duration_s: 180 });
const version = (track_id: number, title: string, kind: string) => ({
  ...{ track_id, title, artist: "Kelp Union", duration_s: 180, work: "Tide", kind },
});

function show(ids: number[], versions: object[]) {
  localStorage.clear();
  const asked = serve({
    [`GET /api/tracks/${ids[0]}/versions`]: versions,
    "POST /api/tracks/rows": ids.map((id) => row(id, `Tide ${id}`)),
    "PUT /api/versions": null,
    "POST /api/versions/apart": null,
  });
  const close = vi.fn();
  const picked = { chosen: { ids }, count: ids.length } as unknown as Picked;
  render(
    <App>
      <VersionsDialog picked={picked} onClose={close} />
    </App>,
  );
  return { asked, close, user: userEvent.setup() };
}

test("two tracks are linked under a name, each with its kind", async () => {
  const { asked, close, user } = show([4, 7], []);
  const name = await screen.findByLabelText("Name of the work");
  expect((name as HTMLInputElement).value).toBe("Tide 4");
  await user.clear(name);
  await user.type(name, " Tide ");
  const [, kind] = screen.getAllByLabelText("Kind");
  if (!kind) throw new Error("each has a kind");
  await user.type(kind, "my own mix");
  expect(screen.queryByText(/Take/)).toBeNull();
  await user.click(screen.getByRole("button", { name: "Link them" }));
  await waitFor(() => expect(close).toHaveBeenCalled());
  const sent = asked.find(({ what }) => what === "PUT /api/versions");
  expect(sent?.body).toMatchObject({ track_ids: [4, 7], name: "Tide", kinds: { 7: "my own mix" } });
});

test("of one track its versions are shown with their kinds, and it is taken out", async () => {
  const { asked, close, user } = show([4], [version(4, "Tide", ""), version(9, "Tide short", "radio")]);
  await screen.findByText("Kelp Union – Tide short, 3:00");
  const kinds = screen.getAllByLabelText("Kind").map((each) => (each as HTMLInputElement).value);
  expect(kinds).toEqual(["", "radio"]);
  await user.click(screen.getByRole("button", { name: "Take it out" }));
  await waitFor(() => expect(close).toHaveBeenCalled());
  expect(asked.at(-1)).toEqual({ what: "POST /api/versions/apart", body: { track_ids: [4] } });
});

test("a track without versions says what to do, and nothing can be linked", async () => {
  show([4], []);
  await screen.findByText(/Choose two tracks or more/);
  const link = screen.getByRole("button", { name: "Link them" }) as HTMLButtonElement;
  expect(link.disabled).toBe(true);
});
