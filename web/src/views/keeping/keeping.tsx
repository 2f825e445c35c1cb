import { failed } from "../../api/client";
import { useMe } from "../../api/hooks";
import { may } from "../../api/rights";
import { useGoes, useKept } from "../../api/trust";
import { Empty, Trouble, Wait } from "../../parts/states";
import { showSize } from "../../parts/size";
import { showLongDay } from "../../parts/time";
import { t } from "../../texts";
import { SomePerson } from "./person";
import { KeepingRules, Taken } from "./rules";

/** For how long what is kept; what goes soon; what is kept where. */
export function Keeping() {
  const me = useMe().data;
  return (
    <div className="mx-auto flex w-full max-w-[70rem] flex-col gap-8 px-4 py-8 sm:px-6">
      <h1 className="text-2xl">{t.keeping.title}</h1>
      <KeepingRules />
      <GoesSoon />
      <Where />
      {me && may(me, "crown") && <SomePerson />}
    </div>
  );
}

function GoesSoon() {
  const goes = useGoes();
  return (
    <section aria-labelledby="goes">
      <h2 id="goes" className="mb-2 text-lg">
        {t.keeping.goes}
      </h2>
      {failed(goes) ? (
        <Trouble error={goes.error} />
      ) : !goes.data ? (
        <Wait />
      ) : goes.data.first.length === 0 ? (
        <Empty>{t.keeping.goesNone}</Empty>
      ) : (
        <Taken preview={goes.data} />
      )}
    </section>
  );
}

function Where() {
  const kept = useKept();
  if (failed(kept)) return <Trouble error={kept.error} />;
  if (!kept.data) return <Wait />;
  const it = kept.data;
  const rows: [string, string][] = [
    [
      t.keeping.meetings,
      t.keeping.meetingsSaid({
        n: it.meetings,
        hours: Math.round(it.seconds / 360) / 10,
        month: it.within_month,
        year: it.within_year,
      }),
    ],
    ...(it.oldest && it.newest
      ? ([
          [
            t.keeping.oldest,
            t.keeping.oldestSaid({ from: showLongDay(it.oldest), to: showLongDay(it.newest) }),
          ],
        ] as [string, string][])
      : []),
    [t.keeping.out, t.keeping.outSaid({ out: it.taken_out, held: it.held })],
    ...it.media.map((one): [string, string] => [
      t.keeping.media[one.what] ?? one.what,
      `${t.keeping.files({ n: one.files, size: showSize(one.bytes) })}, ${t.keeping.place[it.media_place as "folder" | "elsewhere"]}`,
    ]),
    [t.keeping.database, t.keeping.databaseSaid({ size: showSize(it.database_bytes) })],
  ];
  return (
    <section aria-labelledby="where">
      <h2 id="where" className="mb-2 text-lg">
        {t.keeping.where}
      </h2>
      <dl className="sheet grid gap-x-6 px-5 py-3 sm:grid-cols-[14rem_1fr]">
        {rows.map(([name, said]) => (
          <div key={name} className="contents">
            <dt className="pt-2 text-sm text-faded">{name}</dt>
            <dd className="border-b border-rule pb-2 sm:pt-2">{said}</dd>
          </div>
        ))}
        <dt className="pt-2 text-sm text-faded">{t.keeping.outside}</dt>
        <dd className="border-b border-rule pb-2 sm:pt-2">
          <ul>
            {it.outside.map((one) => (
              <li key={`${one.what} ${one.host}`}>
                {t.keeping.outsides[one.what] ?? one.what}
                {one.host && `: ${one.host}`}
                {one.count > 1 && (
                  <span className="text-faded"> {t.keeping.uses({ n: one.count })}</span>
                )}
              </li>
            ))}
          </ul>
        </dd>
        <dt className="pt-2 text-sm text-faded">{t.keeping.engines}</dt>
        <dd className="pb-2 sm:pt-2">
          <ul className="text-sm">
            {it.engines.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
          <p className="mt-1 text-sm text-faded">{t.keeping.enginesHint}</p>
        </dd>
      </dl>
    </section>
  );
}
