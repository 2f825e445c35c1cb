import { expect, test } from "vitest";
import { changed } from "./screen";

const screen = (pixels: number, shade: number) => new Uint8ClampedArray(pixels * 4).fill(shade);

test("a screen that stays, stays", () =>
  expect(changed(screen(100, 200), screen(100, 210))).toBe(0));
test("one pixel in a hundred", () => {
  const now = screen(100, 200);
  now[41] = 20;
  expect(changed(screen(100, 200), now)).toBe(0.01);
});
