/** How the order of a rule is said. */
import { expect, test } from "vitest";
import { told } from "./rule-foot";

const down = (sort: string) => told([{ sort, descending: true }] as Parameters<typeof told>[0]);

test("an order says what comes first by what it goes by", () => {
  expect(down("added_at")).toMatch(/, newest first$/);
  expect(down("last_played")).toMatch(/, newest first$/);
  expect(down("duration_s")).toMatch(/, longest first$/);
  expect(down("title")).toBe("title, from Z to A");
  expect(down("bpm")).toMatch(/, highest first$/);
  expect(told([])).toBe("");
});
