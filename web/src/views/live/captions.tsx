import { useEffect, useRef } from "react";
import { useParams, useSearchParams } from "react-router";
import { failed } from "../../api/client";
import { useEvents, useLive } from "../../api/hooks";
import { Trouble, Wait } from "../../parts/states";
import { t } from "../../texts";

/** What is said, in large type for the room, as spoken or put into another language. */
export function Captions() {
  const { id = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const language = params.get("language") ?? "";
  useEvents(id);
  const live = useLive(id, language);
  const foot = useRef<HTMLDivElement>(null);
  useEffect(() => {
    foot.current?.scrollIntoView({ block: "end" });
  }, [live.data]);
  if (live.isPending) return <Wait />;
  if (failed(live)) return <Trouble error={live.error} again={() => void live.refetch()} />;
  return (
    <div className="flex h-dvh flex-col bg-paper">
      <header className="flex flex-wrap items-center gap-4 border-b border-rule px-6 py-2">
        <p role="status" className="text-lg">
          {live.data.state === "on" ? t.capture.on : t.capture.off}
        </p>
        <span className="grow" />
        <label className="flex items-center gap-2">
          {t.live.captionsIn}
          <select
            className="field w-auto"
            value={language}
            onChange={(event) =>
              setParams(event.target.value ? { language: event.target.value } : {}, {
                replace: true,
              })
            }
          >
            {Object.entries(t.live.languages).map(([code, label]) => (
              <option key={code} value={code}>
                {label}
              </option>
            ))}
          </select>
        </label>
        {language && <p className="w-full text-sm text-faded">{t.live.fromEnglish}</p>}
      </header>
      <main lang={language || undefined} className="grow overflow-y-auto px-6 py-8 sm:px-16">
        {live.data.lines.length === 0 && (
          <p className="font-serif text-2xl text-faded italic">{t.live.empty}</p>
        )}
        <div
          aria-live="polite"
          className="mx-auto max-w-[60rem] font-serif text-3xl leading-normal sm:text-4xl sm:leading-normal"
        >
          {live.data.lines.slice(-30).map((line) => (
            <p key={line.number} className={`mb-5 ${line.settled ? "" : "text-faded"}`}>
              {line.text}
            </p>
          ))}
        </div>
        <div ref={foot} />
      </main>
    </div>
  );
}
