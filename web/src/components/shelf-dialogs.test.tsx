// @vitest-environment jsdom
/** Dialogs about chosen tracks: what would change is shown first, and nothing is sent where nothing would. */
import { serve } from "../testing-server";
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import { only } from "../api/client";
import { App } from "../testing";
import { DeleteCuesDialog } from "./delete-cues-dialog";
import { EditDialog } from "./edit-dialog";
import { LocksDialog } from "./locks-dialog";
import { RepairDialog } from "./repair-dialog";
import { RereadDialog } from "./reread-dialog";

afterEach(cleanup);

function show(dialog: typeof RepairDialog, ids: number[]) {
  const onClose = vi.fn();
  const What = dialog;
  render(
    <App>
      <What picked={only(...ids)} onClose={onClose} />
    </App>,
  );
  return { onClose, user: userEvent.setup() };
}

test("texts in a wrong encoding are shown before they are repaired", async () => {
  const repair = { track_id: 7, title: "ç", field: "genre", before: "Ð¥", after: "Х", encoding: "UTF-8" };
  const asked = serve({
    "POST /api/tracks/repairs": { repairs: [repair], total: 3 },
    "POST /api/tracks/repairs/apply": { repairs: [], total: 3 },
  });
  const { onClose, user } = show(RepairDialog, [7, 8]);
  await screen.findByText("Х");
  screen.getByText("style");
  screen.getByText("and 2 more");
  await user.click(screen.getByText("Repair 3 texts"));
  await screen.findByText(/3 texts repaired/);
  expect(asked.at(-1)).toEqual({ what: "POST /api/tracks/repairs/apply", body: { ids: [7, 8] } });
  expect(onClose).toHaveBeenCalled();
});

test("where nothing is wrong, nothing can be sent", async () => {
  serve({ "POST /api/tracks/repairs": { repairs: [], total: 0 } });
  const { user } = show(RepairDialog, [7]);
  await screen.findByText(/read as they were meant/);
  await user.keyboard("{Enter}");
  expect((screen.getByText("Nothing to repair") as HTMLButtonElement).disabled).toBe(true);
});

test("what files say now is shown, and what is not shown is counted", async () => {
  const difference = {
    track_id: 7,
    title: "Copper Tide",
    field: "artist",
    before: null,
    after: "Kelp Union",
  };
  const asked = serve({
    "POST /api/tracks/tags/differences": { differences: [difference], more: 300 },
    "POST /api/tracks/tags/again": { id: 1 },
  });
  const { user } = show(RereadDialog, [7, 8]);
  await screen.findByText("Kelp Union");
  screen.getByText("Copper Tide");
  screen.getByText(/300 more tracks/);
  await user.click(screen.getByText("Take it in"));
  await waitFor(() => expect(asked.at(-1)?.what).toBe("POST /api/tracks/tags/again"));
});

test("what was entered on a page of the editing card is there after a look at another", async () => {
  serve({
    "POST /api/tracks/common": { total: 2, fields: { title: { value: "Tide" } } },
    "POST /api/tracks/texts/preview": { changes: [], total: 0, tracks: 0 },
  });
  const { user } = show(EditDialog, [7, 8]);
  await user.type(await screen.findByLabelText("title"), "!");
  await user.click(screen.getByText("Find and replace"));
  await user.type(screen.getByLabelText("Find"), "mix");
  await user.click(screen.getByText("Values"));
  expect((screen.getByLabelText("title, to be set") as HTMLInputElement).value).toBe("Tide!");
  screen.getByText("Set title");
  await user.click(screen.getByText("Find and replace"));
  expect((screen.getByLabelText("Find") as HTMLInputElement).value).toBe("mix");
});

test("all cues of a kind are deleted by arrows and Enter, and it is said how many there are", async () => {
  const asked = serve({
    "POST /api/tracks/cues/count": [
      { kind: "all", name: "all cues and loops", cues: 5 },
      { kind: "roles", name: "in, main and out", cues: 2 },
      { kind: "loops", name: "loops", cues: 0 },
    ],
    "POST /api/tracks/cues/delete": { cues: 2, tracks: 1, locked: 1 },
  });
  const { onClose, user } = show(DeleteCuesDialog, [7, 8]);
  await screen.findByText("Delete 5 cues");
  await user.keyboard("{ArrowDown}{ArrowDown}");
  expect((screen.getByText("Nothing to delete") as HTMLButtonElement).disabled).toBe(true);
  await user.keyboard("{ArrowUp}{Enter}");
  await screen.findByText(/2 cues of 1 track deleted.*1 track kept theirs/);
  expect(asked.at(-1)).toEqual({
    what: "POST /api/tracks/cues/delete",
    body: { ids: [7, 8], kind: "roles" },
  });
  expect(onClose).toHaveBeenCalled();
});

test("a part that is locked on some is locked on all by Enter, or opened by its button", async () => {
  const asked = serve({
    "POST /api/tracks/locks/count": { grid: 1, cues: 0, key: 2, tags: 0 },
    "PUT /api/tracks/locks": { tracks: 1, without_grid: 1 },
  });
  const { user } = show(LocksDialog, [7, 8]);
  await screen.findByText("locked on 1 of 2");
  screen.getByText("Unlock the grid");
  await user.keyboard("{ArrowDown}{ArrowDown}");
  screen.getByText("Unlock the key");
  await user.keyboard("{ArrowUp}{ArrowUp}{Enter}");
  await screen.findByText(/grid is locked now. 1 track left out/);
  expect(asked.at(-1)?.body).toEqual({ ids: [7, 8], part: "grid", locked: true });
});
