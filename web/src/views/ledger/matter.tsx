import { useState } from "react";
import { Link } from "react-router";
import { client, the } from "../../api/client";
import { keys, useChange } from "../../api/hooks";
import { may } from "../../api/rights";
import { Glyph } from "../../parts/glyph";
import { keepPact, named, PactPress, useAgree, type Pact } from "../../parts/pact";
import { useSay } from "../../parts/sayings";
import { Wrong } from "../../parts/states";
import { clock, isPast, showDay } from "../../parts/time";
import type { Walked } from "../../parts/walked";
import { t } from "../../texts";
import type { Matter, Step } from "../../parts/matters";
import { SendElsewhere } from "../connections/send";

/** What is read of a step, in a word. */
function nameOf(matter: Matter, step: Step): string {
  if (matter.kind === "action" && step.kind === "made") return t.ledger.takenOn;
  if (matter.kind === "decision" && step.kind === "carried") return t.ledger.carriedDecision;
  return t.ledger.steps[step.kind];
}

/** A matter with what became of it: ticked, given, dated, and answered where it is asked whether it is done. */
export function MatterRow({ matter, walked }: { matter: Matter; walked: Walked }) {
  const say = useSay();
  const [open, setOpen] = useState(false);
  const [sending, setSending] = useState(false);
  const name = String(matter.id);
  const changes = may(matter, "change");
  const tick = useChange(
    (done: boolean) =>
      the(
        client.PATCH("/api/minutes/findings/{finding_id}", {
          params: { path: { finding_id: matter.finding } },
          body: { done },
        }),
      ),
    keys.ledger,
    keys.today,
  );
  const judge = useChange(
    ({ step, was, now }: { step: number; was: Step["state"]; now: Step["state"] }) =>
      the(
        client.POST("/api/ledger/steps/{step_id}", {
          params: { path: { step_id: step } },
          body: { was, now },
        }),
      ),
    keys.ledger,
    keys.today,
  );
  const asked = matter.steps.find((step) => step.id === matter.asked);
  const answer = (now: "confirmed" | "refused") => {
    if (!asked || !changes) return;
    const said = now === "confirmed" ? t.ledger.saidYes : t.ledger.saidNo;
    judge.mutate(
      { step: asked.id, was: asked.state, now },
      {
        onSuccess: () =>
          say(said({ text: matter.text }), () =>
            judge.mutate({ step: asked.id, was: now, now: "read" }),
          ),
      },
    );
  };
  const toggle = () => {
    const done = matter.closed !== "done";
    tick.mutate(done, {
      onSuccess: () => {
        if (done) say(t.spread.doneMark({ text: matter.text }), () => tick.mutate(false));
      },
    });
  };
  const ticks = matter.kind === "action" && changes && matter.closed !== "dropped";
  const glyph = <Glyph kind={matter.closed === "done" ? "done" : matter.kind} size={18} />;
  const first = matter.steps.at(-1)?.quotes[0];
  return (
    <li
      {...walked.item(name)}
      aria-label={matter.text}
      className="grid grid-cols-[1.6rem_minmax(0,1fr)] gap-x-2 border-b border-rule px-2 py-2.5 last:border-0"
      onKeyDown={(event) => {
        if (event.target !== event.currentTarget || event.altKey || event.ctrlKey || event.metaKey)
          return;
        if (event.key === "y") answer("confirmed");
        else if (event.key === "n") answer("refused");
        else if (event.key === "d" && ticks) toggle();
        else if (event.key === "Enter") setOpen(!open);
      }}
    >
      <span className="pt-0.5">
        {ticks ? (
          <button
            type="button"
            tabIndex={walked.inner(name)}
            className="plain"
            aria-pressed={matter.closed === "done"}
            aria-label={
              matter.closed === "done"
                ? t.spread.doneMark({ text: matter.text })
                : t.spread.openMark({ text: matter.text })
            }
            title={matter.closed === "done" ? t.today.reopen : t.today.done}
            onClick={toggle}
          >
            {glyph}
          </button>
        ) : (
          glyph
        )}
      </span>
      <div className="min-w-0">
        <p className={`font-serif ${matter.closed ? "text-faded" : ""}`}>
          <Link
            to={`/meetings/${matter.meeting}${first ? `?line=${first.line}` : ""}`}
            tabIndex={walked.inner(name)}
            className="underline-offset-4 hover:underline"
          >
            {matter.text}
          </Link>
        </p>
        <p className="flex flex-wrap items-baseline gap-x-2 text-sm text-faded">
          {matter.kind === "action" && (
            <Whose matter={matter} tab={walked.inner(name)} changes={changes} />
          )}
          {matter.series && <span>{matter.series}</span>}
          <button
            type="button"
            tabIndex={walked.inner(name)}
            aria-expanded={open}
            className="plain px-1 text-sm"
            onClick={() => setOpen(!open)}
          >
            <Course matter={matter} />
          </button>
        </p>
        {asked && (
          <Asked
            step={asked}
            tab={walked.inner(name)}
            answer={changes ? answer : null}
            pending={judge.isPending}
          />
        )}
        <Wrong error={judge.error ?? tick.error} className="text-sm" />
        {open && <Steps matter={matter} changes={changes} />}
        {open && may(matter, "send") && (
          <button type="button" className="plain text-sm" onClick={() => setSending(true)}>
            {t.connections.sendSomewhere}…
          </button>
        )}
        {sending && (
          <SendElsewhere
            meeting={matter.meeting}
            thing={{ subject: matter.kind, key: String(matter.id) }}
            close={() => setSending(false)}
          />
        )}
      </div>
    </li>
  );
}

/** The way it went in a line: a sign a meeting, joined as long as it goes on. */
function Course({ matter }: { matter: Matter }) {
  return (
    <span className="inline-flex flex-wrap items-center gap-x-1">
      <span className="sr-only">{t.ledger.follow}: </span>
      {matter.steps.map((step, index) => (
        <span key={step.id} className="inline-flex items-center gap-x-1 whitespace-nowrap">
          {index > 0 && <span aria-hidden className="inline-block w-4 border-t border-edge" />}
          <span className={step.id === matter.asked ? "italic" : ""}>
            {nameOf(matter, step)}
            {step.id === matter.asked && "?"}
          </span>{" "}
          {showDay(step.started_at)}
        </span>
      ))}
    </span>
  );
}

/** Whether it is done, or given up, by what was said there: the words, and yes or no. */
function Asked({
  step,
  tab,
  answer,
  pending,
}: {
  step: Step;
  tab: number;
  answer: ((now: "confirmed" | "refused") => void) | null;
  pending: boolean;
}) {
  const quote = step.quotes.at(-1);
  const where = { title: step.title, day: showDay(step.started_at) };
  const ask = step.kind === "dropped" ? t.ledger.askDropped : t.ledger.askDone;
  return (
    <div className="mt-1.5 border-l-2 border-brass pl-3">
      <p className="text-sm">{ask(where)}</p>
      {quote && (
        <p className="font-serif text-sm">
          <Link
            to={`/meetings/${step.meeting}?line=${quote.line}`}
            tabIndex={tab}
            className="underline-offset-4 hover:underline"
          >
            <span className="text-faded italic">{quote.who}: </span>“{quote.text}”
          </Link>
        </p>
      )}
      {answer && (
        <p className="mt-1 flex gap-2">
          <button
            type="button"
            tabIndex={tab}
            disabled={pending}
            className="press py-0.5 text-sm"
            onClick={() => answer("confirmed")}
          >
            {t.ledger.yes}
          </button>
          <button
            type="button"
            tabIndex={tab}
            disabled={pending}
            className="press py-0.5 text-sm"
            onClick={() => answer("refused")}
          >
            {t.ledger.no}
          </button>
        </p>
      )}
    </div>
  );
}

/** Whose it is and by when, changed where it stands. */
function Whose({ matter, tab, changes }: { matter: Matter; tab: number; changes: boolean }) {
  const change = useChange(keepPact(matter.finding), keys.ledger, keys.today);
  const was: Pact = { owner: matter.owner, due: matter.due };
  const agree = useAgree(was, change.mutate);
  const late = !matter.closed && matter.due !== null && isPast(matter.due);
  const told = (
    <>
      {named(was).owner} · <span className={late ? "text-clay" : ""}>{named(was).day}</span>
    </>
  );
  if (!changes) return <span>{told}</span>;
  return (
    <>
      <span className="-ml-1">
        <PactPress id={matter.id} there={[]} was={was} tab={tab} agree={agree}>
          {told}
        </PactPress>
      </span>
      <Wrong error={change.error} className="text-sm" />
    </>
  );
}

/** Each meeting's step with the lines it rests on; what is settled anew can be taken as a matter of its own. */
function Steps({ matter, changes }: { matter: Matter; changes: boolean }) {
  const say = useSay();
  const join = useChange(
    ({ step, into }: { step: number; into: number }) =>
      the(
        client.POST("/api/ledger/steps/{step_id}/join", {
          params: { path: { step_id: step } },
          body: { matter: into },
        }),
      ),
    keys.ledger,
  );
  const part = useChange(
    (step: number) =>
      the(client.POST("/api/ledger/steps/{step_id}/part", { params: { path: { step_id: step } } })),
    keys.ledger,
  );
  return (
    <ol className="mt-2 border-l border-edge pl-4">
      {matter.steps.map((step) => (
        <li key={step.id} className="relative py-1.5">
          <span aria-hidden className="absolute top-3 -left-[1.3rem] size-2 rounded-full bg-edge" />
          <p className="text-sm text-faded">
            {showDay(step.started_at)} · {nameOf(matter, step)} ·{" "}
            <Link to={`/meetings/${step.meeting}`} className="underline-offset-4 hover:underline">
              {step.title}
            </Link>
            {step.by && ` · ${t.ledger.by({ name: step.by })}`}
          </p>
          {step.text && step.text !== matter.text && (
            <p className="font-serif text-sm">{step.text}</p>
          )}
          {step.quotes.map((quote) => (
            <p key={quote.line} className="font-serif text-sm">
              <Link
                to={`/meetings/${step.meeting}?line=${quote.line}`}
                className="underline-offset-4 hover:underline"
              >
                <span className="font-sans text-xs text-faded">{clock(quote.start)}</span>{" "}
                <span className="text-faded italic">{quote.who}: </span>
                {quote.text}
              </Link>
            </p>
          ))}
          {changes && step.settles && step.kind !== "made" && (
            <button
              type="button"
              className="cite"
              onClick={() =>
                part.mutate(step.id, {
                  onSuccess: () =>
                    say(t.ledger.parted, () => join.mutate({ step: step.id, into: matter.id })),
                })
              }
            >
              {t.ledger.apart}
            </button>
          )}
        </li>
      ))}
      <Wrong error={part.error ?? join.error} className="text-sm" />
    </ol>
  );
}
