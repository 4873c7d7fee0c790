// @vitest-environment jsdom
/** A line of a rule as it is typed: Enter takes what is written out, or what it can be, or its words. */
import { serve } from "../../../testing-server";
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import { App } from "../../../testing";
import { LineInput } from "./line-input";

afterEach(cleanup);

const over = { kind: "between", field: "energy", low: 60, high: null };
const just = { kind: "between", field: "energy", low: 60, high: 60 };
const both = { kind: "all", parts: [over, { kind: "tagged", tag_id: 3 }] };

async function typed(text: string, limits: object[]) {
  serve({ "POST /api/limits": limits });
  const [onDone, onTry, onLeave] = [vi.fn(), vi.fn(), vi.fn()];
  render(
    <App>
      <LineInput onDone={onDone} onTry={onTry} onLeave={onLeave} />
    </App>,
  );
  const user = userEvent.setup();
  await user.type(screen.getByLabelText("A line of the rule"), text);
  return { user, onDone, onTry, onLeave };
}

const taken = (onDone: ReturnType<typeof vi.fn>) => vi.waitFor(() => expect(onDone).toHaveBeenCalledOnce());

test("what is written out is meant, though another comes first", async () => {
  const { user, onDone } = await typed("energy over 60", [
    { words: "energy 60", where: just, rest: "" },
    { words: "energy over 60", where: over, rest: "" },
  ]);
  await user.keyboard("{Enter}");
  await taken(onDone);
  expect(onDone).toHaveBeenCalledWith(over);
});

test("sentences with commas between them are taken together", async () => {
  const { user, onDone } = await typed("energy over 60, tag vocal", [
    { words: "energy over 60, tag Vocal", where: both, rest: "" },
    { words: "tag Vocal", where: both.parts[1], rest: "energy over 60," },
  ]);
  expect(await screen.findAllByRole("option")).toHaveLength(2);
  await user.keyboard("{Enter}");
  await taken(onDone);
  expect(onDone).toHaveBeenCalledWith(both);
});

test("what is no sentence is looked for as words, and is tried before it is taken", async () => {
  const { user, onDone, onTry } = await typed("velvet harbour", []);
  const words = { kind: "words", text: "velvet harbour" };
  await vi.waitFor(() => expect(onTry).toHaveBeenLastCalledWith(words));
  await user.keyboard("{Enter}");
  await taken(onDone);
  expect(onDone).toHaveBeenCalledWith(words);
});

test("a sentence that is only begun goes on when it is chosen, and Escape leaves it", async () => {
  const { user, onDone, onLeave } = await typed("ener", [{ words: "energy ", where: null, rest: "" }]);
  await user.click(await screen.findByText("energy"));
  expect(screen.getByLabelText<HTMLInputElement>("A line of the rule").value).toBe("energy ");
  expect(onDone).not.toHaveBeenCalled();
  await user.keyboard("{Escape}");
  expect(onLeave).toHaveBeenCalled();
});
