import { useState } from "react";
import { Link } from "react-router";
import { client, failed, the } from "../../api/client";
import { elsewhere, useDeliveries, type Went, type WentAsked } from "../../api/elsewhere";
import { useChange } from "../../api/hooks";
import { Choose } from "../../parts/choose";
import { useSay } from "../../parts/sayings";
import { Empty, Trouble, Wait, Wrong } from "../../parts/states";
import { showDay, showTime } from "../../parts/time";
import { t } from "../../texts";
import { subjectName } from "./words";

/** What went where, when and why, and what the other side said. */
export function Deliveries({ asked, named = true }: { asked: WentAsked; named?: boolean }) {
  const [state, setState] = useState<Went["state"] | "">("");
  const went = useDeliveries(state ? { ...asked, state } : asked);
  if (failed(went)) return <Trouble error={went.error} again={() => void went.refetch()} />;
  if (!went.data) return <Wait />;
  const rows = went.data.pages.flatMap((page) => page.deliveries);
  if (rows.length === 0 && !state) return <Empty>{t.connections.wentNone}</Empty>;
  return (
    <>
      <div className="mb-2 max-w-60">
        <Choose
          id="went-state"
          label={t.connections.only}
          value={state}
          change={setState}
          options={{ "": t.connections.everything, ...t.connections.states }}
        />
      </div>
      <ul className="sheet px-4">
        {rows.map((one) => (
          <Row key={one.id} one={one} named={named} />
        ))}
        {rows.length === 0 && <Empty>{t.connections.wentNone}</Empty>}
      </ul>
      {went.hasNextPage && (
        <button
          type="button"
          className="press mt-3"
          disabled={went.isFetchingNextPage}
          onClick={() => void went.fetchNextPage()}
        >
          {t.connections.more}
        </button>
      )}
    </>
  );
}

function why(one: Went): string {
  if (one.by) return t.connections.by({ who: one.by });
  if (one.rule) return t.connections.ruleOf({ name: one.rule });
  return one.by_rule ? t.connections.byRule : "";
}

function Row({ one, named }: { one: Went; named: boolean }) {
  const say = useSay();
  const again = useChange(
    () =>
      the(
        client.POST("/api/connections/deliveries/{delivery_id}/again", {
          params: { path: { delivery_id: one.id } },
        }),
      ),
    elsewhere.all,
  );
  const at = one.sent_at ?? one.queued_at;
  const wrong = one.state === "aside" || (one.state === "waiting" && one.tries > 0);
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-rule py-2.5 last:border-0">
      <div className="min-w-0 grow basis-72">
        <p className="font-serif">
          {subjectName(one.subject)}
          {one.words && <>: {one.words}</>}{" "}
          {one.meeting ? (
            <Link to={`/meetings/${one.meeting}`} className="cite">
              {one.title}
            </Link>
          ) : (
            !one.words && (
              <span className="font-sans text-sm text-faded">{t.connections.unseen}</span>
            )
          )}
        </p>
        <p className="text-sm text-faded">
          {[
            named && one.connection_name,
            one.target_name,
            t.connections.happened[one.happened],
            why(one),
          ]
            .filter(Boolean)
            .join(" · ")}
        </p>
        {one.said && (
          <p className={`text-sm ${wrong ? "text-clay" : "text-faded"}`}>
            {one.said} {one.tries > 1 && t.connections.tries({ n: one.tries })}
            {one.again && ` · ${t.connections.next({ time: showTime(one.again) })}`}
          </p>
        )}
        {one.places.length > 0 && <Where one={one} />}
        <Wrong error={again.error} />
      </div>
      <span className={`text-sm ${one.state === "aside" ? "text-clay" : "text-faded"}`}>
        {t.connections.states[one.state]} {showDay(at)}, {showTime(at)}
      </span>
      {one.state === "aside" && (
        <button
          type="button"
          className="press py-1 text-sm"
          disabled={again.isPending}
          onClick={() => again.mutate(undefined, { onSuccess: () => say(t.connections.sentAgain) })}
        >
          {t.connections.again}
        </button>
      )}
    </li>
  );
}

/** Of several places there it is not clear which is meant: somebody says so, once. */
function Where({ one }: { one: Went }) {
  const say = useSay();
  const of = [...new Set(one.places.map((place) => place.what))];
  const [chosen, setChosen] = useState<Record<string, string>>({});
  const tell = useChange(
    () =>
      the(
        client.POST("/api/connections/deliveries/{delivery_id}/where", {
          params: { path: { delivery_id: one.id } },
          body: {
            places: one.places.filter((place) => chosen[place.what] === place.key),
          },
        }),
      ),
    elsewhere.all,
  );
  return (
    <form
      className="mt-2 flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        tell.mutate(undefined, { onSuccess: () => say(t.connections.whereDone) });
      }}
    >
      {of.map((what) => (
        <Choose
          key={what}
          id={`${one.id}-${what}`}
          label={t.connections.whereTitle({ what })}
          value={chosen[what] ?? ""}
          change={(key) => setChosen({ ...chosen, [what]: key })}
          options={{
            "": t.connections.choose,
            ...Object.fromEntries(
              one.places
                .filter((place) => place.what === what)
                .map((place) => [place.key, place.name]),
            ),
          }}
        />
      ))}
      <button
        type="submit"
        className="press"
        disabled={tell.isPending || of.some((what) => !chosen[what])}
      >
        {t.connections.whereOk}
      </button>
      <Wrong error={tell.error} />
    </form>
  );
}
