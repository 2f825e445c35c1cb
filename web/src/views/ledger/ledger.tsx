import { useEffect, useState } from "react";
import { useSearchParams } from "react-router";
import { failed } from "../../api/client";
import { useLedger, useNarrow } from "../../api/hooks";
import { Choose } from "../../parts/choose";
import { Field } from "../../parts/field";
import { Menu, MenuItem } from "../../parts/menu";
import { Empty, Trouble, Wait } from "../../parts/states";
import { dayAfter, dayOf, showDateOfYear, zone } from "../../parts/time";
import { useWalked } from "../../parts/walked";
import { t } from "../../texts";
import {
  askedIn,
  heapOf,
  isNarrowed,
  VIEWS,
  type Heap,
  type LedgerAsked,
  type Matter,
} from "../../parts/matters";
import { MatterRow } from "./matter";
import { RemindersLeaf } from "./reminders";

const HEAPS = ["late", "soon", "later", "never"] as const satisfies Heap[];
const FORMS = ["csv", "md", "ics"] as const;

/** Matters under the headings they are read by: what is open by how near its day is. */
function heaps(view: LedgerAsked["view"], matters: Matter[]): [string, Matter[]][] {
  if (view !== "open") return [["", matters]];
  const today = dayOf(new Date());
  const week = dayAfter(today, 7);
  return HEAPS.map((heap): [string, Matter[]] => [
    t.ledger.when[heap],
    matters.filter((one) => heapOf(one.due, today, week) === heap),
  ]).filter(([, own]) => own.length > 0);
}

/** Decisions and actions across meetings, and what became of them. */
export function Ledger() {
  const [params, setParams] = useSearchParams();
  const asked = askedIn(params);
  const ledger = useLedger(asked);
  const put = (name: string, value: string) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        if (value) next.set(name, value);
        else next.delete(name);
        return next;
      },
      { replace: true },
    );
  const matters = ledger.data?.pages.flatMap((page) => page.matters) ?? [];
  const [reminding, setReminding] = useState(false);
  const walked = useWalked(matters.map((one) => String(one.id)));
  return (
    <div className="mx-auto w-full max-w-[70rem] px-4 py-8 sm:px-6">
      <div className="flex flex-wrap items-baseline gap-x-6 gap-y-1">
        <h1 className="text-2xl">{t.ledger.title}</h1>
        <nav aria-label={t.ledger.title} className="flex flex-wrap gap-x-4 gap-y-1">
          {VIEWS.map((view) => (
            <button
              key={view}
              type="button"
              aria-current={view === asked.view ? "page" : undefined}
              className={`border-b-2 py-1 ${view === asked.view ? "border-brass" : "border-transparent text-faded hover:text-ink"}`}
              onClick={() => put("view", view === "open" ? "" : view)}
            >
              {t.ledger.views[view]}
            </button>
          ))}
        </nav>
        <span className="grow" />
        <button type="button" className="cite" onClick={() => setReminding(true)}>
          {t.ledger.remind}
        </button>
        <Out asked={asked} />
      </div>
      <p className="mt-2 text-sm text-faded">
        {asked.view === "changed"
          ? t.ledger.about.changed({ day: showDateOfYear(asked.since!) })
          : t.ledger.about[asked.view]}
      </p>
      <NarrowLedger asked={asked} params={params} put={put} />
      {failed(ledger) ? (
        <Trouble error={ledger.error} again={() => void ledger.refetch()} />
      ) : ledger.isPending ? (
        <Wait />
      ) : matters.length === 0 ? (
        <Empty>{isNarrowed(asked) ? t.ledger.none : t.ledger.empty[asked.view]}</Empty>
      ) : (
        <div {...walked.list}>
          {heaps(asked.view, matters).map(([heading, own]) => (
            <section
              key={heading}
              aria-label={heading || t.ledger.views[asked.view]}
              className="mb-6"
            >
              {heading && <h2 className="mb-1.5 text-sm text-faded italic">{heading}</h2>}
              <ul className="sheet px-2">
                {own.map((matter) => (
                  <MatterRow key={matter.id} matter={matter} walked={walked} />
                ))}
              </ul>
            </section>
          ))}
          {ledger.hasNextPage && (
            <button
              type="button"
              className="press"
              disabled={ledger.isFetchingNextPage}
              onClick={() => void ledger.fetchNextPage()}
            >
              {t.ledger.more}
            </button>
          )}
        </div>
      )}
      {reminding && <RemindersLeaf close={() => setReminding(false)} />}
    </div>
  );
}

/** Whose, of which series, with which words. */
function NarrowLedger({
  asked,
  params,
  put,
}: {
  asked: LedgerAsked;
  params: URLSearchParams;
  put: (name: string, value: string) => void;
}) {
  const choices = useNarrow().data;
  const [words, setWords] = useState(asked.words ?? "");
  useEffect(() => {
    if (words.trim() === (asked.words ?? "")) return;
    const later = setTimeout(() => put("words", words.trim()), 250);
    return () => clearTimeout(later);
  });
  const people = (choices?.people ?? []).map((one) => [`p${one.id}`, one.name]);
  const whose = asked.person ? `p${asked.person}` : (params.get("whose") ?? "");
  return (
    <form
      role="search"
      className="my-4 grid grid-cols-2 gap-x-5 gap-y-3 lg:grid-cols-4"
      onSubmit={(event) => event.preventDefault()}
    >
      <Choose
        id="ledger-whose"
        label={t.ledger.whose}
        value={whose}
        change={(value) => {
          put("whose", value.startsWith("p") ? "" : value);
          put("person", value.startsWith("p") ? value.slice(1) : "");
        }}
        options={{
          "": t.ledger.anybody,
          mine: t.ledger.mine,
          nobody: t.ledger.nobody,
          ...Object.fromEntries<string>(people as [string, string][]),
        }}
      />
      <Choose
        id="ledger-series"
        label={t.ledger.series}
        value={String(asked.series ?? "")}
        change={(value) => put("series", value)}
        options={{
          "": t.library.any,
          ...Object.fromEntries((choices?.series ?? []).map((one) => [String(one.id), one.name])),
        }}
      />
      <Field label={t.ledger.words} htmlFor="ledger-words">
        <input
          id="ledger-words"
          type="search"
          className="field"
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
      </Field>
      {asked.view === "changed" && (
        <Field label={t.ledger.since} htmlFor="ledger-since">
          <input
            id="ledger-since"
            type="date"
            className="field"
            value={asked.since ?? ""}
            onChange={(event) => put("since", event.target.value)}
          />
        </Field>
      )}
    </form>
  );
}

/** The same as a file. */
function Out({ asked }: { asked: LedgerAsked }) {
  const said = Object.entries({ ...asked, time_zone: zone() }).map(([name, value]) => [
    name,
    String(value),
  ]);
  const query = new URLSearchParams(Object.fromEntries<string>(said as [string, string][]));
  return (
    <Menu
      align="end"
      trigger={
        <button type="button" className="cite">
          {t.ledger.out}
        </button>
      }
    >
      {FORMS.map((form) => (
        <MenuItem key={form} asChild>
          <a href={`/api/ledger/out/${form}?${query}`} download>
            {t.ledger.forms[form]}
          </a>
        </MenuItem>
      ))}
    </Menu>
  );
}
