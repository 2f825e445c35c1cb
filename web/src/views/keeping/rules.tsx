import { useState } from "react";
import { Link } from "react-router";
import { client, failed, the, type Schemas } from "../../api/client";
import { useChange, useNarrow } from "../../api/hooks";
import { trust, useKeepingRules } from "../../api/trust";
import { Choose } from "../../parts/choose";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { Empty, Trouble, Wait, Wrong } from "../../parts/states";
import { longDate, showDay } from "../../parts/time";
import { t } from "../../texts";

type Rule = Schemas["KeepingRuleOut"];
type Said = Schemas["KeepingRuleIn"];
const WHAT = ["sound", "record", "all"] as const;
type Of = keyof typeof t.keeping.ofs;

const named = (rule: Rule) =>
  rule.called || (rule.place ? t.keeping.kinds[rule.place] : t.keeping.ofs.all);

/** The rules there are, and the form of another: what it would take is seen before it is said. */
export function KeepingRules() {
  const rules = useKeepingRules();
  return (
    <section aria-labelledby="rules">
      <h2 id="rules" className="mb-1 text-lg">
        {t.keeping.rules}
      </h2>
      <p className="mb-3 text-faded">{t.keeping.rulesHint}</p>
      {failed(rules) ? (
        <Trouble error={rules.error} />
      ) : !rules.data ? (
        <Wait />
      ) : rules.data.length === 0 ? (
        <Empty>{t.keeping.none}</Empty>
      ) : (
        <ul className="sheet mb-4 px-4">
          {rules.data.map((one) => (
            <Row key={one.id} rule={one} />
          ))}
        </ul>
      )}
      <Form />
    </section>
  );
}

const stale = [trust.rules, trust.goes];
const put = (body: Said) => the(client.PUT("/api/keeping/rules", { body }));

function Row({ rule }: { rule: Rule }) {
  const say = useSay();
  const { place = null, shelf = null, series = null } = rule;
  const drop = useChange(() => put({ place, shelf, series }), ...stale);
  const days = WHAT.flatMap((what) => {
    const n = rule[what];
    return n ? [`${t.keeping.what[what]}: ${t.keeping.days({ n })}`] : [];
  });
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-rule py-2.5 last:border-0">
      <span className="min-w-0 grow basis-60">
        <span className="font-serif">{named(rule)}</span>{" "}
        <span className="text-sm">{days.join(", ")}</span>
        <span className="block text-sm text-faded">
          {t.keeping.by({ name: rule.by, day: showDay(rule.at) })}
        </span>
        <Wrong error={drop.error} />
      </span>
      <button
        type="button"
        className="press py-1 text-sm"
        aria-label={t.keeping.dropOf({ name: named(rule) })}
        disabled={drop.isPending}
        onClick={() => drop.mutate(undefined, { onSuccess: () => say(t.keeping.dropped) })}
      >
        {t.keeping.drop}
      </button>
    </li>
  );
}

function Form() {
  const say = useSay();
  const narrow = useNarrow().data;
  const [of, setOf] = useState<Of>("all");
  const [which, setWhich] = useState("");
  const [days, setDays] = useState<Record<string, string>>({});
  const whichOf: Readonly<Record<string, string | undefined>> =
    of === "place"
      ? t.keeping.kinds
      : Object.fromEntries(
          (of === "shelf" ? narrow?.shelves : of === "series" ? narrow?.series : [])?.map((one) => [
            String(one.id),
            one.name,
          ]) ?? [],
        );
  const said = (): Said => ({
    place: of === "place" ? (which as Schemas["Place"]) : null,
    shelf: of === "shelf" ? Number(which) : null,
    series: of === "series" ? Number(which) : null,
    ...Object.fromEntries(WHAT.map((what) => [what, days[what] ? Number(days[what]) : null])),
  });
  const look = useChange(() => the(client.POST("/api/keeping/preview", { body: said() })));
  const keep = useChange(() => put(said()), ...stale);
  const ready = WHAT.some((what) => days[what]) && (of === "all" || which !== "");
  const changed = () => look.reset();
  return (
    <form
      className="sheet flex flex-col gap-4 p-5"
      onSubmit={(event) => {
        event.preventDefault();
        keep.mutate(undefined, {
          onSuccess: () => {
            say(t.keeping.said);
            setDays({});
            changed();
          },
        });
      }}
    >
      <div className="grid gap-4 sm:grid-cols-2">
        <Choose
          id="rule-of"
          label={t.keeping.of}
          value={of}
          change={(value) => {
            setOf(value);
            setWhich("");
            changed();
          }}
          options={t.keeping.ofs}
        />
        {of !== "all" && (
          <Choose
            id="rule-which"
            label={t.keeping.which}
            value={which}
            change={(value) => {
              setWhich(value);
              changed();
            }}
            options={{ "": t.keeping.choose, ...whichOf }}
          />
        )}
      </div>
      <div className="grid gap-4 sm:grid-cols-3">
        {WHAT.map((what) => (
          <Field key={what} label={t.keeping[what]} htmlFor={`rule-${what}`}>
            <input
              id={`rule-${what}`}
              type="number"
              min={1}
              max={36500}
              className="field placeholder:text-faded"
              placeholder={t.keeping.kept}
              value={days[what] ?? ""}
              onChange={(event) => {
                setDays({ ...days, [what]: event.target.value });
                changed();
              }}
            />
          </Field>
        ))}
      </div>
      {look.data && <Taken preview={look.data} />}
      <Wrong error={look.error ?? keep.error} />
      <p className="flex flex-wrap gap-3">
        <button
          type="button"
          className={look.data ? "press" : "press press-main"}
          disabled={!ready || look.isPending}
          onClick={() => look.mutate(undefined)}
        >
          {t.keeping.look}
        </button>
        <button
          type="submit"
          className={look.data ? "press press-main" : "press"}
          disabled={!ready || !look.data || keep.isPending}
        >
          {t.keeping.say}
        </button>
      </p>
    </form>
  );
}

/** What goes, and when. */
export function Taken({ preview }: { preview: Schemas["WouldGoOut"] }) {
  const sum = (counts: Record<string, number>) =>
    Object.values(counts).reduce((all, one) => all + one, 0);
  if (!preview.first.length) return <Empty>{t.keeping.nothing}</Empty>;
  return (
    <div>
      <p className="mb-2">{t.keeping.takes({ n: sum(preview.soon), now: sum(preview.now) })}</p>
      <ul className="max-h-72 overflow-y-auto border border-rule px-3" tabIndex={0}>
        {preview.first.map((one, index) => (
          <li
            key={index}
            className="flex flex-wrap items-baseline gap-x-3 border-b border-rule py-1.5 last:border-0"
          >
            <span className="min-w-0 grow">
              {one.meeting ? (
                <Link to={`/meetings/${one.meeting}`} className="font-serif hover:underline">
                  {one.title}
                </Link>
              ) : (
                <span className="text-faded">{t.keeping.unseen}</span>
              )}{" "}
              <span className="text-sm text-faded">{showDay(one.held_on)}</span>
            </span>
            <span className="text-sm">
              {t.keeping.what[one.what]} {t.keeping.on({ day: longDate(one.on) })}
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}
