import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { client, failed, the, type Schemas } from "../../../api/client";
import { keys, useChange, useTemplates, useVersions } from "../../../api/hooks";
import { Leaf } from "../../../parts/leaf";
import { Menu, MenuItem } from "../../../parts/menu";
import { useSay } from "../../../parts/sayings";
import { Empty, Trouble, Wait } from "../../../parts/states";
import { showDay, showTime } from "../../../parts/time";
import { t } from "../../../texts";
import { Away } from "./away";
import { useRestore } from "./changes";
import { Gather } from "./gather";
import { FollowUp } from "./mail";
import { TalkMap } from "./map";
import { News } from "./news";
import { may } from "../../../api/rights";

type Open =
  null | { draw: string | null } | { versions: number | null } | "away" | "mail" | "gather" | "map";
interface Props {
  meeting: Schemas["MeetingOut"];
  minutes: Schemas["MinutesOut"];
  hear: (line: number, start: number) => void;
}

/** How the minutes are laid out, and what else can be done with them. */
export function Layout({ meeting, minutes, hear }: Props) {
  const templates = useTemplates();
  const go = useNavigate();
  const [open, setOpen] = useState<Open>(null);
  const close = () => setOpen(null);
  const title = (name: string) => templates.data?.find((one) => one.name === name)?.title ?? "";
  const entries: [string, () => void][] = [
    ...(may(meeting, "change")
      ? ([[t.minutes.anew, () => setOpen({ draw: null })]] as [string, () => void][])
      : []),
    [t.minutes.versions, () => setOpen({ versions: null })],
    ...(minutes.chapters.length
      ? ([[t.minutes.map, () => setOpen("map")]] as [string, () => void][])
      : []),
    [t.minutes.away, () => setOpen("away")],
    ...(may(meeting, "change")
      ? ([[t.minutes.mail, () => setOpen("mail")]] as [string, () => void][])
      : []),
    [t.minutes.gather, () => setOpen("gather")],
    ...(may(meeting, "change")
      ? ([[t.minutes.own, () => void go("/templates")]] as [string, () => void][])
      : []),
  ];
  return (
    <div className="mb-4 flex flex-wrap items-center gap-x-3 gap-y-1 text-sm">
      <label className="flex min-w-0 items-center gap-2 text-faded">
        {t.minutes.layout}
        <select
          className="field w-auto max-w-60 py-0.5 text-ink"
          disabled={!may(meeting, "change") || !templates.data}
          value={minutes.template}
          onChange={(event) => setOpen({ draw: event.target.value })}
        >
          {templates.data?.map((one) => (
            <option key={one.name} value={one.name}>
              {!minutes.chosen && one.name === minutes.template
                ? t.minutes.byTalk({ title: one.title })
                : one.title}
            </option>
          ))}
        </select>
      </label>
      <Menu
        align="start"
        gap={6}
        trigger={
          <button type="button" aria-label={t.minutes.more} className="press px-2 py-0.5">
            ⋯
          </button>
        }
      >
        {entries.map(([label, act]) => (
          <MenuItem key={label} onSelect={act}>
            {label}
          </MenuItem>
        ))}
      </Menu>
      <News
        meeting={meeting}
        changed={minutes.changed}
        look={(version) => setOpen({ versions: version })}
      />
      {open !== null && typeof open === "object" && "draw" in open && (
        <Draw
          meeting={meeting}
          template={open.draw}
          title={title(open.draw ?? minutes.template)}
          close={close}
        />
      )}
      {open !== null && typeof open === "object" && "versions" in open && (
        <Versions meeting={meeting} first={open.versions} close={close} />
      )}
      {open === "map" && <TalkMap meeting={meeting} close={close} />}
      {open === "away" && <Away meeting={meeting} close={close} />}
      {open === "mail" && <FollowUp meeting={meeting} minutes={minutes} close={close} />}
      {open === "gather" && <Gather meeting={meeting} close={close} hear={hear} />}
    </div>
  );
}

function Changes({ changes }: { changes: Schemas["ChangeOut"][] }) {
  return (
    <ul tabIndex={0} className="mt-2 max-h-[50dvh] overflow-y-auto border-y border-rule">
      {changes.map((one, index) => (
        <li
          key={index}
          className="grid grid-cols-[6.5rem_1fr] gap-x-3 border-b border-rule py-1.5 last:border-0"
        >
          <span className={`text-sm ${one.how === "gone" ? "text-clay" : "text-lichen"}`}>
            {t.minutes.how[one.how]}
          </span>
          <span>
            <span className="text-xs text-faded">{one.section}</span>
            <span
              className={`block font-serif text-sm ${one.how === "gone" ? "line-through decoration-clay" : ""}`}
            >
              {one.text}
            </span>
            {one.before && (
              <span className="block text-xs text-faded">
                {one.how === "moved"
                  ? t.minutes.from({ section: one.before })
                  : t.minutes.was({ text: one.before })}
              </span>
            )}
          </span>
        </li>
      ))}
    </ul>
  );
}

/** What would change, before it does. */
function Draw({
  meeting,
  template,
  title,
  close,
}: {
  meeting: Schemas["MeetingOut"];
  template: string | null;
  title: string;
  close: () => void;
}) {
  const say = useSay();
  const at = { params: { path: { meeting_id: meeting.id } } };
  const look = useQuery({
    queryKey: [...keys.minutes(meeting.id), "preview", template],
    gcTime: 0,
    queryFn: () =>
      the(
        client.POST("/api/meetings/{meeting_id}/minutes/draw", {
          ...at,
          body: { template, preview: true },
        }),
      ),
  });
  const draw = useChange(
    () =>
      the(
        client.POST("/api/meetings/{meeting_id}/minutes/draw", {
          ...at,
          body: { template, preview: false },
        }),
      ),
    keys.minutes(meeting.id),
  );
  const restore = useRestore(meeting);
  const put = () =>
    draw.mutate(undefined, {
      onSuccess: ({ version }) => {
        close();
        say(t.minutes.drawn, version ? () => restore.mutate(version) : undefined);
      },
    });
  const changes = look.data?.changes ?? [];
  return (
    <Leaf
      title={t.minutes.drawTitle({ title })}
      hint={look.data && (changes.length ? t.minutes.drawHint : t.minutes.same)}
      close={close}
    >
      {look.isPending && <Wait />}
      {(look.error ?? draw.error) && <Trouble error={(look.error ?? draw.error)!} />}
      {changes.length > 0 && <Changes changes={changes} />}
      <p className="mt-4 flex gap-3">
        <button
          type="button"
          className="press press-main"
          disabled={!look.data || draw.isPending}
          onClick={put}
        >
          {t.minutes.draw}
        </button>
        <button type="button" className="plain" onClick={close}>
          {t.minutes.leave}
        </button>
      </p>
    </Leaf>
  );
}

/** How the minutes stood before: to look at, to compare, to have back. */
function Versions({
  meeting,
  first,
  close,
}: {
  meeting: Schemas["MeetingOut"];
  /** The one that is shown at first. */
  first: number | null;
  close: () => void;
}) {
  const versions = useVersions(meeting.id);
  const say = useSay();
  const [number, setNumber] = useState(first);
  const path = (n: number) => ({ params: { path: { meeting_id: meeting.id, number: n } } });
  const one = useQuery({
    queryKey: [...keys.versions(meeting.id), number],
    enabled: number !== null,
    queryFn: () =>
      the(client.GET("/api/meetings/{meeting_id}/minutes/versions/{number}", path(number!))),
  });
  const restore = useRestore(meeting);
  return (
    <Leaf title={t.minutes.versionsTitle} wide close={close}>
      {versions.isPending && <Wait />}
      {versions.error && <Trouble error={versions.error} />}
      {versions.data?.length === 0 && <Empty>{t.minutes.noVersions}</Empty>}
      <div className="mt-3 grid gap-5 sm:grid-cols-[15rem_1fr]">
        <ul>
          {versions.data?.map((version) => (
            <li key={version.number}>
              <button
                type="button"
                aria-pressed={number === version.number}
                onClick={() => setNumber(version.number)}
                className="w-full border-b border-rule px-2 py-2 text-left hover:bg-wash aria-pressed:bg-wash"
              >
                <span className="block">
                  {showDay(version.at)}, {showTime(version.at)}
                </span>
                <span className="block text-xs text-faded">
                  {t.minutes.why[version.why]}
                  {version.by && `, ${version.by}`} · {t.minutes.lineCount({ n: version.lines })}
                </span>
              </button>
            </li>
          ))}
        </ul>
        {number === null ? (
          !!versions.data?.length && <Empty>{t.minutes.choose}</Empty>
        ) : one.data ? (
          <div>
            <h3 className="text-base">{t.minutes.compare}</h3>
            {one.data.changes.length ? (
              <Changes changes={one.data.changes} />
            ) : (
              <Empty>{t.minutes.noChange}</Empty>
            )}
            <h3 className="mt-4 text-base">{t.minutes.asThen}</h3>
            <ul tabIndex={0} className="max-h-[40dvh] overflow-y-auto">
              {one.data.text.map(([heading, text], index) => (
                <li key={index} className="py-1 font-serif text-sm">
                  {heading !== one.data.text[index - 1]?.[0] && (
                    <span className="mt-2 block font-sans text-xs text-faded">{heading}</span>
                  )}
                  {text}
                </li>
              ))}
            </ul>
            {restore.error && <Trouble error={restore.error} />}
            {may(meeting, "change") && (
              <button
                type="button"
                className="press mt-4"
                disabled={restore.isPending}
                onClick={() =>
                  restore.mutate(number, {
                    onSuccess: (kept) => {
                      close();
                      say(t.minutes.restored, () => restore.mutate(kept.number));
                    },
                  })
                }
              >
                {t.minutes.restore}
              </button>
            )}
          </div>
        ) : failed(one) ? (
          <Trouble error={one.error} />
        ) : (
          <Wait />
        )}
      </div>
    </Leaf>
  );
}
