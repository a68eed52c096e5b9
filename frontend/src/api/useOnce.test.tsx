// @vitest-environment happy-dom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import { useOnce } from "./once";
import { Problem } from "./problem";

afterEach(cleanup);

const sent: { amount: number; key: string }[] = [];

/** A desk that posts sums; each answer is what the test has laid ready. */
function Desk({ answers }: { answers: (() => Promise<string>)[] }) {
  const post = useOnce((amount: number, header) => {
    sent.push({ amount, key: header["Idempotency-Key"] });
    return answers[sent.length - 1]?.() ?? Promise.resolve("posted");
  });
  return (
    <>
      {[100, 200].map((amount) => (
        <button key={amount} type="button" onClick={() => post.mutate(amount)}>
          Post {amount}
        </button>
      ))}
      <p role="status">{post.data ?? post.error?.message}</p>
      <p>{post.error instanceof Problem ? post.error.detail : ""}</p>
    </>
  );
}

function show(...answers: (() => Promise<string>)[]) {
  sent.length = 0;
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Desk answers={answers} />
    </QueryClientProvider>,
  );
}

const press = (amount: number) => userEvent.click(screen.getByText(`Post ${amount}`));
const told = (text: string) =>
  vi.waitFor(() => expect(screen.getByRole("status").textContent).toBe(text));
const lose = (status: number) => () => Promise.reject(new Problem(status, "No answer", ""));

test("a press after a lost answer carries the same key, and says that it is safe", async () => {
  for (const status of [0, 502]) {
    show(lose(status));
    await press(100);
    await told("No answer");
    expect(screen.getByText(/Press again: it is done once/)).toBeDefined();
    await press(100);
    await told("posted");
    expect(sent[1]).toEqual(sent[0]);
    cleanup();
  }
});

test("another sum, or the same once more after an answer, has a key of its own", async () => {
  show();
  await press(100);
  await told("posted");
  await press(200);
  await press(100);
  await vi.waitFor(() => expect(sent).toHaveLength(3));
  expect(new Set(sent.map(({ key }) => key)).size).toBe(3);
});

test("after a refusal nothing was done: the next press is another one", async () => {
  show(() => Promise.reject(new Problem(422, "Not so", "Type a sum.")));
  await press(100);
  await told("Not so");
  await press(100);
  await told("posted");
  expect(sent[1]?.key).not.toBe(sent[0]?.key);
});
