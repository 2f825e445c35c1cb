import type { ReactNode } from "react";
import { t } from "../texts";
import { Glyph } from "./glyph";
import { Leaf } from "./leaf";

const SIGNS: [keyof typeof t.signs, ReactNode][] = [
  ["decision", <Glyph key="" kind="decision" />],
  ["action", <Glyph key="" kind="action" />],
  ["done", <Glyph key="" kind="done" />],
  ["question", <Glyph key="" kind="question" />],
  ["mark", <span key="" className="inline-block h-4 w-8 bg-brass/25" />],
  ["gap", <span key="" className="hatched inline-block h-4 w-3" />],
  [
    "cited",
    <span key="" className="underline decoration-edge decoration-dotted">
      abc
    </span>,
  ],
  [
    "unsure",
    <span key="" className="border-b border-dashed border-clay">
      abc
    </span>,
  ],
  [
    "hand",
    <span key="" className="font-serif text-xs text-faded italic">
      MT
    </span>,
  ],
];

/** What the keys do, and what the signs mean. */
export function Shortcuts({ close }: { close: () => void }) {
  return (
    <Leaf title={t.shortcuts.title} wide close={close}>
      <div className="mt-3 grid gap-x-10 gap-y-6 sm:grid-cols-2">
        <dl className="grid grid-cols-[7rem_1fr] content-start gap-y-1.5">
          {t.shortcuts.rows.map(([key, what]) => (
            <div key={key} className="contents">
              <dt className="font-serif italic">{key}</dt>
              <dd>{what}</dd>
            </div>
          ))}
        </dl>
        <section aria-labelledby="signs">
          <h3 id="signs" className="mb-2 text-base">
            {t.shortcuts.signs}
          </h3>
          <dl className="grid grid-cols-[4rem_1fr] content-start items-baseline gap-y-1.5">
            {SIGNS.map(([name, sign]) => (
              <div key={name} className="contents">
                <dt aria-hidden>{sign}</dt>
                <dd>{t.signs[name]}</dd>
              </div>
            ))}
          </dl>
        </section>
      </div>
      <button type="button" className="press mt-5" onClick={close}>
        {t.shortcuts.close}
      </button>
    </Leaf>
  );
}
