import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState, type ReactNode } from "react";
import { Link, NavLink, useLocation, useNavigate } from "react-router";
import { client, type Schemas } from "../api/client";
import { useToday } from "../api/hooks";
import { signOut } from "../api/session";
import { engine } from "../capture/engine";
import { RATE } from "../capture/keep";
import { useUploads } from "../capture/uploads";
import { useCapture } from "../capture/use";
import { language, t } from "../texts";
import { useKeys } from "./keys";
import { Menu, MenuItem } from "./menu";
import { Shortcuts } from "./shortcuts";
import { useSay } from "./sayings";
import { clock, zone } from "./time";
import { may } from "../api/rights";

function Mark() {
  return (
    <svg viewBox="0 0 26 20" width="26" height="20" aria-hidden className="text-slate">
      <path
        d="M1 2h3v6H1zM6 2h3v11H6zM11 2h3v4h-3zM16 2h3v13h-3zM21 2h3v7h-3zM0 18h26v1H0z"
        fill="currentColor"
      />
    </svg>
  );
}

const tab = ({ isActive }: { isActive: boolean }) =>
  `border-b-2 px-1 py-3 ${isActive ? "border-slate" : "border-transparent text-faded hover:text-ink"}`;

/** Says when a meeting that was being worked on can be read. */
function useReadiness() {
  // Not before the page that was gone to has what it needs.
  const [settled, setSettled] = useState(false);
  useEffect(() => {
    const later = setTimeout(() => setSettled(true), 3000);
    return () => clearTimeout(later);
  }, []);
  const { data } = useToday(settled);
  const say = useSay();
  const before = useRef(new Set<string>());
  useEffect(() => {
    if (!data) return;
    const working = new Set(
      data.working.filter((one) => one.work.state === "working").map((one) => one.id),
    );
    for (const row of data.new)
      if (before.current.has(row.id) && !working.has(row.id))
        say(t.today.ready({ title: row.title }));
    before.current = working;
  }, [data, say]);
}

/** What the program does by itself, such as what the clerk takes in, has the time of where one is; and its mail is in one's language. */
function useWhere(me: { time_zone: string; language: string }) {
  useEffect(() => {
    if (me.time_zone !== zone() || me.language !== language)
      void client
        .PUT("/api/me/where", { body: { time_zone: zone(), language } })
        .catch(() => undefined);
  }, [me.time_zone, me.language]);
}

/** A capture that goes on while one is elsewhere in the program; and one that was cut off. */
function Running() {
  const { phase, capture, samples, unfinished, sending } = useCapture();
  const files = useUploads();
  const where = useLocation();
  useEffect(() => {
    void engine.wake();
  }, []);
  if (
    capture &&
    phase !== "idle" &&
    where.pathname !== `/meetings/${capture.meeting}` &&
    where.pathname !== "/rehearsal"
  ) {
    return (
      <p role="status" className="border-t border-rule bg-wash">
        <span className="mx-auto flex max-w-[84rem] flex-wrap items-center gap-x-4 px-4 py-1 text-sm sm:px-6">
          {phase === "on" ? t.capture.on : phase === "ending" ? t.capture.ending : t.capture.off}{" "}
          {clock(samples / RATE)}
          {phase === "ending" && ` · ${t.capture.waiting({ n: sending.waiting })}`}
          <Link
            to={`/meetings/${capture.meeting}`}
            className="font-serif underline underline-offset-4"
          >
            {capture.title}
          </Link>
          {phase === "on" && (
            <button type="button" className="plain text-sm" onClick={() => void engine.pause()}>
              {t.capture.goOff}
            </button>
          )}
        </span>
      </p>
    );
  }
  const coming = files.filter((one) => one.state === "sending" || one.state === "waiting");
  if (files.length && where.pathname !== "/give")
    return (
      <p role="status" className="border-t border-rule bg-wash px-6 py-1 text-sm">
        {coming.length
          ? t.give.coming({
              n: coming.length,
              percent: Math.round(
                coming.reduce((sum, one) => sum + one.percent, 0) / coming.length,
              ),
            })
          : t.give.toSay({ n: files.length })}{" "}
        <Link to="/give" className="underline underline-offset-4">
          {t.capture.openIt}
        </Link>
      </p>
    );
  if (unfinished.length && where.pathname !== "/capture")
    return (
      <p role="alert" className="border-t border-rule bg-wash px-6 py-1 text-sm">
        {t.capture.unfinished({ title: unfinished[0]!.title })}{" "}
        <Link to="/capture" className="underline underline-offset-4">
          {t.capture.openIt}
        </Link>
      </p>
    );
  return null;
}

/** The words along the top, and everything that is one press away from everywhere. */
export function Frame({ me, children }: { me: Schemas["MeOut"]; children: ReactNode }) {
  const go = useNavigate();
  const cache = useQueryClient();
  const [help, setHelp] = useState(false);
  useReadiness();
  useWhere(me);
  useKeys({
    "?": () => setHelp(true),
    "1": () => void go("/"),
    "2": () => void go("/library"),
    "3": () => void go("/ledger"),
    c: () => void go("/capture"),
    "/": () => void go("/library?find=1"),
  });
  async function leave() {
    await signOut();
    cache.clear();
    await go("/sign-in");
  }
  return (
    <div className="flex min-h-dvh flex-col">
      <a
        href="#page"
        className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-paper focus:p-2"
      >
        {t.nav.skip}
      </a>
      <header className="sticky top-0 z-20 border-b border-rule bg-paper">
        <nav
          aria-label={t.nav.main}
          className="mx-auto flex max-w-[84rem] items-center gap-x-3 px-4 sm:gap-x-7 sm:px-6"
        >
          <Link to="/" className="flex items-center gap-2 font-serif text-lg italic max-sm:sr-only">
            <Mark />
            {t.name}
          </Link>
          <NavLink to="/" end className={tab}>
            {t.nav.today}
          </NavLink>
          <NavLink to="/library" className={tab}>
            {t.nav.library}
          </NavLink>
          <NavLink to="/ledger" className={tab}>
            {t.nav.ledger}
          </NavLink>
          <span className="grow" />
          {may(me, "add") && (
            <>
              <Link to="/give" className="plain whitespace-nowrap max-sm:hidden">
                {t.nav.give}
              </Link>
              <Link to="/capture" className="press press-main">
                {t.capture.nav}
              </Link>
            </>
          )}
          <Menu
            align="end"
            gap={8}
            trigger={
              <button
                type="button"
                aria-label={`${t.nav.account}: ${me.name || me.email}`}
                className="plain border border-edge px-2 py-1 font-serif text-sm italic"
              >
                {me.initials}
              </button>
            }
          >
            <p className="px-4 py-2 text-sm text-faded">
              {me.workspace}
              <br />
              {me.email}
            </p>
            {[
              [t.nav.account, () => void go("/account")],
              ...(may(me, "send")
                ? [
                    [t.connections.title, () => void go("/connections")] as const,
                    [t.booking.title, () => void go("/booking")] as const,
                  ]
                : []),
              ...(may(me, "add") ? [[t.first.title, () => void go("/first-steps")] as const] : []),
              [t.nav.shortcuts, () => setHelp(true)],
              [t.about.title, () => void go("/about")],
              [t.nav.signOut, () => void leave()],
            ].map(([label, act]) => (
              <MenuItem key={label as string} onSelect={act as () => void}>
                {label as string}
              </MenuItem>
            ))}
          </Menu>
        </nav>
        <Running />
      </header>
      <main id="page" tabIndex={-1} className="flex grow flex-col outline-none">
        {children}
      </main>
      {help && <Shortcuts close={() => setHelp(false)} />}
    </div>
  );
}
