import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { useNavigate } from "react-router";
import { anew } from "../../api/anew";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange, useMe } from "../../api/hooks";
import { may, type Can } from "../../api/rights";
import { Wait, Wrong } from "../../parts/states";
import { zone } from "../../parts/time";
import { t } from "../../texts";

type Step = Schemas["FirstStep"];
type Me = Schemas["MeOut"];

/** In their order, each with the right that it takes. */
const STEPS: [Step, Can][] = [
  ["read", "add"],
  ["ask", "add"],
  ["microphone", "add"],
  ["words", "arrange"],
  ["share", "add"],
];

/** Those that somebody may take. */
export const stepsOf = (me: Me) => STEPS.filter(([, can]) => may(me, can)).map(([step]) => step);

/** Keeps them; what was pressed counts at once, also for the next press. */
export function useFirstSteps() {
  const cache = useQueryClient();
  const change = useChange(
    (body: { done: Step[]; settled_in: boolean }) =>
      the(client.PUT("/api/me/first-steps", { body })),
    keys.me,
  );
  useEffect(() => {
    if (change.error) void anew(cache, keys.me);
  }, [change.error, cache]);
  const mutate = (body: { done: Step[]; settled_in: boolean }) => {
    cache.setQueryData(
      keys.me,
      (old?: Me) => old && { ...old, first_steps: body.done, settled_in: body.settled_in },
    );
    change.mutate(body);
  };
  return { ...change, mutate };
}

/** Five minutes for somebody who is new here: left and taken up at will, with or without anything in the library. */
export function FirstSteps() {
  const me = useMe();
  const go = useNavigate();
  const keep = useFirstSteps();
  const sample = useChange(
    () =>
      the(
        client.POST("/api/meetings/sample", {
          body: { title: t.first.sampleTitle, time_zone: zone() },
        }),
      ),
    keys.library,
    keys.today,
  );
  if (!me.data) return <Wait />;
  const { first_steps: done, settled_in: settled } = me.data;
  const set = (step: Step, on: boolean) =>
    keep.mutate({
      done: on ? [...new Set([...done, step])] : done.filter((one) => one !== step),
      settled_in: settled,
    });
  const toSample = (leaf: string) =>
    sample.mutate(undefined, { onSuccess: ({ id }) => void go(`/meetings/${id}${leaf}`) });
  const ways: Record<Step, () => void> = {
    read: () => toSample(""),
    ask: () => toSample("?leaf=ask"),
    microphone: () => void go("/rehearsal"),
    words: () => void go("/words"),
    share: () =>
      sample.mutate(undefined, { onSuccess: ({ id }) => void go(`/meetings/${id}/settings`) }),
  };
  return (
    <div className="mx-auto w-full max-w-2xl px-4 py-8 sm:px-6">
      <h1 className="text-2xl">{t.first.title}</h1>
      <p className="mt-2 font-serif">{t.first.intro}</p>
      <Wrong error={sample.error ?? keep.error} className="mt-3" />
      <ol className="sheet mt-5 px-5">
        {stepsOf(me.data).map((step) => (
          <li
            key={step}
            className="grid grid-cols-[1.5rem_1fr] items-start gap-x-3 gap-y-2 sm:grid-cols-[1.5rem_1fr_auto] border-b border-rule py-4 last:border-0"
          >
            <input
              type="checkbox"
              className="mt-1 size-4 accent-slate"
              aria-label={t.first.done({ step: t.first.steps[step].title })}
              checked={done.includes(step)}
              onChange={(event) => set(step, event.target.checked)}
            />
            <div>
              <h2 className={`text-base ${done.includes(step) ? "text-faded" : ""}`}>
                {t.first.steps[step].title}
              </h2>
              <p className="text-sm text-faded">{t.first.steps[step].hint}</p>
            </div>
            <button
              type="button"
              className="press justify-self-start text-sm max-sm:col-start-2"
              disabled={sample.isPending}
              onClick={() => {
                set(step, true);
                ways[step]();
              }}
            >
              {t.first.steps[step].go}
            </button>
          </li>
        ))}
      </ol>
      <p className="mt-4 text-sm text-faded">
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="size-4 accent-slate"
            checked={settled}
            onChange={(event) => keep.mutate({ done, settled_in: event.target.checked })}
          />
          {t.first.settled}
        </label>
      </p>
    </div>
  );
}
