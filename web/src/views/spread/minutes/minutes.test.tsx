// @vitest-environment happy-dom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, within } from "@testing-library/react";
import { Toast } from "radix-ui";
import { MemoryRouter } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../../api/client";
import { Sayings } from "../../../parts/sayings";
import { SpreadContext, type Shared } from "../context";
import { gather } from "../record/lines";

const sent: [string, string, unknown][] = [];
vi.stubGlobal("fetch", async (request: Request) => {
  const body = request.method === "GET" ? null : await request.text();
  sent.push([request.method, new URL(request.url).pathname, body ? JSON.parse(body) : null]);
  // Of all that is asked for beside the minutes there is nothing.
  const nothing = request.url.endsWith("/notes")
    ? { notes: [], marks: [], kinds: [] }
    : request.url.endsWith("/choices")
      ? { people: ["Ana Ruiz", "Idris Quaye"], series: [] }
      : [];
  return new Response(JSON.stringify(nothing), {
    status: 200,
    headers: { "Content-Type": "application/json" },
  });
});
const { MinutesPage } = await import("./minutes");

const row = (id: number, more: Partial<Schemas["MinutesLineOut"]> = {}) => ({
  id,
  section: "decisions",
  text: `Line ${id}`,
  hand: null,
  hand_name: null,
  confirmed: null,
  lines: [id],
  start: id * 10,
  finding: null,
  otherwise: null,
  removed: false,
  ...more,
});
const action = (id: number, more: Partial<Schemas["FindingOut"]> = {}) => ({
  id,
  kind: "action" as const,
  text: `Line ${id}`,
  written: "rules" as const,
  status: "standing" as const,
  confidence: 1,
  owner: "Idris Quaye",
  due: "2026-03-06",
  done: false,
  start: 10,
  lines: [1],
  earlier: [],
  ...more,
});
const minutes = (more: Partial<Schemas["MinutesOut"]> = {}): Schemas["MinutesOut"] => ({
  changed: null,
  template: "plain",
  chosen: false,
  sections: [
    { key: "decisions", heading: "Decisions", actions: false },
    { key: "questions", heading: "Open questions", actions: false },
  ],
  lines: [row(1), row(2, { hand: "IQ", hand_name: "Idris Quaye" }), row(3, { removed: true })],
  proposed: [],
  findings: [],
  chapters: [{ title: "Locks", turn: 1, start: 0 }],
  topics: [],
  ...more,
});
const meeting = (can: string[], state = "ready") =>
  ({
    id: "m",
    title: "Locks",
    language: "en",
    people: [
      { id: 1, name: "Idris Quaye" },
      { id: 2, name: "Yuki Hanamori" },
    ],
    can,
    work: { state },
  }) as unknown as Shared["meeting"];
const pointed = {
  at: { minutes: [], lines: [] },
  cited: new Set<number>(),
  litLines: new Set<number>(),
  litRows: new Set([2]),
  show: null,
  line: vi.fn(),
  row: vi.fn(),
};
const hear = vi.fn();
const go = vi.fn();

function show(of: Shared["meeting"], what: Schemas["MinutesOut"]) {
  const shared = { meeting: of, player: null, lines: gather([]), hear, go } as unknown as Shared;
  render(
    <QueryClientProvider
      client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}
    >
      <Toast.Provider>
        <Sayings>
          <MemoryRouter>
            <SpreadContext value={shared}>
              <MinutesPage minutes={what} pointed={pointed} />
            </SpreadContext>
          </MemoryRouter>
        </Sayings>
      </Toast.Provider>
    </QueryClientProvider>,
  );
}
const section = (name: string) => within(screen.getByRole("region", { name }));
const menu = async (line: string, what: string) => {
  fireEvent.keyDown(screen.getByRole("button", { name: `Do something with “${line}”` }), {
    key: "Enter",
  });
  fireEvent.click(await screen.findByRole("menuitem", { name: what }));
};

beforeEach(() => {
  sent.length = 0;
  localStorage.clear();
});
afterEach(cleanup);

describe("the minutes", () => {
  it("show what stands, whose hand it is in, and nothing that was taken out", () => {
    show(meeting(["change"]), minutes());
    const lines = section("Decisions").getAllByRole("listitem");
    expect(lines.map((one) => one.textContent?.replace(/[⋯\s]+$/, ""))).toEqual([
      "Line 10:10",
      "IQLine 20:20",
    ]);
    expect(screen.getByTitle("In Idris Quaye's hand")).toBeTruthy();
    expect(lines[1]!.className).toContain("bg-glow");
  });

  it("do not say that nothing was settled while the record is still being read", () => {
    show(meeting(["change"], "working"), minutes());
    expect(section("Open questions").getByText("The record is still being read.")).toBeTruthy();
    cleanup();
    show(meeting(["change"]), minutes());
    expect(section("Open questions").getByText("Nothing stayed open.")).toBeTruthy();
  });

  it("are read by those who may not change them, and offer them nothing", () => {
    show(meeting([]), minutes({ changed: { since: 1, worded: false, lines: 2 } }));
    expect(screen.queryByRole("button", { name: /^Do something/ })).toBeNull();
    expect(screen.queryByRole("button", { name: "Write a line" })).toBeNull();
    expect(screen.getByRole("button", { name: "Look" })).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Accept" })).toBeNull();
  });

  it("are heard by a time or by Enter, and chapters turned to", () => {
    show(meeting(["change"]), minutes());
    fireEvent.click(screen.getByRole("button", { name: "Hear it at 0:10" }));
    expect(hear).toHaveBeenLastCalledWith(1, 10);
    fireEvent.keyDown(section("Decisions").getAllByRole("listitem")[1]!, { key: "Enter" });
    expect(hear).toHaveBeenLastCalledWith(2, 20);
    fireEvent.click(screen.getByRole("button", { name: /Locks/ }));
    expect(go).toHaveBeenCalledWith(0);
  });

  it("are corrected with what stood there before, so that nobody's change is overwritten unseen", async () => {
    show(meeting(["change"]), minutes());
    await menu("Line 1", "Correct");
    const field = section("Decisions").getByRole("textbox");
    fireEvent.change(field, { target: { value: "Two locks." } });
    fireEvent.keyDown(field, { key: "Enter" });
    await vi.waitUntil(() => sent.some(([method]) => method === "PATCH"));
    expect(sent.find(([method]) => method === "PATCH")).toEqual([
      "PATCH",
      "/api/minutes/lines/1",
      { position: 0, text: "Two locks.", before: "Line 1" },
    ]);
  });

  const patched = async () => {
    await vi.waitUntil(() => sent.some(([method]) => method === "PATCH"));
    return sent.filter(([method]) => method === "PATCH");
  };

  it("give an action to another person and day, and take that back", async () => {
    const sections = [{ key: "actions", heading: "Actions", actions: true }];
    const lines = [row(1, { section: "actions", finding: action(7) })];
    show(meeting(["change"]), minutes({ sections, lines }));
    fireEvent.click(screen.getByRole("button", { name: /^Whose it is and by when: Idris Quaye/ }));
    const whose = await screen.findByLabelText("Whose");
    // Those who were there first, then the rest of the workspace; nobody twice.
    await screen.findByRole("option", { name: "Ana Ruiz" });
    expect(
      within(whose)
        .getAllByRole("option")
        .map((one) => one.textContent),
    ).toEqual(["nobody", "Idris Quaye", "Yuki Hanamori", "Ana Ruiz"]);
    fireEvent.change(whose, { target: { value: "Yuki Hanamori" } });
    fireEvent.change(screen.getByLabelText("By when"), { target: { value: "2026-03-09" } });
    fireEvent.click(screen.getByRole("button", { name: "Keep" }));
    const path = "/api/minutes/findings/7";
    const owner = { was: "Idris Quaye", now: "Yuki Hanamori" };
    const due = { was: "2026-03-06", now: "2026-03-09" };
    expect(await patched()).toEqual([["PATCH", path, { owner, due }]]);
    sent.length = 0;
    fireEvent.click(await screen.findByRole("button", { name: "Put it back" }));
    expect(await patched()).toEqual([
      [
        "PATCH",
        path,
        { owner: { was: owner.now, now: owner.was }, due: { was: due.now, now: due.was } },
      ],
    ]);
  });

  it("say where an action's sentence names another day, and take it from there", async () => {
    const sections = [{ key: "actions", heading: "Actions", actions: true }];
    const otherwise = { owner: null, due: "2026-03-12" };
    const lines = [row(1, { section: "actions", finding: action(7), otherwise })];
    show(meeting(["change"]), minutes({ sections, lines }));
    expect(screen.getByText(/^The sentence says/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Take that" }));
    expect(await patched()).toEqual([
      ["PATCH", "/api/minutes/findings/7", { due: { was: "2026-03-06", now: "2026-03-12" } }],
    ]);
  });

  it("are put in another order with Alt and an arrow, and never beyond the ends", async () => {
    show(meeting(["change"]), minutes({ lines: [row(1), row(2), row(3)] }));
    const lines = section("Decisions").getAllByRole("listitem");
    fireEvent.keyDown(lines[0]!, { key: "ArrowUp", altKey: true });
    fireEvent.keyDown(lines[0]!, { key: "ArrowDown", altKey: true });
    expect(await patched()).toEqual([
      ["PATCH", "/api/minutes/lines/1", { section: "decisions", position: 1 }],
    ]);
  });

  it("end in an index: terms in the order of the alphabet, each with the times it comes up", () => {
    const topics = [
      { text: "putty", count: 4, times: [62, 75.5] },
      { text: "linseed", count: 2, times: [5, 30] },
    ];
    show(meeting([]), minutes({ topics }));
    const index = section("Index of what keeps coming up");
    expect(index.getAllByRole("listitem").map((one) => one.textContent)).toEqual([
      "linseed0:050:30",
      "putty1:021:15 …",
    ]);
    fireEvent.click(index.getByRole("button", { name: "putty at 1:15" }));
    expect(go).toHaveBeenLastCalledWith(75.5);
  });

  it("are told what a correction changed, and take it with one press", async () => {
    show(meeting(["change"]), minutes({ changed: { since: 4, worded: false, lines: 1 } }));
    expect(
      screen.getByText("1 line of the minutes changed when the record was put right."),
    ).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Accept" }));
    await vi.waitUntil(() => sent.some(([, path]) => path === "/api/meetings/m/minutes/accept"));
  });

  it("tell how far the wording is, and go back to how they read before it", async () => {
    const worded = {
      ...meeting(["change"]),
      behind: { state: "working", percent: 40, left: 95, words: "", stage: "word", message: "" },
    } as Shared["meeting"];
    show(worded, minutes({ changed: { since: 4, worded: true, lines: 3 } }));
    expect(screen.getByText(/Being worded anew: 40 %/)).toBeTruthy();
    expect(screen.getByText("3 lines worded anew.")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "As before" }));
    await vi.waitUntil(() =>
      sent.some(([, path]) => path === "/api/meetings/m/minutes/versions/4/restore"),
    );
  });
});
