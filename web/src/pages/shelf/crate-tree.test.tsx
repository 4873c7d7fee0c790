// @vitest-environment jsdom
/** The crates to drop on: letters that are typed meanwhile look for one, and nobody else hears of them. */
import { serve } from "../../testing-server";
import { DndContext } from "@dnd-kit/core";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import { App } from "../../testing";
import { CrateTree } from "./crate-tree";

afterEach(cleanup);

const crate = (id: number, name: string, more: object = {}) => {
  const own = { id, name, tracks: 3, folder_id: null, is_folder: false, fills_itself: false };
  return { ...own, ...more };
};

function show(crates: object[], folded: number[] = []) {
  localStorage.clear();
  localStorage.setItem("vinyl.crates.folded", JSON.stringify(folded));
  serve({ "GET /api/crates": crates });
  render(
    <App>
      <DndContext>
        <CrateTree />
      </DndContext>
    </App>,
  );
}

const names = () =>
  [...document.querySelectorAll("[data-crate]")].map((each) => each.getAttribute("data-crate"));
const type = (key: string, more: object = {}) => fireEvent.keyDown(document.body, { key, ...more });

const CRATES = [
  crate(1, "Weddings", { is_folder: true }),
  crate(2, "Spring", { folder_id: 1 }),
  crate(3, "Late hours"),
  crate(4, "By rule", { fills_itself: true }),
];

test("crates stand in their folders as they are folded, without those that fill themselves", async () => {
  show(CRATES, [1]);
  await screen.findByText("Late hours");
  expect(names()).toEqual(["Weddings", "Late hours"]);
});

test("letters look in all folders, ⌫ takes one back, chords and others hear as before", async () => {
  show(CRATES, [1]);
  await screen.findByText("Late hours");
  const heard = vi.fn();
  document.addEventListener("keydown", heard);
  type(" ");
  for (const key of "spr") type(key);
  expect(names()).toEqual(["Spring"]);
  screen.getByText("Named with “spr”");
  type("x");
  screen.getByText(/No crate has these letters/);
  expect(heard).toHaveBeenCalledTimes(1);
  for (let i = 0; i < 4; i++) type("Backspace");
  expect(names()).toEqual(["Weddings", "Late hours"]);
  type("z", { ctrlKey: true });
  expect(names()).toEqual(["Weddings", "Late hours"]);
  document.removeEventListener("keydown", heard);
});

test("where there is none it is said how to make one", async () => {
  show([]);
  await screen.findByText(/Let go, and press P/);
});
