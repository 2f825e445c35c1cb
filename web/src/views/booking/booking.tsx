import { useState } from "react";
import { client, failed, the, type Schemas } from "../../api/client";
import { elsewhere, useBooking } from "../../api/elsewhere";
import { useCalendars, useChange } from "../../api/hooks";
import { Choose } from "../../parts/choose";
import { copyText } from "../../parts/copy";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { Empty, Trouble, Wait, Wrong } from "../../parts/states";
import { Sure } from "../../parts/sure";
import { zone } from "../../parts/time";
import { t } from "../../texts";
import { clockOf, inWords, minutesOf } from "./times";

type Page = NonNullable<ReturnType<typeof useBooking>["data"]>["pages"][number];
type Given = Schemas["PageIn"];
type Spans = [number, number][];
const DAYS = ["0", "1", "2", "3", "4", "5", "6"] as const;

/** My pages on which I can be booked, and what is booked. */
export function Booking() {
  const mine = useBooking();
  return (
    <div className="mx-auto w-full max-w-[60rem] px-4 py-8 sm:px-6">
      <h1 className="text-2xl">{t.booking.title}</h1>
      <p className="my-3 max-w-prose text-faded">{t.booking.intro}</p>
      {failed(mine) ? (
        <Trouble error={mine.error} again={() => void mine.refetch()} />
      ) : !mine.data ? (
        <Wait />
      ) : (
        <>
          {mine.data.pages.length === 0 && <Empty>{t.booking.none}</Empty>}
          {mine.data.pages.map((page) => (
            <OnePage key={page.id} page={page} />
          ))}
          <section aria-labelledby="coming" className="mt-8">
            <h2 id="coming" className="mb-2 text-lg">
              {t.booking.coming}
            </h2>
            {mine.data.bookings.length === 0 ? (
              <Empty>{t.booking.nothing}</Empty>
            ) : (
              <ul className="sheet px-4">
                {mine.data.bookings.map((one) => (
                  <OneBooking key={one.id} one={one} />
                ))}
              </ul>
            )}
          </section>
          <details className="sheet mt-8 p-6" open={mine.data.pages.length === 0}>
            <summary className="cursor-pointer font-serif text-lg">{t.booking.make}</summary>
            <PageForm key={mine.data.pages.length} />
          </details>
        </>
      )}
    </div>
  );
}

function OnePage({ page }: { page: Page }) {
  const say = useSay();
  const [changing, setChanging] = useState(false);
  const drop = useChange(
    () => the(client.DELETE("/api/booking/{page_id}", { params: { path: { page_id: page.id } } })),
    elsewhere.booking,
  );
  return (
    <section aria-label={page.title} className="sheet mt-4 p-5">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
        <h2 className="grow text-lg">
          {page.title}{" "}
          <span className="font-sans text-sm text-faded">
            {page.length} min{!page.open && `, ${t.booking.closed}`}
          </span>
        </h2>
        <button
          type="button"
          className="press py-1 text-sm"
          onClick={() => void copyText(page.address).then(() => say(t.booking.copied))}
        >
          {t.booking.copy}
        </button>
        <button
          type="button"
          className="plain text-sm"
          aria-expanded={changing}
          onClick={() => setChanging(!changing)}
        >
          {t.booking.change}
        </button>
        <button
          type="button"
          className="plain text-sm"
          aria-label={t.booking.dropOf({ name: page.title })}
          disabled={drop.isPending}
          onClick={() => drop.mutate(undefined, { onSuccess: () => say(t.booking.dropped) })}
        >
          {t.booking.drop}
        </button>
      </div>
      <a className="cite text-sm break-all" href={page.address}>
        {page.address}
      </a>
      <Wrong error={drop.error} />
      {changing && <PageForm page={page} />}
    </section>
  );
}

function OneBooking({ one }: { one: Schemas["BookingOut"] }) {
  const say = useSay();
  const [sure, setSure] = useState(false);
  const off = useChange(
    () =>
      the(
        client.POST("/api/booking/booked/{booking_id}/off", {
          params: { path: { booking_id: one.id } },
        }),
      ),
    elsewhere.booking,
  );
  const when = inWords(one.start, zone());
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-rule py-3 last:border-0">
      <div className="min-w-0 grow basis-60">
        <p className={`font-serif ${one.state === "booked" ? "" : "line-through"}`}>{when}</p>
        <p className="text-sm text-faded">
          {one.title} · {one.name},{" "}
          <a className="cite" href={`mailto:${one.email}`}>
            {one.email}
          </a>
          {one.state === "booked" && !one.written && ` · ${t.booking.unwritten}`}
        </p>
        {one.note && <p className="text-sm whitespace-pre-line">{one.note}</p>}
        {one.trouble && <p className="text-sm text-clay">{one.trouble}</p>}
        <Wrong error={off.error} />
      </div>
      {one.state === "booked" ? (
        <button
          type="button"
          className="press border-clay py-1 text-sm text-clay"
          aria-label={t.booking.offOf({ name: one.name, when })}
          disabled={off.isPending}
          onClick={() => setSure(true)}
        >
          {t.booking.off}
        </button>
      ) : (
        <span className="text-sm text-faded">{t.booking.state[one.state]}</span>
      )}
      {sure && (
        <Sure
          title={t.booking.sure}
          hint={t.booking.sureHint}
          yes={t.booking.off}
          no={t.booking.keepIt}
          act={() => off.mutate(undefined, { onSuccess: () => say(t.booking.calledOff) })}
          close={() => setSure(false)}
        />
      )}
    </li>
  );
}

const MORNINGS: Record<string, Spans> = Object.fromEntries(
  ["0", "1", "2", "3", "4"].map((day) => [day, [[540, 720] as [number, number]]]),
);

function given(page?: Page): Given {
  // The document says of a pair that it is a list.
  if (page) return page as unknown as Given;
  return {
    title: "",
    about: "",
    zone: zone(),
    hours: MORNINGS,
    length: 30,
    pause: 0,
    step: 30,
    notice: 24 * 60,
    a_day: null,
    ahead: 30,
    calendar: null,
    link: "",
    points: [],
    open: true,
  };
}

/** A point a line, its minutes at the end. */
const asText = (points: Given["points"]) =>
  (points ?? []).map(([text, minutes]) => `${text} ${minutes}`).join("\n");
const asPoints = (text: string): [string, number][] =>
  text
    .split("\n")
    .filter((line) => line.trim())
    .map((line) => {
      const found = /^(.*?)\s+(\d{1,3})\s*$/u.exec(line);
      return found ? [found[1]!, Number(found[2])] : [line.trim(), 5];
    });

function PageForm({ page }: { page?: Page }) {
  const [of, setOf] = useState(given(page));
  const [points, setPoints] = useState(asText(of.points));
  const say = useSay();
  const accounts = (useCalendars().data ?? []).filter((one) => one.kind === "account");
  const id = page?.id ?? "new";
  const set = (change: Partial<Given>) => setOf({ ...of, ...change });
  const keep = useChange(() => {
    const body = { ...of, points: asPoints(points) };
    return page
      ? the(client.PUT("/api/booking/{page_id}", { params: { path: { page_id: page.id } }, body }))
      : the(client.POST("/api/booking", { body }));
  }, elsewhere.booking);
  const minutes = (values: number[]) =>
    Object.fromEntries(values.map((n) => [String(n), t.booking.minutesN({ n })]));
  return (
    <form
      className="mt-4 flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        keep.mutate(undefined, { onSuccess: () => say(t.booking.kept) });
      }}
    >
      <Field label={t.booking.name} htmlFor={`title-${id}`}>
        <input
          id={`title-${id}`}
          required
          maxLength={120}
          className="field"
          value={of.title}
          onChange={(event) => set({ title: event.target.value })}
        />
      </Field>
      <Field label={t.booking.about} htmlFor={`about-${id}`}>
        <textarea
          id={`about-${id}`}
          rows={2}
          maxLength={4000}
          className="field"
          value={of.about}
          onChange={(event) => set({ about: event.target.value })}
        />
      </Field>
      <fieldset>
        <legend className="mb-1 font-serif text-sm">
          {t.booking.hours}{" "}
          <span className="font-sans text-xs text-faded">
            {t.booking.zoneHint} {(of.zone ?? "").replaceAll("_", " ")}
          </span>
        </legend>
        {DAYS.map((day) => (
          <DayHours
            key={day}
            day={day}
            spans={of.hours?.[day] ?? []}
            change={(spans) => set({ hours: { ...of.hours, [day]: spans } })}
          />
        ))}
      </fieldset>
      <div className="grid gap-4 sm:grid-cols-3">
        <Choose
          id={`length-${id}`}
          label={t.booking.length}
          value={String(of.length)}
          change={(value) => set({ length: Number(value) })}
          options={minutes([15, 20, 30, 45, 60, 90, 120])}
        />
        <Choose
          id={`pause-${id}`}
          label={t.booking.pause}
          value={String(of.pause)}
          change={(value) => set({ pause: Number(value) })}
          options={minutes([0, 5, 10, 15, 30, 60])}
        />
        <Choose
          id={`step-${id}`}
          label={t.booking.step}
          value={String(of.step)}
          change={(value) => set({ step: Number(value) })}
          options={minutes([15, 20, 30, 60])}
        />
        <Choose
          id={`notice-${id}`}
          label={t.booking.notice}
          value={String(of.notice)}
          change={(value) => set({ notice: Number(value) })}
          options={Object.fromEntries(
            [1, 2, 4, 12, 24, 48, 72, 168].map((n) => [String(n * 60), t.booking.hoursN({ n })]),
          )}
        />
        <Choose
          id={`a-day-${id}`}
          label={t.booking.aDay}
          value={String(of.a_day ?? "")}
          change={(value) => set({ a_day: value ? Number(value) : null })}
          options={{
            "": t.booking.noBound,
            ...Object.fromEntries([1, 2, 3, 4, 5, 6, 8, 10].map((n) => [String(n), String(n)])),
          }}
        />
        <Choose
          id={`ahead-${id}`}
          label={t.booking.ahead}
          value={String(of.ahead)}
          change={(value) => set({ ahead: Number(value) })}
          options={Object.fromEntries(
            [7, 14, 30, 60].map((n) => [String(n), t.booking.daysN({ n })]),
          )}
        />
      </div>
      <div className="grid gap-4 sm:grid-cols-2">
        <Choose
          id={`calendar-${id}`}
          label={t.booking.calendar}
          hint={t.booking.calendarHint}
          value={of.calendar ?? ""}
          change={(value) => set({ calendar: value || null })}
          options={{
            "": t.booking.noCalendar,
            ...Object.fromEntries(accounts.map((one) => [one.id, one.name])),
          }}
        />
        <Field label={t.booking.link} htmlFor={`link-${id}`}>
          <input
            id={`link-${id}`}
            inputMode="url"
            maxLength={2000}
            placeholder="https://"
            className="field placeholder:text-faded"
            value={of.link}
            onChange={(event) => set({ link: event.target.value })}
          />
        </Field>
      </div>
      <Field label={t.booking.points} hint={t.booking.pointsHint} htmlFor={`points-${id}`}>
        <textarea
          id={`points-${id}`}
          rows={3}
          className="field"
          value={points}
          onChange={(event) => setPoints(event.target.value)}
        />
      </Field>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="size-4 accent-slate"
          checked={of.open ?? true}
          onChange={(event) => set({ open: event.target.checked })}
        />
        {t.booking.open}
      </label>
      <Wrong error={keep.error} />
      <p>
        <button type="submit" className="press press-main" disabled={keep.isPending}>
          {t.booking.keep}
        </button>
      </p>
    </form>
  );
}

/** The hours of one day of the week: one span; what else was kept stays as it is. */
function DayHours({
  day,
  spans,
  change,
}: {
  day: (typeof DAYS)[number];
  spans: Spans;
  change: (spans: Spans) => void;
}) {
  const name = t.booking.days[day];
  const [first, ...more] = spans;
  return (
    <div className="flex flex-wrap items-center gap-x-3 py-1">
      <label className="flex w-36 items-center gap-2">
        <input
          type="checkbox"
          className="size-4 accent-slate"
          checked={!!first}
          onChange={(event) => change(event.target.checked ? [[540, 720]] : [])}
        />
        {name}
      </label>
      {first ? (
        ([0, 1] as const).map((end) => (
          <input
            key={end}
            type="time"
            aria-label={(end ? t.booking.to : t.booking.from)({ day: name })}
            className="field w-32"
            value={clockOf(first[end])}
            onChange={(event) => {
              const at = minutesOf(event.target.value);
              change([end ? [first[0], at] : [at, first[1]], ...more]);
            }}
          />
        ))
      ) : (
        <span className="text-sm text-faded">{t.booking.never}</span>
      )}
    </div>
  );
}
