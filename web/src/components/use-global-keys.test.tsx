// @vitest-environment jsdom
/** The keys of every room: they name the step that is meant, and do nothing behind an open dialog. */
import { serve } from "../testing-server";
import { Dialog } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { MemoryRouter, useLocation } from "react-router";
import { afterEach, expect, test } from "vitest";
import { undoQuery } from "../api/queries";
import { App } from "../testing";
import { useGlobalKeys } from "./use-global-keys";

afterEach(cleanup);

const state = { undo: { id: 7, name: "Rate" }, redo: null };

function Rooms() {
  useGlobalKeys(() => undefined);
  useQuery(undoQuery);
  return <p>at {useLocation().pathname}</p>;
}

function show(dialog: boolean) {
  const asked = serve({
    "GET /api/undo": state,
    "POST /api/undo": { name: "Rate", left: [], undo: null, redo: null },
  });
  render(
    <App>
      <MemoryRouter initialEntries={["/shelf"]}>
        <Rooms />
        {dialog && <Dialog open>Something is typed here.</Dialog>}
      </MemoryRouter>
    </App>,
  );
  return { asked, user: userEvent.setup() };
}

test("undo takes back the step that is shown, and another room is a key away", async () => {
  const { asked, user } = show(false);
  await waitFor(() => expect(asked.some(({ what }) => what === "GET /api/undo")).toBe(true));
  await user.keyboard("{Control>}z{/Control}");
  await waitFor(() => expect(asked.find(({ what }) => what === "POST /api/undo")?.body).toEqual({ id: 7 }));
  await user.keyboard("{Alt>}4{/Alt}");
  await screen.findByText("at /crates");
});

test("behind a dialog none of them does anything", async () => {
  const { asked, user } = show(true);
  await user.keyboard("{Control>}z{/Control}{Alt>}4{/Alt}");
  screen.getByText("at /shelf");
  expect(asked.filter(({ what }) => what === "POST /api/undo")).toEqual([]);
});
