// @vitest-environment jsdom
/** The menu of a thing: by a right click and by key, where it is and nowhere else. */
import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import { App } from "../testing";
import { useItemMenu } from "./item-menu";

afterEach(cleanup);

const [rename, chosen, elsewhere] = [vi.fn(), vi.fn(), vi.fn()];

function Thing() {
  const { handlers, menu } = useItemMenu("With the crate", () => [
    { words: "Rename", act: rename, hint: "⇧ F2" },
    { words: "Locked", act: vi.fn(), off: true },
    { words: "Engages", act: vi.fn(), on: true, apart: true },
  ]);
  return (
    // eslint-disable-next-line jsx-a11y/no-static-element-interactions
    <div onClick={chosen} onKeyDown={elsewhere} onContextMenu={elsewhere}>
      <button type="button" {...handlers}>
        Harbour
      </button>
      {menu}
    </div>
  );
}

test("⇧F10 and a right click open it, a line acts once and what lies around hears nothing of it", async () => {
  const user = userEvent.setup();
  render(
    <App>
      <Thing />
    </App>,
  );
  const thing = screen.getByText("Harbour");
  thing.focus();
  fireEvent.keyDown(thing, { key: "F10", shiftKey: true });
  await screen.findByRole("menu", { name: "With the crate" });
  expect(screen.getByRole("menuitemcheckbox", { name: /Engages/ }).getAttribute("aria-checked")).toBe("true");
  expect(screen.getByRole("menuitem", { name: "Locked" }).getAttribute("aria-disabled")).toBe("true");
  await user.click(screen.getByText("Rename"));
  expect(rename).toHaveBeenCalledTimes(1);
  await waitFor(() => expect(screen.queryByRole("menu")).toBeNull());
  fireEvent.contextMenu(thing, { clientX: 10, clientY: 10 });
  await user.click(await screen.findByText("Rename"));
  expect(rename).toHaveBeenCalledTimes(2);
  expect(chosen).not.toHaveBeenCalled();
  expect(elsewhere).not.toHaveBeenCalled();
});
