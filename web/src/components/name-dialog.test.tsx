// @vitest-environment jsdom
/** Dialogs under hands: nothing empty is sent, Enter and buttons do what they say, and going away does nothing. */
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import { useState } from "react";
import { ChoiceList } from "./choice-list";
import { Confirm } from "./confirm";
import { FormDialog } from "./form-dialog";
import { NameDialog } from "./name-dialog";

afterEach(cleanup);

function ask() {
  const [onDone, onClose] = [vi.fn(), vi.fn()];
  render(<NameDialog title="A new crate" label="Name" action="Make" onDone={onDone} onClose={onClose} />);
  return { onDone, onClose, user: userEvent.setup() };
}

test("a name is sent by Enter without the blanks around it, and an empty one is not", async () => {
  const { onDone, onClose, user } = ask();
  const box = screen.getByLabelText("Name");
  expect(document.activeElement).toBe(box);
  await user.type(box, "   {Enter}");
  expect(onDone).not.toHaveBeenCalled();
  expect((screen.getByText("Make") as HTMLButtonElement).disabled).toBe(true);
  await user.type(box, "Friday {Enter}");
  expect(onDone).toHaveBeenCalledExactlyOnceWith("Friday");
  expect(onClose).toHaveBeenCalledOnce();
});

test("Esc and Cancel close without doing it", async () => {
  const { onDone, onClose, user } = ask();
  await user.type(screen.getByLabelText("Name"), "Friday{Escape}");
  await user.click(screen.getByText("Cancel"));
  expect(onClose).toHaveBeenCalledTimes(2);
  expect(onDone).not.toHaveBeenCalled();
});

test("a click beside closes what is untouched, and asks first where something was typed", async () => {
  const { onClose, user } = ask();
  const beside = () => user.click(document.querySelector(".MuiDialog-container") as HTMLElement);
  await beside();
  expect(onClose).toHaveBeenCalledOnce();
  await user.type(screen.getByLabelText("Name"), "Fri");
  await beside();
  expect(onClose).toHaveBeenCalledOnce();
  screen.getByText("What you have entered here is not kept yet.");
  expect((screen.getByLabelText("Name") as HTMLInputElement).value).toBe("Fri");
  await user.type(screen.getByLabelText("Name"), "Friday");
  expect(screen.queryByText("Close without it")).toBeNull();
  await beside();
  await user.click(screen.getByText("Close without it"));
  expect(onClose).toHaveBeenCalledTimes(2);
});

test("what is destroyed is asked for once more, and can be kept", async () => {
  const [onConfirm, onClose] = [vi.fn(), vi.fn()];
  render(
    <Confirm open title="Delete the crate?" action="Delete" onConfirm={onConfirm} onClose={onClose}>
      Its tracks stay.
    </Confirm>,
  );
  const user = userEvent.setup();
  await user.click(screen.getByText("Keep it"));
  expect(onConfirm).not.toHaveBeenCalled();
  await user.keyboard("{Enter}");
  await user.click(screen.getByText("Delete"));
  expect(onConfirm).toHaveBeenCalled();
});

const TEMPLATES = ["Breaks", "Drops", "Long blend"].map((primary, id) => ({ id, primary }));

function Choosing({ onDone }: { onDone: (id: number) => void }) {
  const [chosen, setChosen] = useState(0);
  return (
    <FormDialog title="Template" action="Set" onSubmit={() => onDone(chosen)} onClose={vi.fn()}>
      <ChoiceList label="Templates" choices={TEMPLATES} chosen={chosen} onChoose={setChosen} />
    </FormDialog>
  );
}

test("in a list of which one is chosen arrows choose, Tab leaves the choice, and Enter sends what is chosen", async () => {
  const onDone = vi.fn();
  render(<Choosing onDone={onDone} />);
  const user = userEvent.setup();
  const chosen = () => screen.getByRole("option", { selected: true }).textContent;
  await user.keyboard("{ArrowDown}");
  expect(chosen()).toBe("Drops");
  await user.tab();
  expect(document.activeElement?.textContent).toBe("Cancel");
  expect(chosen()).toBe("Drops");
  await user.tab({ shift: true });
  await user.keyboard("{Enter}");
  expect(onDone).toHaveBeenCalledExactlyOnceWith(1);
});
