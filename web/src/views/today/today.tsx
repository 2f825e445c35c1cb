import { Link } from "react-router";
import { client, failed, the, type Schemas } from "../../api/client";
import { keys, useChange, useMe, useToday } from "../../api/hooks";
import { may } from "../../api/rights";
import { Asked } from "../../parts/asked";
import { Glyph } from "../../parts/glyph";
import { WorkProgress } from "../../parts/progress";
import { MeetingRow } from "../../parts/row";
import { useSay } from "../../parts/sayings";
import { Empty, Trouble, Wait } from "../../parts/states";
import { clock, isPast, showDate } from "../../parts/time";
import { t } from "../../texts";
import { Visits } from "../clerk/visits";
import { stepsOf, useFirstSteps } from "../first/first";
import { LookOver } from "./lookover";
import { News } from "./news";
import { DaySheet } from "./sheet";

function Action({ action }: { action: Schemas["ActionOut"] }) {
  const say = useSay();
  const judge = useChange(
    (done: boolean) =>
      the(
        client.PATCH("/api/minutes/findings/{finding_id}", {
          params: { path: { finding_id: action.id } },
          body: { done },
        }),
      ),
    keys.today,
  );
  const late = !action.done && action.due && isPast(action.due);
  return (
    <li className="grid grid-cols-[auto_minmax(0,1fr)_auto] items-baseline gap-x-2 border-b border-rule py-2.5">
      <button
        type="button"
        aria-pressed={action.done}
        aria-label={
          action.done
            ? t.spread.doneMark({ text: action.text })
            : t.spread.openMark({ text: action.text })
        }
        title={action.done ? t.today.reopen : t.today.done}
        className="plain translate-y-0.5"
        onClick={() =>
          judge.mutate(!action.done, {
            onSuccess: () => {
              if (!action.done)
                say(t.spread.doneMark({ text: action.text }), () => judge.mutate(false));
            },
          })
        }
      >
        <Glyph kind={action.done ? "done" : "action"} size={18} />
      </button>
      <Link
        to={`/meetings/${action.meeting}?line=${action.line}`}
        className="hover:underline underline-offset-4"
      >
        <span className={`block font-serif ${action.done ? "text-faded line-through" : ""}`}>
          {action.text}
        </span>
        <span className="block text-sm text-faded">{action.meeting_title}</span>
      </Link>
      <span className={`text-sm whitespace-nowrap ${late ? "text-clay" : "text-faded"}`}>
        {action.due
          ? `${late ? t.today.overdue : t.today.due} ${showDate(action.due)}`
          : t.today.noDue}
      </span>
    </li>
  );
}

/** For somebody who is new here: how far they are, and on. */
function FirstStepsLeft() {
  const me = useMe().data;
  const keep = useFirstSteps();
  if (!me || me.settled_in) return null;
  const steps = stepsOf(me);
  const left = steps.filter((step) => !me.first_steps.includes(step));
  if (!left.length) return null;
  return (
    <section className="sheet flex flex-wrap items-center gap-x-4 gap-y-2 px-4 py-3">
      <h2 className="text-base">{t.first.title}</h2>
      <p className="grow text-sm text-faded">
        {t.first.left({ left: left.length, all: steps.length })}
      </p>
      <Link to="/first-steps" className="press">
        {left.length === steps.length ? t.first.begin : t.first.on}
      </Link>
      <button
        type="button"
        className="plain text-sm"
        onClick={() => keep.mutate({ done: me.first_steps, settled_in: true })}
      >
        {t.first.away}
      </button>
    </section>
  );
}

export function Today() {
  const today = useToday();
  const me = useMe().data;
  if (today.isPending) return <Wait />;
  if (failed(today)) return <Trouble error={today.error} again={() => void today.refetch()} />;
  const adds = me !== undefined && may(me, "add");
  const { working, new: fresh, actions, meetings, mentions } = today.data;
  return (
    <div className="mx-auto grid w-full max-w-[84rem] items-start gap-x-10 gap-y-6 px-4 py-8 sm:px-6 lg:grid-cols-[minmax(0,1fr)_26rem]">
      <h1 className="text-2xl lg:col-span-2">{t.today.title}</h1>
      <div className="flex min-w-0 flex-col gap-6">
        {mentions.length > 0 && (
          <section>
            <h2 className="mb-2 text-base">{t.passages.mentions}</h2>
            <ul className="sheet px-4">
              {mentions.map((one) => (
                <li key={one.comment} className="border-b border-rule py-2.5 last:border-0">
                  <Link
                    to={`/meetings/${one.meeting}?at=${one.start}`}
                    className="hover:underline underline-offset-4"
                  >
                    <span className="text-sm text-faded">
                      {t.passages.mention_line({ who: one.by })}
                    </span>{" "}
                    <span className="font-serif">{one.meeting_title}</span>{" "}
                    <span className="text-sm text-faded">{clock(one.start)}</span>
                  </Link>
                </li>
              ))}
            </ul>
          </section>
        )}
        <FirstStepsLeft />
        <DaySheet />
        {adds && <Visits />}
        {adds && <Asked />}
        {adds && <LookOver />}
        <News />
        {meetings === 0 && <Empty>{t.today.empty}</Empty>}
        {working.length > 0 && (
          <section>
            <h2 className="mb-2 text-base">{t.today.working}</h2>
            <ul className="sheet px-4">
              {working.map(({ id, title, work }) => (
                <li key={id} className="border-b border-rule py-3 last:border-0">
                  <Link
                    to={`/meetings/${id}`}
                    className="mb-1.5 block font-serif hover:underline underline-offset-4"
                  >
                    {title}
                  </Link>
                  {work.state === "failed" ? (
                    <p className="text-clay">{work.message}</p>
                  ) : (
                    <WorkProgress work={work} />
                  )}
                </li>
              ))}
            </ul>
          </section>
        )}
        {fresh.length > 0 && (
          <section>
            <h2 className="mb-2 text-base">{t.today.fresh}</h2>
            <div className="sheet px-2">
              {fresh.map((meeting) => (
                <MeetingRow key={meeting.id} meeting={meeting} />
              ))}
              <Link to="/library" className="plain m-2 inline-block">
                {t.today.all}
              </Link>
            </div>
          </section>
        )}
      </div>
      <section aria-labelledby="mine">
        <h2 id="mine" className="mb-2 text-base">
          {t.today.actions}
        </h2>
        <div className="sheet px-4 py-1">
          {actions.length ? (
            <ul>
              {actions.map((action) => (
                <Action key={action.id} action={action} />
              ))}
            </ul>
          ) : (
            <Empty>{t.today.noActions}</Empty>
          )}
        </div>
      </section>
    </div>
  );
}
