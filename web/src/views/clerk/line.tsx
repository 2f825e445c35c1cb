import { client, the, type Schemas } from "../../api/client";
import { keys, useChange } from "../../api/hooks";
import { Wrong } from "../../parts/states";
import { t } from "../../texts";
import { whyOf } from "./words";

type Entry = Schemas["EntryOut"];

/** Of a planned meeting: whether the clerk goes there and why, and one press that changes it. */
export function ClerkLine({ entry, clerk }: { entry: Entry; clerk: Schemas["ClerkOut"] }) {
  const wish = useChange(
    (body: Schemas["WishIn"]) =>
      the(
        client.PUT("/api/planned/{planned_id}/clerk", {
          params: { path: { planned_id: entry.planned! } },
          body,
        }),
      ),
    keys.days,
    keys.visits,
    ["planned"],
  );
  const title = entry.title || t.day.untitled;
  const open = Date.parse(entry.end) > Date.now() && clerk.state === null;
  const press = (words: string, label: string, body: Schemas["WishIn"]) => (
    <button
      type="button"
      className="plain px-0 underline underline-offset-4"
      aria-label={label}
      disabled={wish.isPending}
      onClick={() => wish.mutate(body)}
    >
      {words}
    </button>
  );
  const { goes } = clerk;
  return (
    <div className="mt-0.5 flex flex-wrap items-baseline gap-x-3 text-sm">
      <span className={goes ? "" : "text-faded"}>{whyOf(clerk)}</span>
      {open && !clerk.fixed && (
        <>
          {goes
            ? press(t.clerk.keep, t.clerk.keepOf({ title }), { wanted: false, series: false })
            : press(t.clerk.let, t.clerk.letOf({ title }), { wanted: true, series: false })}
          {entry.recurs &&
            (goes
              ? press(t.clerk.notSeries, t.clerk.notSeriesOf({ title }), {
                  wanted: false,
                  series: true,
                })
              : press(t.clerk.series, t.clerk.seriesOf({ title }), { wanted: true, series: true }))}
          {(clerk.mine ?? clerk.series) !== null &&
            press(t.clerk.asRules, t.clerk.asRulesOf({ title }), {
              wanted: null,
              series: clerk.mine === null,
            })}
        </>
      )}
      <Wrong error={wish.error} />
    </div>
  );
}
