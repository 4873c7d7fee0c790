// @vitest-environment jsdom
/** A playlist before it is brought in: mappings and columns are confirmed, and the look is asked for anew each time. */
import { serve } from "../../testing-server";
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import { App } from "../../testing";
import { PlaylistDialog } from "./playlist-dialog";

afterEach(cleanup);

const LOOK = {
  ...{ name: "Friday", encoding: "UTF-8", total: 3, passed_over: 1, marks: 0, table: null },
  counts: { here: 1, by_name: 0, on_disk: 1, wanted: 1 },
  entries: [
    {
      ...{ artist: "Kelp Union", title: "Sluice", path: "D:\\x\\Sluice.mp3", state: "wanted" },
      ...{ track_id: null, file: null, reason: "It was not found under its path." },
    },
  ],
  proposals: [{ there: "D:/x", here: "/music", finds: 1 }],
};

function open(look: object) {
  const asked = serve({
    "POST /api/playlists/look": look,
    "POST /api/playlists": { crate_id: 4, run: { id: 9 } },
  });
  const [onDone, onClose] = [vi.fn(), vi.fn()];
  render(
    <App>
      <PlaylistDialog path="/music/friday.m3u" onDone={onDone} onClose={onClose} />
    </App>,
  );
  return { asked, onDone, onClose, user: userEvent.setup() };
}

test("a mapping that is ticked is asked about, then sent with the crate's name", async () => {
  const { asked, onDone, user } = open(LOOK);
  await screen.findByText("Kelp Union – Sluice");
  screen.getByText(/1 line without a file passed over/);
  await user.click(screen.getByText("D:/x"));
  await waitFor(() => expect(asked.length).toBe(2));
  const name = screen.getByLabelText("Name of the crate");
  await user.clear(name);
  expect(screen.getByText<HTMLButtonElement>(/^Make a crate/).disabled).toBe(true);
  await user.type(name, "Gig");
  await user.click(screen.getByText("Make a crate, import 1 file"));
  await waitFor(() => expect(onDone).toHaveBeenCalled());
  expect(asked.at(-1)).toEqual({
    what: "POST /api/playlists",
    body: {
      ...{ path: "/music/friday.m3u", by_names: true, name: "Gig" },
      mappings: [{ there: "D:/x", here: "/music" }],
    },
  });
});

test("a mapping can be written by hand, with the other system's back-slashes; Enter takes it", async () => {
  const { asked, onDone, user } = open({ ...LOOK, proposals: [] });
  await user.click(await screen.findByText("Write where a folder is…"));
  await user.type(screen.getByLabelText("In the playlist"), "E:\\Musik");
  await user.type(screen.getByLabelText("Here"), "/home/mara{Enter}");
  await waitFor(() =>
    expect(asked.at(-1)?.body).toMatchObject({ mappings: [{ there: "E:/Musik", here: "/home/mara" }] }),
  );
  expect(onDone).not.toHaveBeenCalled();
});

test("a cue sheet makes no crate, and a list without entries cannot be brought in", async () => {
  open({ ...LOOK, total: 1, marks: 12, entries: [], proposals: [] });
  await screen.findByText("Offer its 12 marks as cues");
  expect(screen.queryByLabelText("Name of the crate")).toBeNull();
  cleanup();
  open({ ...LOOK, total: 0, entries: [], proposals: [] });
  await waitFor(() => expect(screen.getByText<HTMLButtonElement>(/^Make a crate/).disabled).toBe(true));
});
