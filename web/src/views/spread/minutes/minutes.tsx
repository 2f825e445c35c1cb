import { useSearchParams } from "react-router";
import type { Schemas } from "../../../api/client";
import { useAgenda } from "../../../api/hooks";
import { may } from "../../../api/rights";
import { Glyph, type Kind } from "../../../parts/glyph";
import { Empty, Trouble } from "../../../parts/states";
import { clock } from "../../../parts/time";
import { useWalked, type Walked } from "../../../parts/walked";
import { t } from "../../../texts";
import { Agenda } from "../../live/agenda";
import { Notes } from "../../live/meanwhile";
import { useSpread } from "../context";
import type { Pointed } from "../pointed";
import type { MinutesLine } from "./changes";
import { NewLine } from "./form";
import { Layout } from "./layout";
import { Dragged, useMove, type Place } from "./order";
import { Proposed } from "./proposed";
import { Waiting } from "./waiting";
import { Written } from "./written";

const GLYPHS: Record<string, Kind> = {
  decisions: "decision",
  actions: "action",
  questions: "question",
};

interface Props {
  minutes: Schemas["MinutesOut"];
  pointed: Pointed;
}

/** The minutes: each drawn line with the time it rests on, each line by hand with its writer's initials. */
export function MinutesPage({ minutes, pointed }: Props) {
  const { meeting, player, hear, go } = useSpread();
  const agenda = useAgenda(meeting.id);
  const order = useMove(meeting);
  const inOrder = minutes.sections.flatMap(({ key }) =>
    minutes.lines.filter((line) => line.section === key && !line.removed),
  );
  const placeOf = (line: MinutesLine): Place => ({
    section: line.section,
    position: inOrder.filter((one) => one.section === line.section).indexOf(line),
  });
  const walked = useWalked([
    ...inOrder.map((line) => `line ${line.id}`),
    ...minutes.proposed.map((finding) => `finding ${finding.id}`),
    ...minutes.chapters.map((chapter) => `chapter ${chapter.start}`),
    ...inAlphabet(minutes.topics).map((topic) => `topic ${topic.text}`),
  ]);
  return (
    <div {...walked.list}>
      <Layout meeting={meeting} minutes={minutes} hear={hear} />
      <Waiting meeting={meeting} />
      <Dragged
        lines={inOrder}
        moved={(line, to) => order.move(line.id, placeOf(line), to, t.minutes.movedHere)}
      >
        {minutes.sections.map(({ key, heading, actions }) => {
          const lines = inOrder.filter((line) => line.section === key);
          return (
            <section key={key} aria-label={heading} className="when-seen pb-6">
              <h3 className="mb-1 flex items-center gap-2 border-b border-rule pb-1 text-base">
                {GLYPHS[key] && <Glyph kind={GLYPHS[key]} />}
                {heading}
              </h3>
              {lines.length ? (
                <ul>
                  {lines.map((line, index) => (
                    <Written
                      key={line.id}
                      line={line}
                      place={index}
                      count={lines.length}
                      move={(to, said) =>
                        order.move(line.id, { section: key, position: index }, to, said)
                      }
                      sections={minutes.sections}
                      pointed={pointed}
                      walked={walked}
                    />
                  ))}
                </ul>
              ) : (
                <Empty>
                  {meeting.work.state === "working"
                    ? t.spread.none.reading
                    : (t.spread.none[key] ?? t.minutes.none)}
                </Empty>
              )}
              {may(meeting, "change") && (
                <NewLine meeting={meeting} section={key} actions={actions} />
              )}
            </section>
          );
        })}
      </Dragged>
      {order.error && <Trouble error={order.error} />}
      {minutes.proposed.length > 0 && (
        <section aria-label={t.spread.proposed} className="when-seen pb-6">
          <h3 className="border-b border-rule pb-1 text-base">{t.spread.proposed}</h3>
          <p className="mt-1 text-sm text-faded">
            {t.spread.proposedHint}{" "}
            {may(meeting, "change") && <span className="max-sm:hidden">{t.minutes.keys}</span>}
          </p>
          <ul>
            {minutes.proposed.map((finding) => (
              <Proposed key={finding.id} finding={finding} pointed={pointed} walked={walked} />
            ))}
          </ul>
        </section>
      )}
      {minutes.chapters.length > 0 && (
        <section aria-label={t.spread.chapters} className="when-seen pb-2">
          <h3 className="mb-1 border-b border-rule pb-1 text-base">{t.spread.chapters}</h3>
          <ol>
            {minutes.chapters.map((chapter) => (
              <li key={chapter.start}>
                <button
                  type="button"
                  {...walked.item(`chapter ${chapter.start}`)}
                  onClick={() => go(chapter.start)}
                  className="grid w-full grid-cols-[3.2rem_1fr] items-baseline py-1 text-left hover:bg-wash"
                >
                  <span className="text-sm text-faded">{clock(chapter.start)}</span>
                  <span className="font-serif">{chapter.title}</span>
                </button>
              </li>
            ))}
          </ol>
        </section>
      )}
      <div className="mt-6 flex flex-col gap-6">
        {!!agenda.data?.length && <Agenda meeting={meeting} seconds={0} running={false} />}
        <Notes meeting={meeting} now={() => player?.time ?? 0} hear={go} />
      </div>
      <Index topics={minutes.topics} walked={walked} />
    </div>
  );
}

/** What keeps coming up, as an index at the end of a book: each term, which a press looks for in the record, with the times it comes up. */
function Index({ topics, walked }: { topics: Schemas["TopicOut"][]; walked: Walked }) {
  const [, setParams] = useSearchParams();
  const { go } = useSpread();
  if (!topics.length) return null;
  const look = (text: string) =>
    setParams(
      (old) => {
        old.set("find", text);
        return old;
      },
      { replace: true },
    );
  return (
    <section aria-labelledby="index" className="mt-8">
      <h2 id="index" className="mb-2 border-b border-rule pb-1 text-base">
        {t.minutes.topics}
      </h2>
      <ul className="columns-[13rem] gap-x-8 text-sm">
        {inAlphabet(topics).map((topic) => (
          <li key={topic.text} className="break-inside-avoid py-0.5 pl-4 -indent-4">
            <button
              type="button"
              {...walked.item(`topic ${topic.text}`)}
              className="plain px-0 font-serif"
              aria-label={t.minutes.times({ text: topic.text, n: topic.count })}
              onClick={() => look(topic.text)}
            >
              {topic.text}
            </button>
            {topic.times.map((at) => (
              <button
                key={at}
                type="button"
                tabIndex={walked.inner(`topic ${topic.text}`)}
                className="plain px-1 text-xs"
                aria-label={t.minutes.comesUp({ text: topic.text, time: clock(at) })}
                onClick={() => go(at)}
              >
                {clock(at)}
              </button>
            ))}
            {topic.count > topic.times.length && (
              <span className="text-xs text-faded">
                {topic.times.length ? " …" : ` ${topic.count}`}
              </span>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

const inAlphabet = (topics: Schemas["TopicOut"][]) =>
  [...topics].sort((one, other) => one.text.localeCompare(other.text));
