// @vitest-environment jsdom
/** What could not be read is said, but for what shows its refusal itself. */
import { serve } from "../testing-server";
import { useQuery } from "@tanstack/react-query";
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, test } from "vitest";
import { client, unwrap } from "../api/client";
import { App } from "../testing";
import { useSayFailures } from "./use-say-failures";

afterEach(cleanup);

function Asking({ retry }: { retry: false | 0 }) {
  useSayFailures();
  const { isError } = useQuery({
    queryKey: ["asked", retry],
    queryFn: () => unwrap(client.GET("/api/crates")),
    retry,
  });
  return <>{isError && "refused"}</>;
}

test("a list that cannot be read is told of", async () => {
  serve({});
  render(<Asking retry={0} />, { wrapper: App });
  expect((await screen.findByTestId("message")).textContent).toContain("Nothing answers GET /api/crates");
});

test("what shows its own refusal is not told of twice", async () => {
  serve({});
  render(<Asking retry={false} />, { wrapper: App });
  await screen.findByText("refused");
  expect(screen.queryByTestId("message")).toBeNull();
});
