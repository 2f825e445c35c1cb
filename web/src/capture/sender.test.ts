import { afterEach, beforeEach, expect, it, vi } from "vitest";
import type { Letter } from "./keep";
import { send } from "./sender";

const picture: Letter = {
  kind: "picture",
  capture: "c",
  stretch: 0,
  at: 240,
  data: new ArrayBuffer(8),
};
const chunk: Letter = {
  kind: "chunk",
  capture: "c",
  stretch: 0,
  number: 3,
  channels: 1,
  data: new ArrayBuffer(8),
};
const answers = (status: number) =>
  vi.stubGlobal("fetch", () =>
    Promise.resolve(new Response(JSON.stringify({ detail: "no" }), { status })),
  );

beforeEach(() => {
  vi.stubGlobal("document", { cookie: "" });
});
afterEach(() => vi.unstubAllGlobals());

it("drops a still that the server refuses, so that no second of sound waits behind it", async () => {
  for (const status of [409, 422]) {
    answers(status);
    expect(await send(picture)).toEqual({ sent: true, gone: false, said: null });
    expect((await send(chunk)).sent).toBe(false);
  }
});

it("keeps what a server cannot take just now, and lets go of a capture that is gone", async () => {
  answers(503);
  expect(await send(chunk)).toEqual({ sent: false, gone: false, said: null });
  expect(await send(picture)).toEqual({ sent: false, gone: false, said: null });
  answers(507);
  expect((await send(chunk)).said).toBe("no");
  answers(404);
  expect((await send(chunk)).gone).toBe(true);
  vi.stubGlobal("fetch", () => Promise.reject(new TypeError("no network")));
  expect(await send(chunk)).toEqual({ sent: false, gone: false, said: null });
});
