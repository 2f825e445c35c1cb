import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import { keys, useAgenda, useAgendas, useChange } from "../../api/hooks";
import { Points } from "../../parts/points";
import { useSay } from "../../parts/sayings";
import { Empty, Wrong } from "../../parts/states";
import { clock } from "../../parts/time";
import { t } from "../../texts";
import { may } from "../../api/rights";

type Point = Schemas["PointOut"];

/** The agenda with its time boxes, running along while a meeting is captured; afterwards planned against actual. */
export function Agenda({
  meeting,
  seconds,
  running = true,
}: {
  meeting: Schemas["MeetingOut"];
  seconds: number;
  running?: boolean;
}) {
  const agenda = useAgenda(meeting.id);
  const [changing, setChanging] = useState(false);
  const turn = useChange(
    (position: number | null) =>
      the(
        client.POST("/api/meetings/{meeting_id}/agenda/turn", {
          params: { path: { meeting_id: meeting.id } },
          body: { position, at: seconds },
        }),
      ),
    keys.agenda(meeting.id),
  );
  const points = agenda.data ?? [];
  const current = points.find((point) => point.running);
  const next = points.find((point) =>
    current ? point.position > current.position : point.begun_at === null,
  );
  if (changing)
    return (
      <SetAgenda
        points={points}
        put={(body) =>
          the(
            client.PUT("/api/meetings/{meeting_id}/agenda", {
              params: { path: { meeting_id: meeting.id } },
              body,
            }),
          )
        }
        stale={keys.agenda(meeting.id)}
        close={() => setChanging(false)}
      />
    );
  return (
    <section aria-label={t.agenda.title}>
      <h2 className="mb-2 flex items-baseline gap-3 text-lg italic">
        {t.agenda.title}
        {may(meeting, "change") && (
          <button
            type="button"
            className="plain font-sans text-sm not-italic"
            onClick={() => setChanging(true)}
          >
            {points.length ? t.agenda.change : t.agenda.set}
          </button>
        )}
      </h2>
      {points.length === 0 ? (
        <Empty>{t.agenda.none}</Empty>
      ) : (
        <ol>
          {points.map((point) => (
            <Row
              key={point.position}
              point={point}
              seconds={seconds}
              turn={
                running && may(meeting, "change") ? () => turn.mutate(point.position) : undefined
              }
            />
          ))}
        </ol>
      )}
      {running && may(meeting, "change") && points.length > 0 && (current || next) && (
        <button
          type="button"
          className="press mt-2 px-3 py-1 text-sm"
          onClick={() => turn.mutate(next?.position ?? null)}
        >
          {current ? (next ? t.agenda.next : t.agenda.done) : t.agenda.first}
        </button>
      )}
    </section>
  );
}

function Row({
  point,
  seconds,
  turn,
}: {
  point: Point;
  seconds: number;
  turn: (() => void) | undefined;
}) {
  const spent =
    point.spent + (point.running ? Math.max(0, seconds - (point.begun_at ?? seconds)) : 0);
  const whole = point.minutes * 60;
  const over = spent > whole;
  const said = point.running
    ? over
      ? t.agenda.over({ time: clock(spent - whole) })
      : t.agenda.left({ time: clock(whole - spent) })
    : spent > 0
      ? t.agenda.took({ time: clock(spent), planned: point.minutes })
      : t.agenda.planned({ n: point.minutes });
  return (
    <li aria-current={point.running ? "step" : undefined} className="border-b border-rule py-1.5">
      <span className="flex items-baseline justify-between gap-3">
        {turn ? (
          <button
            type="button"
            className={`text-left font-serif hover:underline underline-offset-4 ${point.running ? "font-semibold" : ""}`}
            onClick={turn}
          >
            {point.text}
          </button>
        ) : (
          <span className="font-serif">{point.text}</span>
        )}
        <span className="text-sm whitespace-nowrap text-faded">{said}</span>
      </span>
      {/* Running over is shown by a longer bar, not by an alarm. */}
      {(point.running || spent > 0) && (
        <span aria-hidden className="mt-1 flex h-1 bg-rule">
          <span
            className="bg-slate"
            style={{ width: `${Math.min(100, (100 * spent) / Math.max(whole, spent))}%` }}
          />
        </span>
      )}
    </li>
  );
}

/** Points and their minutes, to be changed. put: keeps them; stale: what is new then. */
export function SetAgenda({
  points,
  put,
  stale,
  close,
}: {
  points: Schemas["PointIn"][];
  put: (body: Schemas["AgendaIn"]) => Promise<unknown>;
  stale: readonly unknown[];
  close: () => void;
}) {
  const [rows, setRows] = useState(
    points.length
      ? points.map(({ text, minutes }) => ({ text, minutes }))
      : [{ text: "", minutes: 10 }],
  );
  const [kind, setKind] = useState("");
  const agendas = useAgendas();
  const say = useSay();
  const body = { points: rows.filter((row) => row.text.trim()) };
  const save = useChange(() => put(body), stale);
  const keep = useChange(
    () => the(client.PUT("/api/agendas/{name}", { params: { path: { name: kind } }, body })),
    keys.agendas,
  );
  return (
    <form
      aria-label={t.agenda.set}
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(undefined, { onSuccess: close });
      }}
    >
      <h2 className="mb-2 text-lg italic">{t.agenda.title}</h2>
      {!!agendas.data?.length && (
        <label className="mb-2 block text-sm">
          {t.agenda.template}
          <select
            className="field"
            value=""
            onChange={(event) => {
              const found = agendas.data.find((one) => one.name === event.target.value);
              if (found) {
                setRows(found.points);
                setKind(found.name);
              }
            }}
          >
            <option value="" />
            {agendas.data.map((one) => (
              <option key={one.name}>{one.name}</option>
            ))}
          </select>
        </label>
      )}
      <Points rows={rows} put={setRows} />
      <Wrong error={save.error} />
      <div className="mt-2 flex flex-wrap items-end gap-2">
        <button type="submit" className="press press-main px-3 py-1 text-sm">
          {t.agenda.save}
        </button>
        <button type="button" className="plain text-sm" onClick={close}>
          {t.spread.cancel}
        </button>
        <span className="grow" />
        <label className="text-sm">
          {t.agenda.kind}
          <input
            className="field py-1"
            maxLength={120}
            value={kind}
            onChange={(event) => setKind(event.target.value)}
          />
        </label>
        <button
          type="button"
          disabled={!kind.trim() || !body.points.length}
          className="press px-3 py-1 text-sm"
          onClick={() => keep.mutate(undefined, { onSuccess: () => say(t.agenda.kept) })}
        >
          {t.agenda.keep}
        </button>
      </div>
    </form>
  );
}
