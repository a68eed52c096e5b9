import { expect, test } from "vitest";
import { mayBeDone, OnceKeys } from "./once";
import { Problem } from "./problem";

test("what had no answer is sent with the same key, something else with another", () => {
  const keys = new OnceKeys();
  const first = keys.of({ amount: 100 });
  expect(keys.of({ amount: 100 })).toBe(first);
  expect(keys.of({ amount: 200 })).not.toBe(first);
  expect(keys.of({ amount: 100 })).toBe(first);
});

test("after an answer the same once more is another one", () => {
  const keys = new OnceKeys();
  const first = keys.of({ amount: 100 });
  keys.answered({ amount: 100 });
  expect(keys.of({ amount: 100 })).not.toBe(first);
});

test("only a refusal says that nothing was done", () => {
  for (const status of [0, 500, 502, 503, 504])
    expect(mayBeDone(new Problem(status, "", ""))).toBe(true);
  for (const status of [400, 401, 403, 404, 409, 422, 429])
    expect(mayBeDone(new Problem(status, "", ""))).toBe(false);
  expect(mayBeDone(new TypeError())).toBe(true);
});
