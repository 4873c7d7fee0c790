// @vitest-environment jsdom
/** Choosing columns: what was ticked keeps the focus, and what gave way for lack of room is not forgotten. */
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test } from "vitest";
import { App } from "../testing";
import { ColumnChooser } from "./column-chooser";
import { useTableLayout } from "./use-table-layout";

afterEach(cleanup);

const NONE: readonly string[] = [];

function Choosing({ room }: { room: number }) {
  const layout = useTableLayout("test", NONE, room);
  return (
    <>
      <ColumnChooser layout={layout} />
      <output>{layout.shown.join()}</output>
    </>
  );
}

const shown = () => screen.getByRole("status", { hidden: true }).textContent.split(",");

test("a column that is ticked stays chosen, keeps the focus and drives none away for good", async () => {
  const user = userEvent.setup();
  const { rerender } = render(<Choosing room={900} />, { wrapper: App });
  expect(shown()).not.toContain("Energy");
  await user.click(screen.getByRole("button", { name: "Columns" }));
  await user.click(await screen.findByRole("checkbox", { name: "Year" }));
  expect(shown().at(-1)).toBe("Year");
  expect(document.activeElement).toBe(screen.getByRole("checkbox", { name: "Year" }));
  await user.keyboard(" ");
  expect(shown()).not.toContain("Year");
  expect(document.activeElement).toBe(screen.getByRole("checkbox", { name: "Year" }));
  rerender(<Choosing room={3000} />);
  expect(shown()).toContain("Energy");
});
