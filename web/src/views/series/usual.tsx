import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange, useMe, useMembers, useTemplates } from "../../api/hooks";
import { may } from "../../api/rights";
import { Field } from "../../parts/field";
import { Leaf } from "../../parts/leaf";
import { Points, type Point } from "../../parts/points";
import { useSay } from "../../parts/sayings";
import { Wrong } from "../../parts/states";
import { Ticks } from "../../parts/ticks";
import { t } from "../../texts";
import { CustomFields } from "../account/customs";

type Known = Schemas["SeriesOut"];
type Said = Schemas["UsualOut"];

const SEEN: Schemas["Visibility"][] = ["mine", "named", "workspace"];

/** What further meetings of a series take from it: agenda, template, who sees them, who gets their minutes. */
export function Usual({ known, usual }: { known: Known; usual: Said }) {
  const [changing, setChanging] = useState(false);
  const templates = useTemplates().data;
  const members = useMembers().data;
  const readers = members?.filter((one) => usual.readers.includes(one.id)).map((one) => one.name);
  const receivers = known.people.filter((one) => usual.receivers.includes(one.id));
  const rows: [string, string][] = [
    [
      t.usual.agenda,
      usual.points.map((one) => t.usual.point({ text: one.text, n: one.minutes })).join(", "),
    ],
    [t.usual.template, templates?.find((one) => one.name === usual.template)?.title ?? ""],
    [
      t.usual.seen,
      [usual.visibility && t.visibility[usual.visibility], ...(readers ?? [])]
        .filter(Boolean)
        .join(", "),
    ],
    [
      t.usual.receivers,
      [usual.goes_to && t.sending.goesTo[usual.goes_to], ...receivers.map((one) => one.name)]
        .filter(Boolean)
        .join(", "),
    ],
    [t.sending.when, usual.going ? t.sending.goings[usual.going] : ""],
  ];
  return (
    <section aria-labelledby="usual" className="sheet px-5 py-4">
      <div className="mb-2 flex items-baseline gap-4">
        <h2 id="usual" className="text-base">
          {t.usual.title}
        </h2>
        <button type="button" className="cite" onClick={() => setChanging(true)}>
          {t.usual.change}
        </button>
      </div>
      <dl className="grid gap-x-4 gap-y-1 sm:grid-cols-[auto_1fr]">
        {rows.map(([name, said]) => (
          <div key={name} className="contents">
            <dt className="text-sm text-faded">{name}</dt>
            <dd>{said || "–"}</dd>
          </div>
        ))}
      </dl>
      {changing && <Change known={known} usual={usual} close={() => setChanging(false)} />}
    </section>
  );
}

function Change({ known, usual, close }: { known: Known; usual: Said; close: () => void }) {
  const [said, setSaid] = useState(usual);
  const [points, setPoints] = useState<Point[]>(usual.points);
  const say = useSay();
  const me = useMe().data;
  const manages = !!me && may(me, "manage");
  const members = useMembers().data ?? [];
  const templates = useTemplates().data ?? [];
  const save = useChange(
    () =>
      the(
        client.PUT("/api/series/{series_id}/usual", {
          params: { path: { series_id: known.id } },
          body: { ...said, points: points.filter((one) => one.text.trim()) },
        }),
      ),
    keys.allSeries,
    keys.choices,
  );
  return (
    <Leaf title={t.usual.title} close={close}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate(undefined, {
            onSuccess: () => {
              say(t.usual.kept);
              close();
            },
          });
        }}
      >
        <p className="mb-4 text-sm text-faded">{t.usual.hint}</p>
        <div className="grid gap-5 sm:grid-cols-2">
          <div className="flex flex-col gap-5">
            <fieldset>
              <legend className="mb-1 font-serif text-sm">{t.usual.agenda}</legend>
              <Points rows={points} put={setPoints} />
            </fieldset>
            <Field label={t.usual.template} htmlFor="usual-template">
              <select
                id="usual-template"
                className="field"
                value={said.template}
                onChange={(event) => setSaid({ ...said, template: event.target.value })}
              >
                <option value="">{t.usual.asProposed}</option>
                {templates.map((one) => (
                  <option key={one.name} value={one.name}>
                    {one.title}
                  </option>
                ))}
              </select>
            </Field>
            <Field
              label={t.usual.seen}
              htmlFor="usual-seen"
              hint={manages ? t.usual.seenHint : t.usual.managed}
            >
              <select
                id="usual-seen"
                className="field"
                disabled={!manages}
                value={said.visibility}
                onChange={(event) =>
                  setSaid({ ...said, visibility: event.target.value as Said["visibility"] })
                }
              >
                <option value="">{t.usual.asMade}</option>
                {SEEN.map((one) => (
                  <option key={one} value={one}>
                    {t.visibility[one]}
                  </option>
                ))}
              </select>
            </Field>
          </div>
          <div className="flex flex-col gap-5">
            <Ticks
              legend={t.seen.byName}
              all={members.map((one) => ({
                id: one.id,
                name: one.role === "guest" ? t.seen.guest({ name: one.name }) : one.name,
              }))}
              chosen={said.readers}
              change={(readers) => setSaid({ ...said, readers })}
              disabled={!manages}
            />
            <Ticks
              legend={t.usual.receivers}
              hint={t.usual.receiversHint}
              all={known.people}
              chosen={said.receivers}
              change={(receivers) => setSaid({ ...said, receivers })}
              disabled={!manages}
            />
          </div>
        </div>
        <div className="mt-5">
          <CustomFields
            id="usual"
            visibility={false}
            disabled={!manages}
            said={said}
            change={({ goes_to = "", going = "" }) => setSaid({ ...said, goes_to, going })}
          />
        </div>
        <Wrong error={save.error} className="mt-2" />
        <p className="mt-4 flex gap-3">
          <button type="submit" className="press press-main" disabled={save.isPending}>
            {t.settings.save}
          </button>
          <button type="button" className="press" onClick={close}>
            {t.library.keepIt}
          </button>
        </p>
      </form>
    </Leaf>
  );
}
