import { useState } from "react";
import { client, the } from "../../api/client";
import { keys, useChange, useEvents, useMeeting, useNotices } from "../../api/hooks";
import { Names } from "../../parts/names";
import { useSay } from "../../parts/sayings";
import { showTime } from "../../parts/time";
import { Leaf } from "../../parts/leaf";
import { locale, t } from "../../texts";
import { Wrong } from "../../parts/states";

const named = new Intl.DisplayNames(locale, { type: "language" });
type How = "chat" | "page" | "aloud" | "said" | "none";

/** The notice: as text, as a page, read out; and what people answered. */
export function NoticePanel({ meeting }: { meeting: string }) {
  useEvents(meeting);
  const notices = useNotices(meeting);
  const about = useMeeting(meeting);
  const [language, setLanguage] = useState("en");
  const [who, setWho] = useState<string[]>([]);
  const [shown, setShown] = useState(false);
  const say = useSay();
  const at = { params: { path: { meeting_id: meeting } } };
  const tell = useChange(
    (how: How) =>
      the(client.POST("/api/meetings/{meeting_id}/notices", { ...at, body: { how, language } })),
    keys.notices(meeting),
  );
  const note = useChange(
    (answer: { name: string; agreed: boolean }) =>
      the(client.POST("/api/meetings/{meeting_id}/consents", { ...at, body: answer })),
    keys.notices(meeting),
  );
  if (!notices.data) return null;
  const { texts, spoken, page, given, answers, all_must_agree } = notices.data;
  const last = new Map(answers.map((one) => [one.name.toLowerCase(), one]));
  const names = [
    ...new Set([
      ...(about.data?.people.map((one) => one.name) ?? []),
      ...answers.map((one) => one.name),
      ...who,
    ]),
  ];
  return (
    <div className="flex flex-col gap-4">
      <div className="flex flex-wrap items-center gap-2">
        <label className="sr-only" htmlFor="notice-language">
          {t.capture.language}
        </label>
        <select
          id="notice-language"
          className="field w-auto"
          value={language}
          onChange={(event) => setLanguage(event.target.value)}
        >
          {Object.keys(texts).map((code) => (
            <option key={code} value={code}>
              {named.of(code)}
            </option>
          ))}
        </select>
      </div>
      <blockquote lang={language} className="border-l-4 border-edge pl-3 font-serif">
        {texts[language]}
      </blockquote>
      <p className="flex flex-wrap gap-2">
        <button
          type="button"
          className="press"
          onClick={() =>
            void navigator.clipboard
              .writeText(`${texts[language]!}${page ? ` ${location.origin}${page}` : ""}`)
              .then(() => {
                say(t.capture.copied);
                tell.mutate("chat");
              })
          }
        >
          {t.capture.copy}
        </button>
        {page && (
          <button
            type="button"
            className="press"
            onClick={() => {
              setShown(true);
              tell.mutate("page");
            }}
          >
            {t.capture.show}
          </button>
        )}
        {spoken.includes(language) && (
          <button
            type="button"
            className="press"
            onClick={() => {
              void new Audio(`/api/meetings/${meeting}/notice.wav?language=${language}`).play();
              tell.mutate("aloud");
            }}
          >
            {t.capture.aloud}
          </button>
        )}
      </p>
      {shown && page && (
        <figure className="flex items-center gap-4">
          <img
            src={`/api/notices/${page.split("/").pop()!}/qr.svg`}
            alt={t.capture.code}
            className="size-36"
          />
          <a className="cite" href={page} target="_blank" rel="noreferrer">
            {t.capture.page}
          </a>
        </figure>
      )}
      {given.length > 0 && (
        <ul className="text-sm text-faded">
          {given.map((one, index) => (
            <li key={index}>
              {t.capture.how[one.how]}
              {one.language && one.how !== "none" ? ` (${named.of(one.language)!})` : ""},{" "}
              {showTime(one.at)}
              {one.by && `, ${one.by}`}
            </li>
          ))}
        </ul>
      )}
      <div>
        <h3 className="mb-1 text-sm">{t.capture.answers}</h3>
        {all_must_agree && <p className="mb-1 text-sm text-clay">{t.capture.mustAll}</p>}
        {names.length === 0 && <p className="text-sm text-faded italic">{t.capture.noAnswers}</p>}
        <ul>
          {names.map((name) => {
            const answer = last.get(name.toLowerCase());
            return (
              <li
                key={name}
                className="flex flex-wrap items-center gap-x-3 border-b border-rule py-1"
              >
                <span className="grow font-serif">{name}</span>
                <span
                  className={`text-sm ${answer && !answer.agreed ? "text-clay" : "text-faded"}`}
                >
                  {answer ? (answer.agreed ? t.capture.agreed : t.capture.objected) : ""}
                </span>
                <button
                  type="button"
                  className="plain text-sm"
                  aria-label={`${name} ${t.capture.agrees}`}
                  onClick={() => note.mutate({ name, agreed: true })}
                >
                  {t.capture.agrees}
                </button>
                <button
                  type="button"
                  className="plain text-sm"
                  aria-label={`${name} ${t.capture.objects}`}
                  onClick={() => note.mutate({ name, agreed: false })}
                >
                  {t.capture.objects}
                </button>
              </li>
            );
          })}
        </ul>
        <div className="mt-2 max-w-64">
          <Names
            id="answer-of"
            label={t.capture.who}
            hint={t.capture.who}
            names={[]}
            change={(added) => setWho([...who, ...added])}
          />
        </div>
      </div>
    </div>
  );
}

/** Asked once, before the first second: have people been told? */
export function Tell({
  meeting,
  begin,
  cancel,
}: {
  meeting: string;
  begin: () => void;
  cancel: () => void;
}) {
  const notices = useNotices(meeting);
  const at = { params: { path: { meeting_id: meeting } } };
  const tell = useChange(
    (how: How) =>
      the(
        client.POST("/api/meetings/{meeting_id}/notices", { ...at, body: { how, language: "" } }),
      ),
    keys.notices(meeting),
  );
  const told = (notices.data?.given.length ?? 0) > 0;
  return (
    <Leaf title={t.capture.tell} hint={t.capture.tellHint} close={cancel}>
      <NoticePanel meeting={meeting} />
      <Wrong error={tell.error} className="mt-3" />
      <div className="mt-5 flex flex-wrap gap-3 border-t border-rule pt-4">
        {told ? (
          <button type="button" className="press press-main" onClick={begin}>
            {t.capture.begin}
          </button>
        ) : (
          <>
            <button
              type="button"
              className="press press-main"
              onClick={() => tell.mutate("said", { onSuccess: begin })}
            >
              {t.capture.said}
            </button>
            <button
              type="button"
              className="press"
              onClick={() => tell.mutate("none", { onSuccess: begin })}
            >
              {t.capture.without}
            </button>
          </>
        )}
        <button type="button" className="plain" onClick={cancel}>
          {t.capture.cancel}
        </button>
      </div>
    </Leaf>
  );
}
