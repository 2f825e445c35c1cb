import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";
import { client, failed, the } from "../../api/client";
import { useChange } from "../../api/hooks";
import { Wait, Wrong } from "../../parts/states";
import { t } from "../../texts";

/** Each language by its own name: who looks for it reads no other. */
const ownName = (code: string) =>
  new Intl.DisplayNames([code], { type: "language", fallback: "code" }).of(code) ?? code;
const STATES: Record<string, string> = {
  on: t.notice.on,
  off: t.notice.off,
  stopping: t.notice.over,
  stopped: t.notice.over,
};

/** What people in the room see by the code: the notice, on or off the record, and a way to answer. No sign-in. */
export function NoticePage() {
  const { token = "" } = useParams();
  const at = { params: { path: { token } } };
  const page = useQuery({
    queryKey: ["notice", token],
    queryFn: () => the(client.GET("/api/notices/{token}", at)),
    refetchInterval: 3000,
  });
  const mine = navigator.language.slice(0, 2);
  const [language, setLanguage] = useState(mine);
  const [name, setName] = useState("");
  const answer = useChange((agreed: boolean) =>
    the(client.POST("/api/notices/{token}", { ...at, body: { name, agreed } })),
  );
  if (page.isPending) return <Wait />;
  if (failed(page))
    return (
      <p role="alert" className="p-8">
        {t.notice.gone}
      </p>
    );
  const { texts, workspace, title, state } = page.data;
  const shown = texts[language] ? language : "en";
  return (
    <main className="mx-auto flex min-h-dvh max-w-xl flex-col gap-5 px-5 py-10">
      <p className="flex flex-wrap gap-x-3">
        {Object.keys(texts).map((code) => (
          <button
            key={code}
            type="button"
            aria-pressed={code === shown}
            lang={code}
            className="plain aria-pressed:text-ink aria-pressed:underline"
            onClick={() => setLanguage(code)}
          >
            {ownName(code)}
          </button>
        ))}
      </p>
      <h1 className="text-2xl">{t.notice.title}</h1>
      <p className="text-faded">
        {title}, {t.notice.by({ workspace })}
      </p>
      <p
        role="status"
        className={`sheet px-4 py-3 text-lg ${state === "on" ? "border-l-4 border-l-lichen" : ""}`}
      >
        {STATES[state]}
      </p>
      <p lang={shown} className="font-serif text-lg leading-relaxed">
        {texts[shown]}
      </p>
      {answer.isSuccess ? (
        <p role="status">{answer.variables ? t.notice.thanks : t.notice.objected}</p>
      ) : (
        <form
          className="flex flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            answer.mutate(true);
          }}
        >
          <label>
            {t.notice.yourName}
            <input
              required
              maxLength={120}
              autoComplete="name"
              className="field"
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
          </label>
          <Wrong error={answer.error} />
          <p className="flex gap-3">
            <button type="submit" disabled={!name.trim()} className="press press-main">
              {t.notice.agree}
            </button>
            <button
              type="button"
              disabled={!name.trim()}
              className="press"
              onClick={() => answer.mutate(false)}
            >
              {t.notice.object}
            </button>
          </p>
        </form>
      )}
    </main>
  );
}
