import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { client, failed, Problem, the, type Schemas } from "../../api/client";
import { keys, useChange, useMe, useSeries } from "../../api/hooks";
import { may } from "../../api/rights";
import { Field } from "../../parts/field";
import { Glyph } from "../../parts/glyph";
import { Leaf } from "../../parts/leaf";
import { MeetingRow } from "../../parts/row";
import { useSay } from "../../parts/sayings";
import { Empty, Trouble, Wait, Wrong } from "../../parts/states";
import { showDate, showDay } from "../../parts/time";
import { t } from "../../texts";
import { Days } from "./days";
import { Usual } from "./usual";

type Known = Schemas["SeriesOut"];
type Matter = Schemas["MatterOut"];

/** A series: what stands, what is open, its meetings, who was there and who speaks how much. */
export function SeriesPage() {
  const id = Number(useParams().id) || 0;
  const series = useSeries(id);
  const me = useMe().data;
  const [renaming, setRenaming] = useState(false);
  if (series.isPending) return <Wait />;
  if (failed(series)) return <Trouble error={series.error} again={() => void series.refetch()} />;
  const known = series.data;
  return (
    <div className="mx-auto w-full max-w-[84rem] px-4 py-8 sm:px-6">
      <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1">
        <h1 className="text-2xl">{known.name}</h1>
        <p className="text-sm text-faded">
          {t.library.ofSeries} · {t.library.seriesCount({ n: known.count })}
        </p>
        <span className="grow" />
        <Link to={`/ask?series=${known.id}`} className="cite">
          {t.asking.link}
        </Link>
        <Link to={`/ledger?series=${known.id}`} className="cite">
          {t.library.itsLedger}
        </Link>
        {me && may(me, "arrange") && (
          <button type="button" className="cite" onClick={() => setRenaming(true)}>
            {t.library.rename}
          </button>
        )}
      </div>
      <div className="mt-6 grid items-start gap-6 lg:grid-cols-2">
        <Matters title={t.library.openStill} empty={t.library.nothingOpen} all={known.open} />
        <Matters title={t.library.stands} empty={t.library.nothingStands} all={known.stand} />
      </div>
      <Days meetings={known.meetings} />
      <section aria-labelledby="meetings" className="mt-6">
        <h2 id="meetings" className="mb-2 text-base">
          {t.library.itsMeetings}
        </h2>
        <div className="sheet px-2">
          {known.meetings.map((one) => (
            <MeetingRow key={one.id} meeting={one} />
          ))}
        </div>
      </section>
      <div className="mt-6 grid items-start gap-6 lg:grid-cols-2">
        <div className="flex flex-col gap-6">
          <section aria-labelledby="people" className="sheet px-5 py-4">
            <h2 id="people" className="mb-2 text-base">
              {t.library.whoCame}
            </h2>
            <p>
              {known.people
                .map((one) => t.library.times({ name: one.name, n: one.times }))
                .join(", ") || "–"}
            </p>
          </section>
          {known.usual && <Usual known={known} usual={known.usual} />}
        </div>
        {known.airtime.length > 0 && <Spoken all={known.airtime} />}
      </div>
      {renaming && <Rename known={known} close={() => setRenaming(false)} />}
    </div>
  );
}

function Matters({ title, empty, all }: { title: string; empty: string; all: Matter[] }) {
  return (
    <section aria-label={title} className="sheet px-5 py-4">
      <h2 className="mb-2 text-base">{title}</h2>
      {all.length === 0 && <Empty>{empty}</Empty>}
      <ul>
        {all.map((one) => (
          <li
            key={one.id}
            className="grid grid-cols-[1.4rem_1fr] gap-x-2 border-b border-rule py-2 last:border-0"
          >
            <span className="pt-0.5">
              <Glyph kind={one.kind} />
              <span className="sr-only">{t.glyphs[one.kind]}</span>
            </span>
            <span>
              <Link
                to={`/meetings/${one.meeting}${one.line === null ? "" : `?line=${one.line}`}`}
                className="font-serif underline-offset-4 hover:underline"
              >
                {one.text}
              </Link>
              <span className="block text-sm text-faded">
                {[
                  one.whose,
                  one.due && t.library.due({ day: showDate(one.due) }),
                  `${one.title}, ${showDay(one.started_at)}`,
                ]
                  .filter(Boolean)
                  .join(" · ")}
              </span>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** A bar a meeting, the latest first: each person's part of what was said. */
function Spoken({ all }: { all: Known["airtime"] }) {
  const names = [...new Set(all.flatMap((one) => one.shares.map((share) => share.name)))];
  const shade = (name: string) =>
    `color-mix(in oklab, var(--slate) ${Math.round(100 - (75 * names.indexOf(name)) / Math.max(1, names.length - 1))}%, var(--paper))`;
  return (
    <section aria-labelledby="spoken" className="sheet px-5 py-4">
      <h2 id="spoken" className="text-base">
        {t.library.speaks}
      </h2>
      <p className="mb-2 text-sm text-faded">{t.library.speaksHint}</p>
      <ul>
        {all.map((one) => (
          <li key={one.meeting} className="grid grid-cols-[5.5rem_1fr] items-center gap-x-3 py-1">
            <span className="text-sm text-faded">{showDay(one.started_at)}</span>
            <span className="flex h-4 gap-px">
              {one.shares.map((share) => (
                <span
                  key={share.name}
                  title={`${share.name}: ${Math.round(100 * share.share)} %`}
                  style={{ width: `${100 * share.share}%`, background: shade(share.name) }}
                />
              ))}
            </span>
            <span className="sr-only">
              {one.shares
                .map((share) => `${share.name}: ${Math.round(100 * share.share)} %`)
                .join(", ")}
            </span>
          </li>
        ))}
      </ul>
      <p className="mt-2 flex flex-wrap gap-x-4 text-sm">
        {names.map((name) => (
          <span key={name} className="flex items-center gap-1.5">
            <span className="size-3 border border-edge" style={{ background: shade(name) }} />
            {name}
          </span>
        ))}
      </p>
    </section>
  );
}

function Rename({ known, close }: { known: Known; close: () => void }) {
  const [name, setName] = useState(known.name);
  const say = useSay();
  const go = useNavigate();
  const rename = useChange(
    (merge: boolean) =>
      the(
        client.PATCH("/api/series/{series_id}", {
          params: { path: { series_id: known.id } },
          body: { name, merge },
        }),
      ),
    keys.allSeries,
    keys.library,
  );
  const done = {
    onSuccess: ({ id }: { id: number }) => {
      say(t.library.renamed);
      close();
      if (id !== known.id) void go(`/series/${id}`, { replace: true });
    },
  };
  const taken = rename.error instanceof Problem && rename.error.status === 409;
  return (
    <Leaf title={t.library.rename} close={close}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          rename.mutate(false, done);
        }}
      >
        <Field label={t.library.newName} htmlFor="series-name">
          <input
            id="series-name"
            required
            maxLength={200}
            className="field"
            value={name}
            onChange={(event) => {
              rename.reset();
              setName(event.target.value);
            }}
          />
        </Field>
        <Wrong error={rename.error} className="mt-2" />
        <p className="mt-4 flex gap-3">
          {taken ? (
            <button
              type="button"
              className="press border-clay text-clay"
              onClick={() => rename.mutate(true, done)}
            >
              {t.library.merge}
            </button>
          ) : (
            <button type="submit" className="press press-main" disabled={rename.isPending}>
              {t.settings.save}
            </button>
          )}
          <button type="button" className="press" onClick={close}>
            {t.library.keepIt}
          </button>
        </p>
      </form>
    </Leaf>
  );
}
