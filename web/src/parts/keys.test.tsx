// @vitest-environment happy-dom
import { fireEvent, render, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { useKeys } from "./keys";

const space = vi.fn();
const find = vi.fn();

function Page() {
  useKeys({ " ": space, f: find });
  return (
    <>
      <input aria-label="words" />
      <select aria-label="speed" />
      <button type="button">press</button>
      <button type="button" data-hear>
        0:14
      </button>
      <div role="dialog">
        <button type="button">inside</button>
      </div>
    </>
  );
}

const times = (key: string, at: HTMLElement, more = {}) => {
  space.mockClear();
  find.mockClear();
  fireEvent.keyDown(at, { key, ...more });
  return space.mock.calls.length + find.mock.calls.length;
};

it("does what a key says wherever the focus is, but where it is typed or belongs to something else", () => {
  render(<Page />);
  expect(times("f", document.body)).toBe(1);
  expect(times("f", screen.getByLabelText("words"))).toBe(0);
  expect(times("f", screen.getByLabelText("speed"))).toBe(0);
  expect(times("f", document.body, { ctrlKey: true })).toBe(0);
  expect(times("f", screen.getByText("inside"))).toBe(0);
  expect(times("q", document.body)).toBe(0);
});

it("leaves Space to a button that has the focus, but for one that plays", () => {
  render(<Page />);
  expect(times(" ", screen.getAllByText("press")[0]!)).toBe(0);
  expect(times(" ", screen.getAllByText("0:14")[0]!)).toBeGreaterThan(0);
});
