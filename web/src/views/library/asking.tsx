import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { client, failed, the, type Schemas } from "../../api/client";
import { keys, useChange, useMe, useNarrow } from "../../api/hooks";
import { may } from "../../api/rights";
import { Owned } from "../../parts/owned";
import { QuestionField } from "../../parts/question";
import { Empty, Trouble, Wait, Wrong } from "../../parts/states";
import { clock, showDay, showTime, zone } from "../../parts/time";
import { narrowTo, wantedIn, wantedOf, withWanted } from "../../parts/wanted";
import { t } from "../../texts";
import { chips, Narrow } from "./narrow";

type Inquiry = Schemas["InquiryOut"];
type Answer = Schemas["InquiryAnswerOut"];
const SHOWN = 8; // lines of an answer
const AT_ONCE = 1; // questions that are answered without being asked for it again

const useInquiries = () =>
  useInfiniteQuery({
    queryKey: keys.inquiries,
    initialPageParam: "",
    getNextPageParam: (page: Schemas["InquiriesOut"]) => page.next ?? undefined,
    queryFn: ({ pageParam }) =>
      the(client.GET("/api/inquiries", { params: { query: { cursor: pageParam } } })),
  });

/** Questions put to all that I may see, or to a part of it. */
export function Asking() {
  const [params, setParams] = useSearchParams();
  const wanted = wantedIn(params);
  const [text, setText] = useState(params.get("q") ?? "");
  const [after, setAfter] = useState<Inquiry | null>(null);
  const inquiries = useInquiries();
  const put = useChange(
    (body: Schemas["InquiryIn"]) => the(client.POST("/api/inquiries", { body })),
    keys.inquiries,
  );
  useEffect(() => {
    document.title = `${t.asking.title} · ${t.name}`;
    return () => {
      document.title = t.name;
    };
  }, []);
  const asked = inquiries.data?.pages.flatMap((page) => page.rows) ?? [];
  return (
    <div className="mx-auto w-full max-w-[60rem] px-4 py-8 sm:px-6">
      <h1 className="text-2xl">{t.asking.title}</h1>
      <p className="mt-1 max-w-[46rem] text-faded">{t.asking.hint}</p>
      <form
        className="mt-5"
        onSubmit={(event) => {
          event.preventDefault();
          if (!text.trim() || put.isPending) return;
          const body = { text, wanted: narrowTo(wanted), after: after?.id ?? null };
          put.mutate(body, {
            onSuccess: () => {
              setText("");
              setAfter(null);
            },
          });
        }}
      >
        <QuestionField
          autoFocus
          words={t.asking}
          text={text}
          setText={setText}
          after={after}
          fresh={() => setAfter(null)}
          busy={put.isPending}
        />
        <Wrong error={put.error} />
        <p className="mt-1 text-xs text-faded">{t.asking.mine}</p>
      </form>
      {!after && (
        <div className="mt-3">
          <Narrow
            wanted={wanted}
            set={(next) => setParams(withWanted(params, next), { replace: true })}
          >
            {null}
          </Narrow>
        </div>
      )}
      {inquiries.isPending ? (
        <Wait />
      ) : failed(inquiries) ? (
        <Trouble error={inquiries.error} again={() => void inquiries.refetch()} />
      ) : (
        asked.length === 0 && <Empty>{t.asking.empty}</Empty>
      )}
      <ul aria-live="polite">
        {asked.map((one, place) => (
          <Asked
            key={one.id}
            inquiry={one}
            atOnce={place < AT_ONCE}
            goOn={() => {
              setAfter(one);
              scrollTo({ top: 0 });
            }}
          />
        ))}
      </ul>
      {inquiries.hasNextPage && (
        <button
          type="button"
          className="press mt-4"
          disabled={inquiries.isFetchingNextPage}
          onClick={() => void inquiries.fetchNextPage()}
        >
          {t.asking.earlier}
        </button>
      )}
    </div>
  );
}

function Asked({ inquiry, atOnce, goOn }: { inquiry: Inquiry; atOnce: boolean; goOn: () => void }) {
  const [wished, wish] = useState(false);
  const me = useMe().data;
  const choices = useNarrow().data;
  const answer = useQuery({
    queryKey: [...keys.inquiries, inquiry.id, "answer"],
    enabled: atOnce || wished,
    staleTime: 60_000,
    queryFn: () =>
      the(
        client.GET("/api/inquiries/{inquiry_id}/answer", {
          params: { path: { inquiry_id: inquiry.id }, query: { time_zone: zone() } },
        }),
      ),
  });
  const change = useChange(
    (body: Schemas["InquiryPatch"]) =>
      the(
        client.PATCH("/api/inquiries/{inquiry_id}", {
          params: { path: { inquiry_id: inquiry.id } },
          body,
        }),
      ),
    keys.inquiries,
  );
  const part = chips(wantedOf(inquiry.wanted), choices).map(([what]) => what);
  return (
    <li className="border-b border-rule py-4">
      <h2 className="font-serif text-lg">
        {inquiry.text}
        <span className="ml-2 font-sans text-xs font-normal text-faded">
          {[
            showDay(inquiry.asked_at),
            part.length > 0 && t.asking.of({ part: part.join(", ") }),
            inquiry.shared && t.asking.shared({ by: inquiry.by }),
          ]
            .filter(Boolean)
            .join(" · ")}
        </span>
      </h2>
      {failed(answer) ? (
        <Trouble error={answer.error} again={() => void answer.refetch()} />
      ) : answer.data ? (
        <Told answer={answer.data} />
      ) : atOnce || wished ? (
        <p role="status" className="mt-1 text-sm text-faded">
          {t.asking.looking}
        </p>
      ) : (
        <button type="button" className="plain mt-1 text-sm" onClick={() => wish(true)}>
          {t.asking.look}
        </button>
      )}
      <p className="mt-2 flex flex-wrap gap-2">
        <button type="button" className="plain text-xs" onClick={goOn}>
          {t.asking.goOn}
        </button>
        {inquiry.mine && me && (
          <Owned
            shared={inquiry.shared}
            mayShare={may(me, "see shared")}
            change={change.mutate}
            words={t.asking}
          />
        )}
      </p>
    </li>
  );
}

/** What is said above an answer, if anything. */
function heading(answer: Answer): string {
  if (answer.times !== null)
    return t.asking.times({ n: answer.times ?? 0, meetings: answer.meetings });
  if (answer.asks === "on") return answer.days.length ? "" : t.asking.noneOn;
  if (answer.asks === "missed") return answer.days.length ? t.asking.missed : t.asking.noneMissed;
  if (!answer.lines.length) return t.asking.none;
  return answer.course ? t.asking.course : "";
}

function Told({ answer }: { answer: Answer }) {
  const [all, setAll] = useState(false);
  const lines = all ? answer.lines : answer.lines.slice(0, SHOWN);
  const said = heading(answer);
  return (
    <>
      {said && <p className="mt-1 font-serif text-faded italic">{said}</p>}
      {answer.opening && <p className="mt-1 font-serif">{answer.opening}</p>}
      <ul className="mt-1">
        {lines.map((line) => {
          const at = `/meetings/${line.meeting}?line=${line.lines[0] ?? 1}`;
          return (
            <li
              key={`${line.meeting} ${line.start}`}
              className="grid grid-cols-[1fr_auto] gap-x-4 py-1.5"
            >
              <p className="font-serif leading-snug">
                <span className="font-sans text-sm font-semibold">{line.speaker}</span> {line.text}
              </p>
              <Link
                to={at}
                className="cite self-baseline"
                aria-label={t.asking.lineAt({ title: line.title, time: clock(line.start) })}
              >
                {clock(line.start)}
              </Link>
              <p className="text-sm text-faded">
                {line.title} · {showDay(line.started_at)}
              </p>
            </li>
          );
        })}
        {answer.days.map((day) => (
          <li
            key={`${day.meeting ?? day.planned} ${day.start}`}
            className="grid grid-cols-[9rem_1fr] gap-x-4 py-1 max-sm:grid-cols-1"
          >
            <span className="text-sm text-faded">
              {showDay(day.start)}, {day.all_day ? t.asking.allDay : showTime(day.start)}
            </span>
            <Link
              to={day.meeting ? `/meetings/${day.meeting}` : `/planned/${day.planned}`}
              className="underline-offset-4 hover:underline"
            >
              {day.title}
              {day.people.length > 0 && (
                <span className="text-sm text-faded"> · {day.people.join(", ")}</span>
              )}
            </Link>
          </li>
        ))}
      </ul>
      {answer.lines.length > lines.length && (
        <button type="button" className="plain mt-1 text-xs" onClick={() => setAll(true)}>
          {t.asking.more({ n: answer.lines.length - lines.length })}
        </button>
      )}
    </>
  );
}
