import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";
import { client, failed, the, type Schemas } from "../../api/client";
import { useChange } from "../../api/hooks";
import { Choose } from "../../parts/choose";
import { Field } from "../../parts/field";
import { Wait, Wrong } from "../../parts/states";
import { dayAfter, dayOf, zone } from "../../parts/time";
import { t } from "../../texts";
import { byDay, inWords } from "./times";

const SPAN = 14;
const ZONES = Intl.supportedValuesOf("timeZone");

/** What somebody without an account comes to: a page on which a time is booked. No sign-in. */
export function BookPage() {
  const { slug = "" } = useParams();
  const page = useQuery({
    queryKey: ["book", slug],
    retry: false,
    queryFn: () => the(client.GET("/api/booked/{slug}", { params: { path: { slug } } })),
  });
  const [here, setHere] = useState(zone());
  const [chosen, setChosen] = useState("");
  const [who, setWho] = useState({ name: "", email: "", note: "" });
  const book = useChange(
    () =>
      the(
        client.POST("/api/booked/{slug}", {
          params: { path: { slug } },
          body: { ...who, start: chosen, time_zone: here },
        }),
      ),
    ["free", slug],
  );
  if (page.isPending) return <Wait />;
  if (failed(page)) return <Nothing words={page.error.message} />;
  if (book.data) return <Booked booked={book.data} here={here} />;
  return (
    <main className="mx-auto w-full max-w-3xl px-5 py-10">
      <h1 className="text-2xl">{page.data.title}</h1>
      <p className="text-faded">
        {t.booking.with({ host: page.data.host })} · {page.data.length} min
      </p>
      {page.data.about && <p className="mt-3 font-serif whitespace-pre-line">{page.data.about}</p>}
      <ZoneLine here={here} change={setHere} />
      <Times slug={slug} here={here} ahead={page.data.ahead} chosen={chosen} choose={setChosen} />
      {chosen && (
        <form
          className="sheet mt-6 flex flex-col gap-4 p-6"
          onSubmit={(event) => {
            event.preventDefault();
            book.mutate(undefined);
          }}
        >
          <div className="grid gap-4 sm:grid-cols-2">
            <Field label={t.booking.yourName} htmlFor="name">
              <input
                id="name"
                required
                maxLength={120}
                autoComplete="name"
                className="field"
                value={who.name}
                onChange={(event) => setWho({ ...who, name: event.target.value })}
              />
            </Field>
            <Field label={t.booking.yourMail} htmlFor="email">
              <input
                id="email"
                type="email"
                required
                maxLength={254}
                autoComplete="email"
                className="field"
                value={who.email}
                onChange={(event) => setWho({ ...who, email: event.target.value })}
              />
            </Field>
          </div>
          <Field label={t.booking.note} htmlFor="note">
            <textarea
              id="note"
              rows={3}
              maxLength={2000}
              className="field"
              value={who.note}
              onChange={(event) => setWho({ ...who, note: event.target.value })}
            />
          </Field>
          <Wrong error={book.error} />
          <p>
            <button type="submit" className="press press-main" disabled={book.isPending}>
              {t.booking.book({ when: inWords(chosen, here) })}
            </button>
          </p>
        </form>
      )}
    </main>
  );
}

function Nothing({ words }: { words: string }) {
  return (
    <main className="mx-auto w-full max-w-xl px-5 py-14">
      <p role="alert">{words}</p>
    </main>
  );
}

function ZoneLine({ here, change }: { here: string; change: (zone: string) => void }) {
  return (
    <div className="mt-4 max-w-xs">
      <Choose
        id="zone"
        label={t.booking.otherZone}
        value={here}
        change={change}
        options={Object.fromEntries(
          [...new Set([here, ...ZONES])].map((one) => [one, one.replaceAll("_", " ")]),
        )}
      />
    </div>
  );
}

/** Free times of two weeks, by the days of whoever looks. */
function Times({
  slug,
  here,
  ahead,
  chosen,
  choose,
  without = "",
}: {
  slug: string;
  here: string;
  ahead: number;
  chosen: string;
  choose: (at: string) => void;
  without?: string;
}) {
  const today = dayOf(new Date());
  const [first, setFirst] = useState(today);
  const free = useQuery({
    queryKey: ["free", slug, first, without],
    queryFn: () =>
      the(
        client.GET("/api/booked/{slug}/free", {
          params: { path: { slug }, query: { first, days: SPAN, without } },
        }),
      ),
  });
  const days = byDay(free.data?.times ?? [], here);
  return (
    <section aria-labelledby="times" className="mt-5">
      <div className="flex flex-wrap items-baseline gap-4">
        <h2 id="times" className="grow text-lg">
          {t.booking.choose}
        </h2>
        <button
          type="button"
          className="plain"
          disabled={first <= today}
          onClick={() => setFirst(dayAfter(first, -SPAN))}
        >
          {t.booking.earlier}
        </button>
        <button
          type="button"
          className="plain"
          disabled={dayAfter(first, SPAN) > dayAfter(today, ahead)}
          onClick={() => setFirst(dayAfter(first, SPAN))}
        >
          {t.booking.later}
        </button>
      </div>
      {failed(free) ? (
        <Wrong error={free.error} />
      ) : free.isPending ? (
        <Wait />
      ) : days.length === 0 ? (
        <p className="py-4 text-faded">{t.booking.noTimes}</p>
      ) : (
        <dl>
          {days.map((day) => (
            <div key={day.key} className="border-b border-rule py-2 sm:flex sm:gap-6">
              <dt className="font-serif sm:w-52 sm:pt-1">{day.name}</dt>
              <dd className="flex flex-wrap gap-2 py-1">
                {day.times.map((one) => (
                  <button
                    key={one.at}
                    type="button"
                    className={`press py-1 text-sm tabular-nums ${one.at === chosen ? "press-main" : ""}`}
                    aria-pressed={one.at === chosen}
                    aria-label={inWords(one.at, here)}
                    onClick={() => choose(one.at)}
                  >
                    {one.clock}
                  </button>
                ))}
              </dd>
            </div>
          ))}
        </dl>
      )}
    </section>
  );
}

function Booked({ booked, here }: { booked: Schemas["BookedOut"]; here: string }) {
  return (
    <main className="mx-auto w-full max-w-xl px-5 py-14">
      <h1 className="text-2xl">{t.booking.booked}</h1>
      <p role="status" className="mt-3 font-serif text-lg">
        {booked.title}, {t.booking.with({ host: booked.host })}: {inWords(booked.start, here)} (
        {here.replaceAll("_", " ")})
      </p>
      <p className="mt-3">{t.booking.bookedHint}</p>
      {booked.token && (
        <p className="mt-4">
          <a className="cite" href={`/booked/${booked.token}`}>
            {t.booking.openYours}
          </a>
        </p>
      )}
    </main>
  );
}

/** Where the link of a booking leads: it is moved or called off. No sign-in. */
export function BookedPage() {
  const { token = "" } = useParams();
  const at = { params: { path: { token } } };
  const booked = useQuery({
    queryKey: ["booked", token],
    retry: false,
    queryFn: () => the(client.GET("/api/booked/mine/{token}", at)),
  });
  const [moving, setMoving] = useState(false);
  const [chosen, setChosen] = useState("");
  const move = useChange(
    () => the(client.POST("/api/booked/mine/{token}/move", { ...at, body: { start: chosen } })),
    ["booked", token],
    ["free"],
  );
  const off = useChange(
    () => the(client.POST("/api/booked/mine/{token}/off", at)),
    ["booked", token],
    ["free"],
  );
  if (booked.isPending) return <Wait />;
  if (failed(booked)) return <Nothing words={booked.error.message} />;
  const { title, host, start, zone: here, link, state, slug } = booked.data;
  return (
    <main className="mx-auto w-full max-w-3xl px-5 py-10">
      <h1 className="text-2xl">{title}</h1>
      <p className="text-faded">{t.booking.with({ host })}</p>
      <p className={`mt-3 font-serif text-lg ${state === "booked" ? "" : "line-through"}`}>
        {inWords(start, here)} ({here.replaceAll("_", " ")})
      </p>
      {state !== "booked" ? (
        <p role="status" className="mt-3">
          {t.booking.wasOff}{" "}
          <a className="cite" href={`/book/${slug}`}>
            {t.booking.another}
          </a>
        </p>
      ) : (
        <>
          {link && (
            <p className="mt-2">
              <a className="cite" href={link}>
                {t.booking.call}
              </a>
            </p>
          )}
          {move.data && !moving && (
            <p role="status" className="mt-3">
              {t.booking.moved}
            </p>
          )}
          <p className="mt-5 flex flex-wrap gap-3">
            <button type="button" className="press" onClick={() => setMoving(!moving)}>
              {moving ? t.booking.back : t.booking.move}
            </button>
            <button
              type="button"
              className="press border-clay text-clay"
              disabled={off.isPending}
              onClick={() => off.mutate(undefined)}
            >
              {t.booking.off}
            </button>
          </p>
          {moving && (
            <>
              <Times
                slug={slug}
                here={here}
                ahead={60}
                chosen={chosen}
                choose={setChosen}
                without={token}
              />
              {chosen && (
                <button
                  type="button"
                  className="press press-main mt-4"
                  disabled={move.isPending}
                  onClick={() =>
                    move.mutate(undefined, {
                      onSuccess: () => {
                        setMoving(false);
                        setChosen("");
                      },
                    })
                  }
                >
                  {t.booking.moveTo({ when: inWords(chosen, here) })}
                </button>
              )}
            </>
          )}
          <Wrong error={move.error ?? off.error} />
        </>
      )}
    </main>
  );
}
