// @vitest-environment happy-dom
import { fireEvent } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { areKeysHeld, giveKeys, holdKeys } from "./heldKeys";

// What browsers do, and this one does not: the text goes to where the cursor is.
document.execCommand = (_, __, text) => {
  (document.activeElement as HTMLInputElement).value += text ?? "";
  return true;
};

beforeEach(() => {
  vi.useFakeTimers();
});

afterEach(() => {
  fireEvent.pointerDown(window);
  document.body.replaceChildren();
  vi.useRealTimers();
});

function type(keys: string[], options: Partial<KeyboardEventInit> = {}) {
  for (const key of keys)
    fireEvent.keyDown(document.activeElement ?? document.body, { key, ...options });
}

function addField(id = "") {
  const field = document.createElement("input");
  field.id = id;
  document.body.append(field);
  field.focus();
  vi.advanceTimersByTime(1);
  return field;
}

test("what is typed before the field is there is typed into it, and Enter after it", () => {
  const entered = vi.fn();
  document.body.addEventListener("keydown", entered);
  holdKeys();
  type([..."soil 2400", "Backspace", "Enter"]);
  expect(entered).not.toHaveBeenCalled();
  const field = addField();
  expect(field.value).toBe("soil 240");
  expect(areKeysHeld()).toBe(false);
  vi.advanceTimersByTime(1);
  expect(entered.mock.calls.map(([event]) => (event as KeyboardEvent).key)).toEqual(["Enter"]);
  document.body.removeEventListener("keydown", entered);
});

test("Enter submits the form that the field is in", () => {
  const submit = vi.fn((event: Event) => event.preventDefault());
  holdKeys();
  type(["7", "Enter"]);
  const form = document.createElement("form");
  form.addEventListener("submit", submit);
  const field = document.createElement("input");
  form.append(field);
  document.body.append(form);
  field.focus();
  vi.advanceTimersByTime(2);
  expect(submit).toHaveBeenCalledOnce();
});

test("a key that is held down ends at what a field takes", () => {
  holdKeys();
  type(Array.from({ length: 300 }, () => "x"));
  expect(addField().value).toBe("x".repeat(200));
});

test("only the field that is meant takes it", () => {
  holdKeys("words");
  type(["a"]);
  expect(addField("other").value).toBe("");
  expect(areKeysHeld()).toBe(true);
  expect(addField("words").value).toBe("a");
});

test("keys with Ctrl, Alt or Cmd are left to the browser", () => {
  holdKeys();
  const left = vi.fn();
  window.addEventListener("keydown", left);
  type(["k"], { ctrlKey: true });
  type(["k"], { metaKey: true });
  type(["k"], { altKey: true });
  expect(left).toHaveBeenCalledTimes(3);
  expect(addField().value).toBe("");
  window.removeEventListener("keydown", left);
});

test("Escape, Tab, a press elsewhere and ten seconds end it", () => {
  const ways: (() => void)[] = [
    () => type(["Escape"]),
    () => type(["Tab"]),
    () => fireEvent.pointerDown(window),
    () => vi.advanceTimersByTime(10_000),
  ];
  for (const end of ways) {
    holdKeys();
    type(["a"]);
    end();
    expect(areKeysHeld()).toBe(false);
    expect(addField().value).toBe("");
  }
});

test("a field that has the focus already is given what was typed when it is said", () => {
  const field = addField("there");
  holdKeys("there");
  type(["x"]);
  giveKeys();
  expect(field.value).toBe("x");
});

test("an Enter that was held down when it opened is none", () => {
  holdKeys();
  type(["Enter"], { repeat: true });
  const entered = vi.fn();
  document.body.addEventListener("keydown", entered);
  addField();
  vi.advanceTimersByTime(2);
  expect(entered).not.toHaveBeenCalled();
});
