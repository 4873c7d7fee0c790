// @vitest-environment jsdom
/** The folders of the disk: gone through by key, chosen, and what in them is new brought in. */
import { serve } from "../../testing-server";
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import { App } from "../../testing";
import { FolderTree } from "./folder-tree";

afterEach(cleanup);

const folder = (path: string, tracks: number, there = true) => {
  const name = path.split("/").pop() ?? "";
  return { name, path, tracks, there };
};
const music = {
  path: "/music",
  tracks: 2,
  folders: [folder("/music/Later", 5), folder("/music/Gone", 3, false)],
  new: ["Pier 1.mp3", "Pier 2.mp3", "Pier 3.mp3", "Pier 4.mp3", "Pier 5.mp3", "Pier 6.mp3", "Pier 7.mp3"],
  new_count: 7,
  problem: null,
};

function show(chosen?: string, inside: object = music) {
  localStorage.clear();
  const asked = serve({
    "GET /api/disk-folders": [folder("/music", 10)],
    "GET /api/disk-folders/in": inside,
    "POST /api/imports": { id: 4 },
  });
  const choose = vi.fn();
  render(
    <App>
      <FolderTree chosen={chosen} onChoose={choose} />
    </App>,
  );
  return { asked, choose, user: userEvent.setup() };
}

test("→ opens a folder, ↓ goes on, ↵ shows what is in one; what is away says so", async () => {
  const { choose, user } = show();
  const elsewhere = vi.fn();
  window.addEventListener("keydown", elsewhere);
  (await screen.findByRole("treeitem", { name: /music/ })).focus();
  await user.keyboard("{ArrowRight}");
  await screen.findByText("Later");
  expect(screen.getByText("Gone").textContent).toBe("Gone away");
  await user.keyboard("{ArrowDown}{Enter}");
  expect(choose.mock.calls).toEqual([["/music/Later"]]);
  expect(elsewhere).not.toHaveBeenCalled();
  window.removeEventListener("keydown", elsewhere);
});

test("new files of the chosen folder are named, the first at first, and brought in by their paths", async () => {
  const { asked, choose, user } = show("/music");
  await screen.findByText("7 files here not in Vinyl yet");
  expect(screen.queryByText("Pier 7.mp3")).toBeNull();
  await user.click(screen.getByText("All names"));
  screen.getByText("Pier 7.mp3");
  await user.click(screen.getByText("Bring in 7 files"));
  await screen.findByText("7 files on the way in: Arrivals shows how far.");
  expect(asked.at(-1)).toEqual({
    what: "POST /api/imports",
    body: { paths: music.new.map((name) => `/music/${name}`) },
  });
  await user.click(screen.getByText("All folders"));
  expect(choose).toHaveBeenCalledExactlyOnceWith(null);
});

test("a disk that cannot be looked at is told in its words, and nothing is offered", async () => {
  show("/music", { ...music, problem: "/music cannot be found now. Plug its drive in, and look again." });
  await screen.findByText(/Plug its drive in/);
  expect(screen.queryByText(/Bring in/)).toBeNull();
});

test("a folder without anything new says nothing of it", async () => {
  const { asked } = show("/music", { ...music, new: [], new_count: 0 });
  await waitFor(() => expect(asked.length).toBe(2));
  expect(screen.queryByText(/not in Vinyl yet/)).toBeNull();
});
