import { Link } from "react-router";
import { failed, type Schemas } from "../../api/client";
import { useSent } from "../../api/trust";
import { Empty, Trouble, Wait } from "../../parts/states";
import { showDay, showTime } from "../../parts/time";
import { t } from "../../texts";

type Letter = Schemas["SentLetterOut"];

/** What went to whom by mail. */
export function SentList({ letters, titles = false }: { letters: Letter[]; titles?: boolean }) {
  return (
    <ul>
      {letters.map((one, index) => (
        <li
          key={index}
          className="flex flex-wrap items-baseline gap-x-3 border-b border-rule py-2 last:border-0"
        >
          <span className="min-w-0 grow basis-60">
            {one.to}{" "}
            <span className="text-sm text-faded">
              {[
                t.sending.kinds[one.kind] ?? one.kind,
                one.document.toUpperCase(),
                one.by && t.links.by({ who: one.by }),
              ]
                .filter(Boolean)
                .join(", ")}
            </span>
            {titles && one.meeting && (
              <Link to={`/meetings/${one.meeting}`} className="cite ml-2">
                {one.meeting_title}
              </Link>
            )}
            {titles && !one.meeting && (
              <span className="ml-2 text-sm text-faded">{t.sending.unseen}</span>
            )}
          </span>
          <span className={`text-sm ${one.state === "failed" ? "text-clay" : "text-faded"}`}>
            {t.sending.states[one.state]} {showDay(one.at)}, {showTime(one.at)}
          </span>
          {one.state === "failed" && <span className="basis-full text-sm">{one.said}</span>}
        </li>
      ))}
    </ul>
  );
}

/** The same of all meetings, for those who manage the workspace. */
export function AllSent() {
  const sent = useSent();
  return (
    <section aria-labelledby="sent" className="mt-8">
      <h2 id="sent" className="mb-2 text-lg">
        {t.sending.allTitle}
      </h2>
      {failed(sent) ? (
        <Trouble error={sent.error} again={() => void sent.refetch()} />
      ) : !sent.data ? (
        <Wait />
      ) : sent.data.length === 0 ? (
        <Empty>{t.sending.noneSent}</Empty>
      ) : (
        <div className="sheet px-4">
          <SentList letters={sent.data} titles />
        </div>
      )}
    </section>
  );
}
