// @vitest-environment happy-dom
import { afterEach, expect, it, vi } from "vitest";
import type { Problem as Wrong } from "./client";

type Fetch = (request: Request | string, given?: RequestInit) => Promise<Response>;
let network: Fetch;
// The client keeps the function that it finds when it is made.
vi.stubGlobal("fetch", (...given: Parameters<Fetch>) => network(...given));
const { client, csrfToken, failed, Problem, the } = await import("./client");
const { setPassword, signIn } = await import("./session");

const asked: Request[] = [];
const answer = (status: number, body?: unknown) => {
  network = (request, given) => {
    asked.push(
      typeof request === "string" ? new Request(`http://localhost${request}`, given) : request,
    );
    const text = typeof body === "string" ? body : JSON.stringify(body ?? {});
    return Promise.resolve(
      new Response(status === 204 ? null : text, {
        status,
        headers: { "Content-Type": "application/json" },
      }),
    );
  };
};
const problem = async (failing: Promise<unknown>) => failing.then(null, (error: Wrong) => error);

afterEach(() => {
  asked.length = 0;
});

it("hands on what the server says is wrong, with its facts", async () => {
  answer(409, { detail: "Somebody was quicker.", text: "theirs" });
  const error = await problem(the(client.GET("/api/me")));
  expect(error).toBeInstanceOf(Problem);
  expect(error).toMatchObject({
    status: 409,
    message: "Somebody was quicker.",
    facts: { text: "theirs" },
  });
});

it("says in its own words when nothing answers, or something that is no problem document", async () => {
  network = () => Promise.reject(new TypeError("no network"));
  expect(await problem(the(client.GET("/api/me")))).toMatchObject({ status: 0 });
  answer(502, "<html>bad gateway</html>");
  const error = await problem(the(client.GET("/api/me")));
  expect([(error as Wrong).status, (error as Wrong).message.includes("html")]).toEqual([
    502,
    false,
  ]);
});

it("sends the token with whatever changes something, and not with what only asks", async () => {
  document.cookie = "csrftoken=abc123";
  expect(csrfToken()).toBe("abc123");
  answer(200, {});
  await the(client.GET("/api/me"));
  await the(client.PATCH("/api/me", { body: { name: "Maren" } }));
  expect(asked.map((one) => one.headers.get("X-CSRFToken"))).toEqual([null, "abc123"]);
});

it("tells a wrong password from too many tries, and does not repeat the library's words", async () => {
  answer(400, { errors: [{ code: "email_password_mismatch", message: "library words" }] });
  const wrong = await problem(signIn("a@b.example", "x"));
  answer(429);
  const slow = await problem(signIn("a@b.example", "x"));
  expect((wrong as Wrong).message).not.toContain("library words");
  expect((wrong as Wrong).message).not.toBe((slow as Wrong).message);
  answer(400, { errors: [{ code: "password_too_short", message: "Too short." }] });
  expect(await problem(setPassword("key", "x"))).toMatchObject({ message: "Too short." });
  answer(401); // set, and one has yet to sign in
  expect(await setPassword("key", "long enough for this")).toBeUndefined();
});

it("takes away what is on the page when it is refused, not when nothing answers", () => {
  const [away, broken, refused] = [0, 502, 404].map((status) => new Problem(status, "no"));
  const there = { words: "written" };
  expect(
    [away, broken, refused, null].map((error) => failed({ data: there, error: error ?? null })),
  ).toEqual([false, false, true, false]);
  expect(failed({ data: undefined, error: away ?? null })).toBe(true);
});
