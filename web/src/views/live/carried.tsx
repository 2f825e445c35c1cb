import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange } from "../../api/hooks";
import { may } from "../../api/rights";
import type { Matter } from "../../parts/matters";
import { useSay } from "../../parts/sayings";
import { Wrong } from "../../parts/states";
import { isPast, showDate, zone } from "../../parts/time";
import { t } from "../../texts";

const SHOWN = 12;

/** What the meetings before this one have left open: ticked off here and now, or carried on as it is. */
export function Carried({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  const key = [...keys.meeting(meeting.id), "ledger"];
  const carried = useQuery({
    queryKey: key,
    enabled: meeting.series !== null,
    queryFn: () =>
      the(
        client.GET("/api/meetings/{meeting_id}/carried", {
          params: { path: { meeting_id: meeting.id }, query: { time_zone: zone() } },
        }),
      ),
  });
  const say = useSay();
  const tick = useChange(
    ({ id, now }: { id: number; now: "done" | "dropped" | null }) =>
      the(
        client.POST("/api/meetings/{meeting_id}/carried/{matter_id}", {
          params: { path: { meeting_id: meeting.id, matter_id: id } },
          body: { now },
        }),
      ),
    key,
    keys.ledger,
    keys.today,
  );
  const saySo = ({ id, text }: Matter, now: "done" | "dropped") =>
    tick.mutate(
      { id, now },
      {
        onSuccess: () => say(t.carried.closed[now]({ text }), () => tick.mutate({ id, now: null })),
      },
    );
  const open = carried.data?.slice(0, SHOWN) ?? [];
  if (!open.length) return null;
  return (
    <section aria-label={t.carried.title}>
      <h2 className="text-lg italic">{t.carried.title}</h2>
      <p className="mb-1 text-sm text-faded">{t.carried.hint}</p>
      <ul>
        {open.map((one) => (
          <li
            key={one.id}
            className="flex flex-wrap items-baseline gap-x-3 border-b border-rule py-1.5"
          >
            <span className={`min-w-0 grow basis-52 ${one.closed ? "text-faded" : ""}`}>
              <span className={`font-serif ${one.closed ? "line-through" : ""}`}>{one.text}</span>
              <span className="block text-sm text-faded">
                {one.owner ?? t.minutes.nobody}
                {one.due && (
                  <span className={isPast(one.due) && !one.closed ? "text-clay" : ""}>
                    {` · ${t.today.due} ${showDate(one.due)}`}
                  </span>
                )}
              </span>
            </span>
            {one.closed ? (
              <span className="text-sm text-faded">
                {t.ledger.steps[one.closed]}{" "}
                {may(meeting, "change") && (
                  <button
                    type="button"
                    className="plain text-sm"
                    aria-label={t.carried.backOf({ text: one.text })}
                    onClick={() => tick.mutate({ id: one.id, now: null })}
                  >
                    {t.carried.back}
                  </button>
                )}
              </span>
            ) : (
              may(meeting, "change") && (
                <span className="flex gap-2">
                  {(["done", "dropped"] as const).map((now) => (
                    <button
                      key={now}
                      type="button"
                      className="press px-2.5 py-0.5 text-sm"
                      aria-label={t.carried.sayOf[now]({ text: one.text })}
                      onClick={() => saySo(one, now)}
                    >
                      {t.carried.say[now]}
                    </button>
                  ))}
                </span>
              )
            )}
          </li>
        ))}
      </ul>
      {(carried.data?.length ?? 0) > SHOWN && (
        <Link className="cite text-sm" to="/ledger">
          {t.carried.rest({ n: carried.data!.length - SHOWN })}
        </Link>
      )}
      <Wrong error={tick.error} className="text-sm" />
    </section>
  );
}
