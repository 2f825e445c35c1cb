import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { client, the, type Schemas } from "../../../api/client";
import { keys } from "../../../api/hooks";
import { Field } from "../../../parts/field";
import { Leaf } from "../../../parts/leaf";
import { Empty, Trouble, Wait } from "../../../parts/states";
import { clock, showDay } from "../../../parts/time";
import { t } from "../../../texts";
import { Stretches, type Stretch } from "./stretches";

type Air = Schemas["AirOut"];
const FIGURES: [keyof Air, (one: Air) => string][] = [
  ["share", (one) => `${Math.round(100 * one.share)} %`],
  ["seconds", (one) => clock(one.seconds)],
  ["turns", (one) => String(one.turns)],
  ["longest", (one) => clock(one.longest)],
  ["pace", (one) => String(Math.round(one.pace))],
  ["questions", (one) => String(one.questions)],
  ["interruptions", (one) => String(one.interruptions)],
];

/** Who spoke how much, over the meeting or one of its chapters: plain figures, and what they count. */
export function Airtime({
  meeting,
  chapters,
  close,
}: {
  meeting: Schemas["MeetingOut"];
  chapters: Schemas["ChapterOut"][];
  close: () => void;
}) {
  const [part, setPart] = useState<Stretch>(null);
  const air = useQuery({
    queryKey: [...keys.record(meeting.id), "airtime", part],
    queryFn: () =>
      the(
        client.GET("/api/meetings/{meeting_id}/airtime", {
          params: { path: { meeting_id: meeting.id }, query: part ?? {} },
        }),
      ),
    placeholderData: (before) => before,
  });
  return (
    <Leaf title={t.record.airtimeTitle} wide close={close}>
      <div className="mt-3 max-w-80">
        <Field label={t.record.part} htmlFor="airtime-part">
          <Stretches id="airtime-part" meeting={meeting} chapters={chapters} change={setPart} />
        </Field>
      </div>
      {air.isPending && <Wait />}
      {air.error && <Trouble error={air.error} />}
      {air.data &&
        (air.data.people.length === 0 ? (
          <Empty>{t.record.noAir}</Empty>
        ) : (
          <>
            <div tabIndex={0} className="mt-4 overflow-x-auto">
              <table className="w-full text-sm">
                <FiguresHead first={t.record.speakers} definitions={air.data.definitions} />
                <tbody>
                  {air.data.people.map((one) => (
                    <tr key={one.speaker} className="border-b border-rule">
                      <th
                        scope="row"
                        className="relative py-1.5 pr-3 text-left font-serif font-normal whitespace-nowrap"
                      >
                        {one.speaker}
                        <span
                          aria-hidden
                          className="absolute bottom-0 left-0 h-0.5 bg-slate"
                          style={{ width: `${100 * one.share}%` }}
                        />
                      </th>
                      {FIGURES.map(([name, show]) => (
                        <td key={name} className="px-2 py-1.5 text-right whitespace-nowrap">
                          {show(one)}
                        </td>
                      ))}
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
            <p className="mt-3 text-sm">
              {t.record.silence({ time: clock(air.data.silence), of: clock(air.data.whole) })}
            </p>
            {meeting.series && <Mine meeting={meeting} />}
            <details className="mt-3 text-sm text-faded">
              <summary className="cursor-pointer">{t.record.counted}</summary>
              <dl className="mt-2 grid grid-cols-[8rem_1fr] gap-y-1">
                {FIGURES.map(([name]) => (
                  <div key={name} className="contents">
                    <dt>{t.record.figures[name]}</dt>
                    <dd>{air.data.definitions[name]}</dd>
                  </div>
                ))}
              </dl>
            </details>
          </>
        ))}
    </Leaf>
  );
}

/** One's own figures in every meeting of the series. */
function Mine({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  const [open, setOpen] = useState(false);
  const own = useQuery({
    queryKey: ["airtime", meeting.id],
    enabled: open,
    queryFn: () =>
      the(
        client.GET("/api/meetings/{meeting_id}/airtime/series", {
          params: { path: { meeting_id: meeting.id } },
        }),
      ),
  });
  return (
    <details className="mt-4 text-sm" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="cursor-pointer">{t.passages.mine}</summary>
      <p className="mt-1 text-faded">{t.passages.mineHint}</p>
      {own.error && <Trouble error={own.error} />}
      {own.data &&
        (own.data.length === 0 ? (
          <Empty>{t.passages.noMine}</Empty>
        ) : (
          <div tabIndex={0} className="overflow-x-auto">
            <table className="mt-2 w-full">
              <FiguresHead first={t.record.whole_record} />
              <tbody>
                {own.data.map((one) => (
                  <tr key={one.meeting} className="border-b border-rule">
                    <th scope="row" className="py-1.5 pr-3 text-left font-serif font-normal">
                      <Link className="hover:underline" to={`/meetings/${one.meeting}`}>
                        {showDay(one.started_at)}, {one.title}
                      </Link>
                    </th>
                    {FIGURES.map(([name, show]) => (
                      <td key={name} className="px-2 py-1.5 text-right whitespace-nowrap">
                        {show(one)}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        ))}
    </details>
  );
}

/** The names of the figures over their columns, with what each counts where that is said. */
function FiguresHead({
  first,
  definitions = {},
}: {
  first: string;
  definitions?: Readonly<Record<string, string>>;
}) {
  return (
    <thead>
      <tr className="border-b border-edge text-faded">
        <th scope="col" className="sr-only">
          {first}
        </th>
        {FIGURES.map(([name]) => (
          <th
            key={name}
            scope="col"
            title={definitions[name]}
            className="px-2 py-1 text-right font-normal whitespace-nowrap"
          >
            {t.record.figures[name]}
          </th>
        ))}
      </tr>
    </thead>
  );
}
