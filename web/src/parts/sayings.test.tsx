// @vitest-environment happy-dom
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { Toast } from "radix-ui";
import { afterEach, expect, it, vi } from "vitest";
import { Leaf } from "./leaf";
import { Sayings, useSay } from "./sayings";

let say!: ReturnType<typeof useSay>;
function Page() {
  say = useSay();
  return null;
}
const show = () =>
  render(
    <Toast.Provider>
      <Sayings>
        <Page />
      </Sayings>
    </Toast.Provider>,
  );

afterEach(cleanup);

it("says one thing at a time, the newest", () => {
  show();
  act(() => say("Line removed."));
  act(() => say("Kept."));
  expect(screen.queryByText("Line removed.")).toBeNull();
  expect(screen.getByText("Kept.")).toBeTruthy();
});

it("offers the way back by its name, once", () => {
  show();
  const back = vi.fn();
  act(() => say("Line removed.", back));
  fireEvent.click(screen.getByText("Put it back"));
  expect(back).toHaveBeenCalledOnce();
  act(() => say("Marked.", back, "Take the mark off"));
  expect(screen.getByText("Take the mark off")).toBeTruthy();
});

it("does not keep Escape from a leaf that was there before it", () => {
  const close = vi.fn();
  render(
    <Toast.Provider>
      <Sayings>
        <Page />
        <Leaf title="Reminders" close={close}>
          <button type="button">Keep</button>
        </Leaf>
      </Sayings>
    </Toast.Provider>,
  );
  act(() => say("Ticked."));
  fireEvent.keyDown(screen.getByText("Keep"), { key: "Escape" });
  expect(close).toHaveBeenCalled();
});
