// @vitest-environment jsdom
/** Tracks without an in point get those that were heard: they are asked for, then looked at, then set. */
import { serve } from "../testing-server";
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import { App } from "../testing";
import { SetInPoints } from "./set-in-points";

afterEach(cleanup);

const show = (find: () => Promise<number[]>) => {
  const template = { id: 3, name: "In, as heard", cues: [{ place: "in", role: "in" }] };
  const asked = serve({
    "GET /api/templates": [template],
    "POST /api/templates/3/preview": { results: [], more: 0 },
  });
  render(
    <App>
      <SetInPoints find={find} />
    </App>,
  );
  return { asked, user: userEvent.setup() };
};

test("which tracks they are is asked when the button is pressed, and a look comes before anything is set", async () => {
  const find = vi.fn(() => Promise.resolve([4, 9]));
  const { asked, user } = show(find);
  expect(find).not.toHaveBeenCalled();
  await user.click(screen.getByText("Set those that were heard…"));
  await screen.findByText("Cue template for 2 tracks");
  await waitFor(() => expect(asked.at(-1)?.body).toEqual({ ids: [4, 9] }));
  expect(asked.map(({ what }) => what)).not.toContain("POST /api/templates/3/use");
  await user.keyboard("{Escape}");
  await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  await user.click(screen.getByText("Set those that were heard…"));
  await screen.findByText("Cue template for 2 tracks");
  expect(find).toHaveBeenCalledTimes(2);
});

test("that they cannot be found is said, and the button can be pressed again", async () => {
  const { user } = show(() => Promise.reject(new Error("This ledger is not kept any more: make it anew.")));
  await user.click(screen.getByText("Set those that were heard…"));
  await screen.findByText("This ledger is not kept any more: make it anew.");
  expect(screen.queryByRole("dialog")).toBeNull();
  expect(screen.getByRole("button", { name: /heard/ }).hasAttribute("disabled")).toBe(false);
});
