import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange } from "../../api/hooks";
import { may } from "../../api/rights";
import { Choose } from "../../parts/choose";
import { Leaf } from "../../parts/leaf";
import { useSay } from "../../parts/sayings";
import { Wrong } from "../../parts/states";
import { Sure } from "../../parts/sure";
import { clock, showTime } from "../../parts/time";
import { t } from "../../texts";
import { useAway } from "./visits";
import { happened, standing } from "./words";

type Visit = Schemas["VisitOut"];

/** The clerk in the call of a running meeting: how it stands, off the record and on again, away; who else is there. */
export function ClerkBar({
  meeting,
  visit,
  people,
}: {
  meeting: Schemas["MeetingOut"];
  visit: Visit;
  people: Schemas["PresentOut"][];
}) {
  const [asking, setAsking] = useState<"away" | "strike" | null>(null);
  const away = useAway(visit);
  const turn = useChange(
    (way: "off" | "on") =>
      the(
        client.POST(`/api/clerk/{visit_id}/${way}`, { params: { path: { visit_id: visit.id } } }),
      ),
    keys.clerk(meeting.id),
  );
  const steers = may(meeting, "add") && !visit.over;
  return (
    <div className="mt-2 border-t border-rule pt-2">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2">
        <p role="status" className="grow">
          {standing(visit)}
        </p>
        {steers && (
          <>
            <button
              type="button"
              className={`press ${visit.off ? "press-main" : ""}`}
              disabled={turn.isPending || (visit.off && visit.state === "on")}
              onClick={() => turn.mutate(visit.off ? "on" : "off")}
            >
              {visit.off ? t.clerk.on : t.clerk.off}
            </button>
            <button
              type="button"
              className="press"
              disabled={visit.leaving}
              onClick={() => setAsking("away")}
            >
              {t.clerk.away}
            </button>
            {may(meeting, "strike") && (
              <button type="button" className="press" onClick={() => setAsking("strike")}>
                {t.clerk.strike}
              </button>
            )}
          </>
        )}
      </div>
      <Wrong error={turn.error ?? away.error} />
      <div className="mt-1 flex flex-wrap items-baseline gap-x-5 text-sm">
        {people.length > 0 && (
          <p>
            <span className="text-faded">{t.clerk.inCall}: </span>
            {people.map((one, index) => (
              <span key={one.name} className={one.here ? "" : "text-faded"}>
                {index > 0 && ", "}
                {one.name}
                {!one.here && one.left && ` (${t.clerk.left({ time: showTime(one.left) })})`}
              </span>
            ))}
          </p>
        )}
        <History visit={visit} />
      </div>
      {asking === "strike" && (
        <StrikeLately meeting={meeting.id} visit={visit.id} close={() => setAsking(null)} />
      )}
      {asking === "away" && (
        <Sure
          title={t.clerk.sureAway}
          hint={t.clerk.awayHint}
          yes={t.clerk.awayYes}
          no={t.clerk.awayNo}
          act={() => away.mutate(undefined)}
          close={() => setAsking(null)}
        />
      )}
    </div>
  );
}

const BACK = [1, 2, 5, 10, 20];

/** Out of what is taken down, for good, while it goes on. */
function StrikeLately({
  meeting,
  visit,
  close,
}: {
  meeting: string;
  visit: string;
  close: () => void;
}) {
  const [minutes, setMinutes] = useState("2");
  const say = useSay();
  const strike = useChange(
    () =>
      the(
        client.POST("/api/clerk/{visit_id}/strike", {
          params: { path: { visit_id: visit } },
          body: { minutes: Number(minutes) },
        }),
      ),
    keys.meeting(meeting),
  );
  return (
    <Leaf title={t.clerk.strike} hint={t.clerk.strikeHint} close={close}>
      <Choose
        id="strike-back"
        label={t.clerk.strikeLast}
        value={minutes}
        change={setMinutes}
        options={Object.fromEntries(BACK.map((n) => [String(n), t.clerk.strikeMinutes({ n })]))}
      />
      <Wrong error={strike.error} />
      <p className="mt-4 flex gap-3">
        <button
          type="button"
          className="press press-main"
          disabled={strike.isPending}
          onClick={() =>
            strike.mutate(undefined, {
              onSuccess: ({ seconds }) => {
                say(t.clerk.struck({ time: clock(seconds) }));
                close();
              },
            })
          }
        >
          {t.clerk.strikeYes}
        </button>
        <button type="button" className="press" onClick={close}>
          {t.clerk.strikeNo}
        </button>
      </p>
    </Leaf>
  );
}

/** Each change with its time. */
export function History({ visit }: { visit: Visit }) {
  return (
    <details>
      <summary className="plain inline-block cursor-pointer px-0">{t.clerk.history}</summary>
      <ol className="mt-1">
        {visit.changes.map((change) => (
          <li key={`${change.at} ${change.cause}`}>
            <span className="text-faded">{showTime(change.at)}</span>{" "}
            {t.clerk.the({ words: happened(change) })}
          </li>
        ))}
      </ol>
    </details>
  );
}
