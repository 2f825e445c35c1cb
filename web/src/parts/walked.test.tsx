// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";
import { step, useWalked } from "./walked";

function List({ names }: { names: string[] }) {
  const walked = useWalked(names);
  return (
    <ul {...walked.list}>
      {names.map((name) => (
        <li key={name} {...walked.item(name)}>
          {name}
          <button type="button" tabIndex={walked.inner(name)}>
            {`take ${name}`}
          </button>
        </li>
      ))}
    </ul>
  );
}
/** What Tab stops at. */
const stops = () =>
  [...document.querySelectorAll<HTMLElement>("li, button")]
    .filter((one) => one.tabIndex >= 0)
    .map((one) => one.textContent);
const item = (name: string) => screen.getByText(name, { selector: "li" });
const press = (key: string) => fireEvent.keyDown(document.activeElement!, { key });

afterEach(cleanup);

it("stops at the first item, then at the one that was walked to, and at what is in it", () => {
  render(<List names={["a", "b", "c"]} />);
  expect(stops()).toEqual(["atake a", "take a"]);
  item("a").focus();
  press("ArrowDown");
  expect(document.activeElement).toBe(item("b"));
  expect(stops()).toEqual(["btake b", "take b"]);
  press("ArrowDown");
  press("ArrowDown"); // at the end one stays
  expect(document.activeElement).toBe(item("c"));
  press("ArrowUp");
  expect(document.activeElement).toBe(item("b"));
});

it("is not walked from within an item, where arrows may mean something else", () => {
  render(<List names={["a", "b"]} />);
  screen.getByText("take a").focus();
  press("ArrowDown");
  expect(document.activeElement).toBe(screen.getByText("take a"));
});

it("keeps a stop when the item one was at is gone", () => {
  const { rerender } = render(<List names={["a", "b", "c"]} />);
  item("b").focus();
  step(item("b"), 1);
  expect(document.activeElement).toBe(item("c"));
  rerender(<List names={["a", "b"]} />);
  expect(stops()).toEqual(["atake a", "take a"]);
});
