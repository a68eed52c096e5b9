// @vitest-environment happy-dom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../../api/client";
import { Problem } from "../../../api/problem";
import { NumberEntry } from "./NumberEntry";

type Pasted = Schemas["PastedResponse"];

afterEach(cleanup);

/** A server that answers when it is told to. */
function slowServer() {
  const asked: {
    text: string;
    answer: (piece: string, taken: boolean) => void;
    fail: (problem: Error) => void;
  }[] = [];
  const enter = (text: string) =>
    new Promise<Pasted>((resolve, reject) => {
      asked.push({
        text,
        answer: (piece, taken) =>
          resolve({
            reports: [{ piece, taken, text: taken ? "" : "No such section.", mend: !taken }],
          } as unknown as Pasted),
        fail: reject,
      });
    });
  return { asked, enter };
}

const field = () => screen.getByRole("textbox") as HTMLInputElement;
const waiting = () => screen.queryByTestId("numbers-waiting")?.textContent ?? "";

test("numbers entered one after another leave the field at once and wait their turn", async () => {
  const { asked, enter } = slowServer();
  render(<NumberEntry enter={enter} disabled={false} />);
  await userEvent.type(field(), "30680{Enter}30281{Enter}30289");
  expect(asked.map(({ text }) => text)).toEqual(["30680", "30281"]);
  expect(field().value).toBe("30289");
  expect(waiting()).toContain("30680, 30281");
  asked[0]?.answer("30680", true);
  await vi.waitFor(() => expect(waiting()).not.toContain("30680"));
  expect(field().value).toBe("30289");
});

test("what is not taken comes back before what was typed since", async () => {
  const { asked, enter } = slowServer();
  render(<NumberEntry enter={enter} disabled={false} />);
  await userEvent.type(field(), "99999{Enter}302");
  asked[0]?.answer("99999", false);
  await vi.waitFor(() => expect(field().value).toBe("99999 302"));
  await userEvent.type(field(), "81");
  expect(field().value).toBe("99999 30281");
});

test("several that come back stand in their order, with what was typed behind them", async () => {
  const { asked, enter } = slowServer();
  render(<NumberEntry enter={enter} disabled={false} />);
  await userEvent.type(field(), "11111{Enter}22222{Enter}3");
  asked[0]?.answer("11111", false);
  await vi.waitFor(() => expect(field().value).toBe("11111 3"));
  asked[1]?.answer("22222", false);
  await vi.waitFor(() => expect(field().value).toBe("11111 22222 3"));
});

test("after a lost answer the whole entry comes back, and it is said", async () => {
  const { asked, enter } = slowServer();
  render(<NumberEntry enter={enter} disabled={false} />);
  await userEvent.type(field(), "30680 30281{Enter}");
  asked[0]?.fail(new Problem(0, "The connection is lost", "Nothing is lost."));
  await vi.waitFor(() => expect(field().value.trim()).toBe("30680 30281"));
  expect(screen.getByText(/The connection is lost/)).toBeDefined();
});

test("a column that is pasted keeps its numbers apart", async () => {
  const { enter } = slowServer();
  render(<NumberEntry enter={enter} disabled={false} />);
  await userEvent.click(field());
  await userEvent.paste("30680\n30281\t30289");
  expect(field().value).toBe("30680 30281 30289");
  expect(screen.getByRole("button").textContent).toBe("Add 3");
});

test("nothing is entered while it is closed, or of an empty field", async () => {
  const { asked, enter } = slowServer();
  const { rerender } = render(<NumberEntry enter={enter} disabled />);
  await userEvent.type(field(), "30680{Enter}");
  rerender(<NumberEntry enter={enter} disabled={false} />);
  await userEvent.clear(field());
  await userEvent.type(field(), "  {Enter}");
  expect(asked).toEqual([]);
});
