import { useRef, type KeyboardEvent } from "react";
import { client, the } from "../../../api/client";
import { may } from "../../../api/rights";
import { Glyph } from "../../../parts/glyph";
import { pointing } from "../../../parts/pointing";
import { useSay } from "../../../parts/sayings";
import { step, type Walked } from "../../../parts/walked";
import { t } from "../../../texts";
import { useSpread } from "../context";
import type { Pointed } from "../pointed";
import { useMinutesChange, type Finding } from "./changes";
import { Cite } from "./cite";

/** What the record perhaps also says, for somebody to judge. */
export function Proposed({
  finding,
  pointed,
  walked,
}: {
  finding: Finding;
  pointed: Pointed;
  walked: Walked;
}) {
  const { meeting, hear } = useSpread();
  const name = `finding ${finding.id}`;
  const tab = walked.inner(name);
  const say = useSay();
  const judge = useMinutesChange(meeting, (body: { confirmed?: boolean; dismissed?: boolean }) =>
    the(
      client.PATCH("/api/minutes/findings/{finding_id}", {
        params: { path: { finding_id: finding.id } },
        body,
      }),
    ),
  );
  const item = useRef<HTMLLIElement>(null);
  // What was answered leaves the list; whoever walks it goes on with the next.
  const yes = () => {
    step(item.current, item.current?.nextElementSibling ? 1 : -1);
    judge.mutate({ confirmed: true });
  };
  const no = () => {
    step(item.current, item.current?.nextElementSibling ? 1 : -1);
    judge.mutate(
      { dismissed: true },
      { onSuccess: () => say(t.spread.removed, () => judge.mutate({ dismissed: false })) },
    );
  };
  const press = (event: KeyboardEvent) => {
    if (event.target !== item.current || event.ctrlKey || event.altKey || event.metaKey) return;
    const act = {
      " ": () => hear(finding.lines[0]!, finding.start),
      ...(may(meeting, "change") ? { y: yes, n: no } : {}),
    }[event.key];
    if (act) {
      event.preventDefault();
      event.stopPropagation();
      act();
    }
  };
  return (
    <li
      ref={item}
      {...walked.item(name)}
      aria-label={`${t.spread.kinds[finding.kind]}: ${finding.text}`}
      onKeyDown={press}
      {...pointing(
        () => pointed.row(finding),
        () => pointed.row(null),
      )}
      className="grid grid-cols-[1.7rem_1fr_auto] items-baseline gap-x-2 py-2 hover:bg-wash"
    >
      <span className="translate-y-0.5 text-center">
        <Glyph kind={finding.kind} />
        <span className="sr-only">{t.spread.kinds[finding.kind]}</span>
      </span>
      <span>
        <span className="font-serif italic leading-snug">{finding.text}</span>
        {may(meeting, "change") && (
          <span className="mt-1 flex gap-2">
            <button
              type="button"
              tabIndex={tab}
              className="press px-2 py-0.5 text-sm"
              onClick={yes}
            >
              {t.spread.yes}
            </button>
            <button type="button" tabIndex={tab} className="plain text-sm" onClick={no}>
              {t.spread.no}
            </button>
          </span>
        )}
      </span>
      <Cite start={finding.start} act={() => hear(finding.lines[0]!, finding.start)} tab={tab} />
    </li>
  );
}
