import { beforeEach, expect, it, vi } from "vitest";

/** What the library of tus is asked to do; a test says how it goes. */
interface Sending {
  file: File;
  given: {
    onProgress: (sent: number, whole: number) => void;
    onSuccess: () => void;
    onError: (error: Error) => void;
    onShouldRetry: (error: object) => boolean;
  };
  url: string;
  started: number;
  aborted: (boolean | undefined)[];
}
const begun = vi.hoisted(() => [] as Sending[]);
vi.mock("tus-js-client", () => ({
  Upload: class implements Sending {
    url = `/api/uploads/id-${begun.length + 1}`;
    started = 0;
    aborted: (boolean | undefined)[] = [];
    constructor(
      public file: File,
      public given: Sending["given"],
    ) {
      begun.push(this);
    }
    findPreviousUploads = () => Promise.resolve([]);
    start() {
      this.started++;
    }
    abort(drop?: boolean) {
      this.aborted.push(drop);
      return Promise.resolve();
    }
  },
}));
vi.mock("../api/client", () => ({
  csrfToken: () => "",
  client: { GET: () => Promise.resolve({ data: { form: "media" } }) },
}));

const { LARGEST, Uploads } = await import("./uploads");
const file = (name: string, size = 10) => new File([new Uint8Array(size)], name);
let uploads: InstanceType<typeof Uploads>;
const states = () => uploads.state.all.map((one) => one.state);

beforeEach(() => {
  begun.length = 0;
  uploads = new Uploads();
});

it("sends two at a time and the next when one is through", async () => {
  uploads.add([file("a.wav"), file("b.wav"), file("c.wav")]);
  expect(states()).toEqual(["sending", "sending", "waiting"]);
  begun[0]!.given.onProgress(999, 1000);
  expect(uploads.state.all[0]).toMatchObject({ percent: 99, id: null });
  begun[0]!.given.onSuccess();
  expect(states()).toEqual(["arrived", "sending", "sending"]);
  await vi.waitUntil(() => uploads.state.all[0]!.about);
  expect(uploads.state.all[0]).toMatchObject({
    percent: 100,
    id: "id-1",
    about: { form: "media" },
  });
});

it("refuses at once what is empty or too large, and sends nothing of it", () => {
  const large = file("large.wav");
  Object.defineProperty(large, "size", { value: LARGEST + 1 });
  uploads.add([file("empty.wav", 0), large]);
  expect(states()).toEqual(["failed", "failed"]);
  expect(new Set(uploads.state.all.map((one) => one.error)).size).toBe(2);
  expect(begun).toEqual([]);
});

it("pauses one, lets another go first, and goes on where it was", async () => {
  uploads.add([file("a.wav"), file("b.wav"), file("c.wav")]);
  await vi.waitUntil(() => begun[0]!.started);
  uploads.pause(1);
  expect(states()).toEqual(["paused", "sending", "sending"]);
  uploads.resume(1);
  expect(states()).toEqual(["waiting", "sending", "sending"]);
  begun[1]!.given.onSuccess();
  expect([states()[0], begun.length, begun[0]!.started]).toEqual(["sending", 3, 2]);
});

it("tries again where the connection was lost, and not where the server says no", () => {
  uploads.add([file("a.wav")]);
  const { onShouldRetry, onError } = begun[0]!.given;
  const answer = (status: number) => ({ originalResponse: { getStatus: () => status } });
  expect(onShouldRetry({})).toBe(true);
  expect(uploads.state.all[0]).toMatchObject({
    state: "sending",
    error: expect.any(String) as string,
  });
  expect([503, 507, 413].map((status) => onShouldRetry(answer(status)))).toEqual([
    true,
    false,
    false,
  ]);
  onError(
    Object.assign(new Error("no"), {
      originalResponse: { getBody: () => JSON.stringify({ detail: "The disk is full." }) },
    }),
  );
  expect(uploads.state.all[0]).toMatchObject({ state: "failed", error: "The disk is full." });
});

it("keeps what is said of a file, and gives up what was dropped but not what was taken", () => {
  uploads.add([file("2026-10-05 09.30 Morning round.wav"), file("b.wav")]);
  expect(uploads.state.all[0]!.said.title).toBe("Morning round");
  uploads.say(1, { people: ["Idris Quaye"] });
  uploads.say(1, { series: "Rounds" });
  expect(uploads.state.all[0]!.said).toMatchObject({ people: ["Idris Quaye"], series: "Rounds" });
  uploads.drop(1, true);
  uploads.drop(2);
  expect(uploads.state.all).toEqual([]);
  expect(begun.map((one) => one.aborted)).toEqual([[], [true]]);
});
