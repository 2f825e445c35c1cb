import { useState, type FormEvent } from "react";
import { client, failed, the, type Schemas } from "../../api/client";
import { keys, useChange, useKinds, useTemplates } from "../../api/hooks";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { Empty, Trouble, Wait, Wrong } from "../../parts/states";
import { t } from "../../texts";

type Template = Schemas["MinutesTemplateOut"];
type Section = Schemas["TemplateSectionIn"];
interface Draft {
  name: string | null;
  title: string;
  sections: Section[];
}
const EMPTY: Section = {
  key: "",
  heading: "",
  takes: [],
  speakers: [],
  topics: [],
  cues: [],
  most: 30,
};
const listed = (text: string) =>
  text
    .split(",")
    .map((one) => one.trim())
    .filter(Boolean);

/** How minutes are laid out: the templates of the workspace, and those that come with the program. */
export function Templates() {
  const templates = useTemplates();
  const say = useSay();
  const [draft, setDraft] = useState<Draft | null>(null);
  const remove = useChange(
    (name: string) => the(client.DELETE("/api/templates/{name}", { params: { path: { name } } })),
    keys.templates,
  );
  const restore = useChange(
    (name: string) =>
      the(client.POST("/api/templates/{name}/restore", { params: { path: { name } } })),
    keys.templates,
  );
  if (templates.isPending) return <Wait />;
  if (failed(templates))
    return <Trouble error={templates.error} again={() => void templates.refetch()} />;
  const own = templates.data.filter((one) => one.own);
  const row = (one: Template) => (
    <li key={one.name} className="flex flex-wrap items-baseline gap-x-4 border-b border-rule py-2">
      <span className="grow">
        <span className="font-serif">{one.title}</span>
        <span className="block text-sm text-faded">
          {one.sections.map((section) => section.heading).join(" · ")}
        </span>
      </span>
      {one.own ? (
        <>
          <button
            type="button"
            className="plain text-sm"
            aria-label={t.templates.changeOf({ title: one.title })}
            onClick={() => setDraft({ ...one })}
          >
            {t.templates.change}
          </button>
          <button
            type="button"
            className="plain text-sm"
            aria-label={t.templates.removeOf({ title: one.title })}
            onClick={() =>
              remove.mutate(one.name, {
                onSuccess: () =>
                  say(t.templates.removed({ title: one.title }), () => restore.mutate(one.name)),
              })
            }
          >
            {t.templates.remove}
          </button>
        </>
      ) : (
        <button
          type="button"
          className="plain text-sm"
          aria-label={t.templates.copyOf({ title: one.title })}
          onClick={() =>
            setDraft({
              name: null,
              title: t.templates.of({ title: one.title }),
              sections: one.sections,
            })
          }
        >
          {t.templates.copy}
        </button>
      )}
    </li>
  );
  return (
    <div className="mx-auto w-full max-w-3xl px-4 py-8 sm:px-6">
      <h1 className="mb-1 text-2xl">{t.templates.title}</h1>
      <p className="mb-5 text-faded">{t.templates.intro}</p>
      {draft ? (
        <Editor key={draft.name ?? "new"} draft={draft} close={() => setDraft(null)} />
      ) : (
        <>
          <section aria-label={t.templates.ownTitle}>
            <h2 className="mb-1 text-lg">{t.templates.ownTitle}</h2>
            {own.length === 0 && <Empty>{t.templates.none}</Empty>}
            <ul>{own.map(row)}</ul>
            <button
              type="button"
              className="press mt-3"
              onClick={() => setDraft({ name: null, title: "", sections: [{ ...EMPTY }] })}
            >
              {t.templates.make}
            </button>
          </section>
          <section aria-label={t.templates.given} className="mt-8">
            <h2 className="mb-1 text-lg">{t.templates.given}</h2>
            <ul>{templates.data.filter((one) => !one.own).map(row)}</ul>
          </section>
          <Wrong error={remove.error ?? restore.error} className="mt-3" />
        </>
      )}
    </div>
  );
}

function Editor({ draft, close }: { draft: Draft; close: () => void }) {
  const kinds = useKinds();
  const say = useSay();
  const [title, setTitle] = useState(draft.title);
  const [sections, setSections] = useState(draft.sections);
  const keep = useChange(
    () =>
      draft.name === null
        ? the(client.POST("/api/templates", { body: { title, sections } }))
        : the(
            client.PUT("/api/templates/{name}", {
              params: { path: { name: draft.name } },
              body: { title, sections },
            }),
          ),
    keys.templates,
  );
  const set = (index: number, change: Partial<Section>) =>
    setSections(sections.map((one, place) => (place === index ? { ...one, ...change } : one)));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    keep.mutate(undefined, {
      onSuccess: () => {
        say(t.templates.kept);
        close();
      },
    });
  };
  const offered = [
    { kind: "gist", heading: t.templates.gist },
    { kind: "chapters", heading: t.templates.chapters },
    ...(kinds.data ?? []),
  ];
  const words = (
    index: number,
    name: "speakers" | "topics" | "cues",
    label: string,
    hint: string,
  ) => (
    <Field label={label} htmlFor={`${name}-${index}`} hint={hint}>
      <input
        id={`${name}-${index}`}
        className="field"
        defaultValue={sections[index]![name].join(", ")}
        onChange={(event) => set(index, { [name]: listed(event.target.value) })}
      />
    </Field>
  );
  return (
    <form onSubmit={submit}>
      <div className="mb-4 max-w-96">
        <Field label={t.templates.name} htmlFor="template-title">
          <input
            id="template-title"
            required
            maxLength={120}
            className="field font-serif"
            value={title}
            onChange={(event) => setTitle(event.target.value)}
          />
        </Field>
      </div>
      <ol className="flex flex-col gap-4">
        {sections.map((section, index) => (
          <li key={index + section.key} className="sheet p-4">
            <div className="mb-3 flex flex-wrap items-end gap-3">
              <div className="grow">
                <Field
                  label={`${t.templates.section({ n: index + 1 })}: ${t.templates.heading}`}
                  htmlFor={`heading-${index}`}
                >
                  <input
                    id={`heading-${index}`}
                    required
                    maxLength={120}
                    className="field font-serif"
                    value={section.heading}
                    onChange={(event) => set(index, { heading: event.target.value })}
                  />
                </Field>
              </div>
              <Field label={t.templates.most} htmlFor={`most-${index}`}>
                <input
                  id={`most-${index}`}
                  type="number"
                  min={1}
                  max={60}
                  required
                  className="field w-24"
                  value={section.most}
                  onChange={(event) => set(index, { most: Number(event.target.value) })}
                />
              </Field>
              <button
                type="button"
                className="plain text-sm"
                disabled={index === 0}
                onClick={() =>
                  setSections([
                    ...sections.slice(0, index - 1),
                    section,
                    sections[index - 1]!,
                    ...sections.slice(index + 1),
                  ])
                }
              >
                {t.templates.up}
              </button>
              <button
                type="button"
                className="plain text-sm"
                disabled={sections.length === 1}
                onClick={() => setSections(sections.filter((_, place) => place !== index))}
              >
                {t.templates.dropSection}
              </button>
            </div>
            <fieldset>
              <legend className="font-serif text-sm">{t.templates.takes}</legend>
              <div className="flex flex-wrap gap-x-4 gap-y-1 text-sm">
                {offered.map((one) => (
                  <label key={one.kind} className="flex items-center gap-1.5">
                    <input
                      type="checkbox"
                      className="accent-slate"
                      checked={section.takes.includes(one.kind)}
                      onChange={(event) =>
                        set(index, {
                          takes: event.target.checked
                            ? [...section.takes, one.kind]
                            : section.takes.filter((kind) => kind !== one.kind),
                        })
                      }
                    />
                    {one.heading}
                  </label>
                ))}
              </div>
            </fieldset>
            <div className="mt-3 grid gap-3 sm:grid-cols-3">
              {words(index, "speakers", t.templates.speakers, t.templates.speakersHint)}
              {words(index, "topics", t.templates.topics, t.templates.topicsHint)}
              {words(index, "cues", t.templates.cues, t.templates.cuesHint)}
            </div>
          </li>
        ))}
      </ol>
      <button
        type="button"
        className="press mt-3"
        onClick={() => setSections([...sections, { ...EMPTY }])}
      >
        {t.templates.addSection}
      </button>
      {keep.error && (
        <p role="alert" className="mt-3 border-l-4 border-clay pl-3">
          {keep.error.message}
        </p>
      )}
      <p className="mt-5 flex gap-3">
        <button type="submit" className="press press-main" disabled={keep.isPending}>
          {t.templates.keep}
        </button>
        <button type="button" className="plain" onClick={close}>
          {t.templates.leave}
        </button>
      </p>
    </form>
  );
}
