import { useEffect, useRef, useState } from "react";
import { useLocation } from "react-router";
import { client, the, type Schemas } from "../../api/client";
import { keys, useCalendars, useChange } from "../../api/hooks";
import { Choose } from "../../parts/choose";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { Empty, Wrong } from "../../parts/states";
import { showDay, showTime } from "../../parts/time";
import { t } from "../../texts";
import { Watched } from "./watched";

type Kind = Exclude<Schemas["CalendarOut"]["kind"], "mail">;

/** Where my meetings are planned: what is connected, and three ways to connect more. */
export function Calendars() {
  const calendars = useCalendars();
  const section = useRef<HTMLElement>(null);
  const here = useLocation().hash === "#calendars";
  const there = calendars.data !== undefined;
  useEffect(() => {
    if (here && there) section.current?.scrollIntoView();
  }, [here, there]);
  if (!calendars.data) return null;
  return (
    <section
      ref={section}
      id="calendars"
      aria-label={t.calendars.title}
      className="sheet mt-6 scroll-mt-16 p-6"
    >
      <h2 className="text-lg">{t.calendars.title}</h2>
      <p className="mb-3 text-sm text-faded">{t.calendars.intro}</p>
      {calendars.data.length === 0 && <Empty>{t.calendars.none}</Empty>}
      <ul>
        {calendars.data.map((one) => (
          <Row key={one.id} calendar={one} />
        ))}
      </ul>
      <Connect />
    </section>
  );
}

function Row({ calendar }: { calendar: Schemas["CalendarOut"] }) {
  const say = useSay();
  const at = { params: { path: { calendar_id: calendar.id } } };
  const look = useChange(
    () => the(client.POST("/api/calendars/{calendar_id}/look", at)),
    keys.calendars,
  );
  const drop = useChange(
    () => the(client.DELETE("/api/calendars/{calendar_id}", at)),
    keys.calendars,
    keys.days,
  );
  const { looked_at: looked } = calendar;
  const whose = calendar.username
    ? t.calendars.at({ name: calendar.username, host: calendar.host })
    : calendar.host;
  return (
    <Watched
      name={calendar.name}
      remarks={[
        calendar.kind === "mail" ? t.calendars.byMail : t.calendars.kinds[calendar.kind],
        whose,
        looked
          ? t.calendars.looked({ when: `${showDay(looked)}, ${showTime(looked)}` })
          : t.calendars.never,
      ]}
      acts={[
        ...(calendar.kind === "file" || calendar.kind === "mail"
          ? []
          : [
              {
                label: t.calendars.lookNow,
                of: t.calendars.lookNowAt({ name: calendar.name }),
                off: look.isPending,
                act: () => look.mutate(undefined, { onSuccess: () => say(t.calendars.looking) }),
              },
            ]),
        {
          label: t.calendars.drop,
          of: t.calendars.dropOf({ name: calendar.name }),
          off: drop.isPending,
          act: () => drop.mutate(undefined, { onSuccess: () => say(t.calendars.dropped) }),
        },
      ]}
      trouble={calendar.trouble}
      error={look.error ?? drop.error}
    >
      {calendar.unread.length > 0 && (
        <details className="w-full text-sm text-faded">
          <summary className="cursor-pointer">
            {t.calendars.unread({ n: calendar.unread.length })}
          </summary>
          <ul className="list-disc pl-5">
            {calendar.unread.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        </details>
      )}
    </Watched>
  );
}

function Connect() {
  const [kind, setKind] = useState<Kind>("feed");
  const [address, setAddress] = useState("");
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const [file, setFile] = useState<File | null>(null);
  const [sent, setSent] = useState(0);
  const say = useSay();
  const connect = useChange(
    async (): Promise<Schemas["CalendarOut"][]> => {
      if (kind === "account")
        return the(
          client.POST("/api/calendars/account", { body: { address, username, password } }),
        );
      if (kind === "feed")
        return [await the(client.POST("/api/calendars/feed", { body: { address, name: "" } }))];
      const text = await file!.text();
      return [await the(client.POST("/api/calendars/file", { body: { name: file!.name, text } }))];
    },
    keys.calendars,
    keys.days,
  );
  const hints = {
    feed: t.calendars.feedHint,
    account: t.calendars.accountHint,
    file: t.calendars.fileHint,
  };
  return (
    <form
      className="mt-4 flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        connect.mutate(undefined, {
          onSuccess: (made) => {
            setAddress("");
            setPassword("");
            setFile(null);
            setSent(sent + 1);
            say(t.calendars.connected({ names: made.map((one) => one.name).join(", ") }));
          },
        });
      }}
    >
      <Choose
        id="calendar-way"
        label={t.calendars.way}
        hint={hints[kind]}
        value={kind}
        change={(next: Kind) => {
          connect.reset();
          setKind(next);
        }}
        options={t.calendars.kinds}
      />
      {kind !== "file" && (
        <Field label={t.calendars.address} htmlFor="calendar-address">
          <input
            id="calendar-address"
            required
            maxLength={2000}
            inputMode="url"
            autoComplete="off"
            placeholder="https://"
            className="field placeholder:text-faded"
            value={address}
            onChange={(event) => setAddress(event.target.value)}
          />
        </Field>
      )}
      {kind === "account" && (
        <div className="grid gap-4 sm:grid-cols-2">
          <Field label={t.calendars.username} htmlFor="calendar-name">
            <input
              id="calendar-name"
              required
              maxLength={254}
              autoComplete="off"
              className="field"
              value={username}
              onChange={(event) => setUsername(event.target.value)}
            />
          </Field>
          <Field label={t.calendars.password} htmlFor="calendar-password">
            <input
              id="calendar-password"
              type="password"
              required
              maxLength={400}
              autoComplete="new-password"
              className="field"
              value={password}
              onChange={(event) => setPassword(event.target.value)}
            />
          </Field>
        </div>
      )}
      {kind === "file" && (
        <Field label={t.calendars.file} htmlFor="calendar-file">
          <input
            key={sent}
            id="calendar-file"
            type="file"
            required
            accept=".ics,text/calendar"
            className="field"
            onChange={(event) => setFile(event.target.files?.[0] ?? null)}
          />
        </Field>
      )}
      <p>
        <button type="submit" className="press press-main" disabled={connect.isPending}>
          {connect.isPending ? t.calendars.connecting : t.calendars.connect}
        </button>
      </p>
      <Wrong error={connect.error} />
    </form>
  );
}
