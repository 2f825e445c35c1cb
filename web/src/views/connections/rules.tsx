import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import {
  elsewhere,
  useTargets,
  type Outside,
  type OutsideKind,
  type Subject,
} from "../../api/elsewhere";
import { useChange, useNarrow, useTemplates } from "../../api/hooks";
import { Choose } from "../../parts/choose";
import { useSay } from "../../parts/sayings";
import { Empty, Wrong } from "../../parts/states";
import { t } from "../../texts";
import { subjectsNamed } from "./words";

type Rule = Schemas["RuleOut"];

/** What goes by itself, and of which meetings. */
export function Rules({ one, kind }: { one: Outside; kind: OutsideKind }) {
  const say = useSay();
  const templates = useTemplates().data ?? [];
  const drop = useChange(
    (rule: number) =>
      the(
        client.DELETE("/api/connections/{connection_id}/rules/{rule_id}", {
          params: { path: { connection_id: one.id, rule_id: rule } },
        }),
      ),
    elsewhere.all,
  );
  const of = (rule: Rule) => {
    const template = templates.find((known) => known.name === rule.template)?.title;
    const said = [
      rule.series && t.connections.ofSeries({ name: rule.series }),
      rule.shelf && t.connections.onShelf({ name: rule.shelf }),
      rule.template && t.connections.ofKind({ name: template ?? rule.template }),
      rule.people.length > 0 && t.connections.with({ names: rule.people.join(", ") }),
    ].filter(Boolean);
    return said.length ? said.join(", ") : t.connections.all;
  };
  return (
    <section aria-labelledby="rules" className="sheet mt-6 p-6">
      <h2 id="rules" className="text-lg">
        {t.connections.rules}
      </h2>
      <p className="mb-2 text-sm text-faded">{t.connections.rulesHint}</p>
      {one.rules.length === 0 && <Empty>{t.connections.noRules}</Empty>}
      <ul>
        {one.rules.map((rule) => (
          <li
            key={rule.id}
            className="flex flex-wrap items-baseline gap-x-4 border-b border-rule py-2"
          >
            <span className="grow font-serif">
              {subjectsNamed(rule.subjects)}{" "}
              <span className="font-sans text-sm text-faded">
                {of(rule)}
                {rule.target_name && `, ${t.connections.to({ name: rule.target_name })}`}
              </span>
            </span>
            {one.can_change && (
              <button
                type="button"
                className="plain text-sm"
                disabled={drop.isPending}
                onClick={() =>
                  drop.mutate(rule.id, { onSuccess: () => say(t.connections.ruleDropped) })
                }
              >
                {t.connections.dropRule}
              </button>
            )}
          </li>
        ))}
      </ul>
      <Wrong error={drop.error} />
      {one.can_change && <AddRule one={one} kind={kind} />}
    </section>
  );
}

const asOptions = (rows: { id: number; name: string }[] | undefined) => ({
  "": t.connections.any,
  ...Object.fromEntries((rows ?? []).map((row) => [String(row.id), row.name])),
});

function AddRule({ one, kind }: { one: Outside; kind: OutsideKind }) {
  const say = useSay();
  // Excerpts and answers go by hand.
  const able = kind.takes.filter((subject) => subject !== "excerpt" && subject !== "answer");
  const [subjects, setSubjects] = useState<Subject[]>(able.slice(0, 1));
  const [of, setOf] = useState({ series: "", shelf: "", template: "", person: "", target: "" });
  const narrow = useNarrow().data;
  const templates = useTemplates().data ?? [];
  const targets = useTargets(one.id, kind.aims).data ?? [];
  const set = (change: Partial<typeof of>) => setOf({ ...of, ...change });
  const add = useChange(
    () =>
      the(
        client.POST("/api/connections/{connection_id}/rules", {
          params: { path: { connection_id: one.id } },
          body: {
            subjects,
            series: of.series ? Number(of.series) : null,
            shelf: of.shelf ? Number(of.shelf) : null,
            template: of.template,
            people: of.person ? [Number(of.person)] : [],
            target: of.target,
            target_name: targets.find((target) => target.key === of.target)?.name ?? "",
          },
        }),
      ),
    elsewhere.all,
  );
  return (
    <details className="mt-3">
      <summary className="cursor-pointer">{t.connections.addRule}</summary>
      <form
        className="mt-3 flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate(undefined, { onSuccess: () => say(t.connections.ruleAdded) });
        }}
      >
        <fieldset className="flex flex-wrap gap-x-5 gap-y-1">
          <legend className="mb-1 font-serif text-sm">{t.connections.what}</legend>
          {able.map((subject) => (
            <label key={subject} className="flex items-center gap-2">
              <input
                type="checkbox"
                className="size-4 accent-slate"
                checked={subjects.includes(subject)}
                onChange={(event) =>
                  setSubjects(
                    event.target.checked
                      ? [...subjects, subject]
                      : subjects.filter((other) => other !== subject),
                  )
                }
              />
              {t.connections.subjects[subject]}
            </label>
          ))}
        </fieldset>
        <div className="grid gap-4 sm:grid-cols-2">
          <Choose
            id="rule-series"
            label={t.connections.series}
            value={of.series}
            change={(series) => set({ series })}
            options={asOptions(narrow?.series)}
          />
          <Choose
            id="rule-shelf"
            label={t.connections.shelf}
            value={of.shelf}
            change={(shelf) => set({ shelf })}
            options={asOptions(narrow?.shelves)}
          />
          <Choose
            id="rule-template"
            label={t.connections.kind}
            value={of.template}
            change={(template) => set({ template })}
            options={{
              "": t.connections.any,
              ...Object.fromEntries(templates.map((known) => [known.name, known.title])),
            }}
          />
          <Choose
            id="rule-person"
            label={t.connections.whom}
            value={of.person}
            change={(person) => set({ person })}
            options={asOptions(narrow?.people)}
          />
          {kind.aims && (
            <Choose
              id="rule-target"
              label={t.connections.target}
              value={of.target}
              change={(target) => set({ target })}
              options={{
                "": t.connections.choose,
                ...Object.fromEntries(targets.map((target) => [target.key, target.name])),
              }}
            />
          )}
        </div>
        <Wrong error={add.error} />
        <p>
          <button
            type="submit"
            className="press"
            disabled={add.isPending || subjects.length === 0 || (kind.aims && !of.target)}
          >
            {t.connections.addRule}
          </button>
        </p>
      </form>
    </details>
  );
}
