// @vitest-environment happy-dom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { MemoryRouter, useLocation } from "react-router";
import { afterEach, expect, it, vi } from "vitest";

let me: Record<string, unknown> = {};
const sent: [string, unknown][] = [];
vi.stubGlobal("fetch", async (request: Request) => {
  const path = new URL(request.url).pathname;
  if (request.method !== "GET") {
    const body = (await request.json()) as Record<string, unknown>;
    sent.push([path, body]);
    if (path === "/api/me/first-steps")
      me = { ...me, first_steps: body.done, settled_in: body.settled_in };
  }
  const answer = path === "/api/meetings/sample" ? { id: "s" } : me;
  return new Response(JSON.stringify(answer), {
    status: path === "/api/meetings/sample" ? 201 : 200,
    headers: { "Content-Type": "application/json" },
  });
});
const { FirstSteps } = await import("./first");

let where = "";
function Where() {
  const { pathname, search } = useLocation();
  where = pathname + search;
  return null;
}
async function show(can: string[], done: string[] = []) {
  me = { can, first_steps: done, settled_in: false };
  render(
    <QueryClientProvider client={new QueryClient()}>
      <MemoryRouter initialEntries={["/first-steps"]}>
        <Where />
        <FirstSteps />
      </MemoryRouter>
    </QueryClientProvider>,
  );
  await screen.findByRole("heading", { name: "First steps" });
}

afterEach(() => {
  cleanup();
  sent.length = 0;
});

it("shows those steps that somebody may take, and which are done", async () => {
  await show(["add"], ["read"]);
  expect(screen.getAllByRole("heading", { level: 2 }).map((one) => one.textContent)).toEqual([
    "Read a meeting",
    "Ask it something",
    "Try your microphone",
    "See who sees what",
  ]);
  const box = (name: string) => screen.getByRole<HTMLInputElement>("checkbox", { name });
  expect(box("Read a meeting: done").checked).toBe(true);
  expect(box("Ask it something: done").checked).toBe(false);
});

it("goes to the sample, made when it is first wanted, and keeps that the step was taken", async () => {
  await show(["add", "arrange"], ["words"]);
  fireEvent.click(screen.getByRole("button", { name: "Ask the sample" }));
  await vi.waitUntil(() => where === "/meetings/s?leaf=ask");
  expect(sent).toContainEqual([
    "/api/me/first-steps",
    { done: ["words", "ask"], settled_in: false },
  ]);
  expect(sent.find(([path]) => path === "/api/meetings/sample")?.[1]).toMatchObject({
    title: "A sample: what happened on the frost night",
  });
});

it("can be undone, and be put away", async () => {
  await show(["add", "arrange"], ["read"]);
  const read = screen.getByRole<HTMLInputElement>("checkbox", { name: "Read a meeting: done" });
  fireEvent.click(read);
  await vi.waitUntil(() => !read.checked); // before the server has answered
  fireEvent.click(screen.getByRole("checkbox", { name: /know my way/ }));
  await vi.waitUntil(() => sent.length === 2);
  expect(sent.map(([, body]) => body)).toEqual([
    { done: [], settled_in: false },
    { done: [], settled_in: true },
  ]);
});
