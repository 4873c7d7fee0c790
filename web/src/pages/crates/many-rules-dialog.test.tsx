// @vitest-environment jsdom
/** A line in many rules: those of the folder are meant first; it is added, changed or taken away in what is ticked. */
import { serve } from "../../testing-server";
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test } from "vitest";
import type { Crate } from "../../api/client";
import { App } from "../../testing";
import { ManyRulesDialog } from "./many-rules-dialog";

afterEach(cleanup);

const crate = (id: number, name: string, rest: object = {}) =>
  ({ id, name, is_folder: false, fills_itself: true, folder_id: null, ...rest }) as unknown as Crate;
const FOLDER = crate(1, "By style", { is_folder: true, fills_itself: false });
const CRATES = [
  FOLDER,
  crate(2, "House", { folder_id: 1 }),
  crate(3, "Dub", { folder_id: 1 }),
  crate(4, "Loved"),
];
const FAST = { kind: "between", field: "bpm", low: 120, high: null };
const NEW = { kind: "lately", field: "added_at", days: 30 };

function show(folder?: Crate) {
  const asked = serve({
    "GET /api/crates": CRATES,
    "POST /api/rules/shared": [{ where: FAST, words: "tempo from 120", rules: 2 }],
    "POST /api/rules/lines": { lines: [{ words: "added in the last 30 days" }] },
    "POST /api/limits": [{ words: "added in the last 30 days", where: NEW, rest: "" }],
    "POST /api/rules/shared/change": { rules: 2 },
  });
  render(
    <App>
      <ManyRulesDialog folder={folder} onClose={() => undefined} />
    </App>,
  );
  return { asked, user: userEvent.setup() };
}

test("the rules of a folder get a line that is typed, and sending waits for Enter on the button", async () => {
  const { asked, user } = show(FOLDER);
  await screen.findByText("in 2 of 2 rules");
  expect((screen.getByText("Type the line to add") as HTMLButtonElement).disabled).toBe(true);
  await user.type(screen.getByLabelText("A line of the rule"), "added in the last 30 days{Enter}");
  await screen.findByText("Add it to 2 rules");
  expect(asked.some(({ what }) => what.endsWith("/change"))).toBe(false);
  await user.click(screen.getByText("Add it to 2 rules"));
  await waitFor(() =>
    expect(asked.at(-1)).toMatchObject({
      what: "POST /api/rules/shared/change",
      body: { crate_ids: [2, 3], old: null, new: NEW },
    }),
  );
});

test("a line that is there is taken out of the rules that are ticked", async () => {
  const { asked, user } = show();
  await user.click(await screen.findByLabelText("Loved"));
  await user.click(await screen.findByText("tempo from 120"));
  await user.click(screen.getByText("Take it out of 2 rules"));
  await waitFor(() => expect(asked.at(-1)?.body).toMatchObject({ crate_ids: [2, 3], old: FAST, new: null }));
});
