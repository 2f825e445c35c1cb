import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { anew } from "../../api/anew";
import { client, failed, Problem, the, type Schemas } from "../../api/client";
import { useChange } from "../../api/hooks";
import { Field } from "../../parts/field";
import { Trouble, Wait, Wrong } from "../../parts/states";
import { clock, showLongDay } from "../../parts/time";
import { t } from "../../texts";

type Linked = Schemas["LinkedOut"];

/** What somebody sees who follows a link: that one thing, and no way to anything else. */
export function LinkedPage() {
  const { token = "" } = useParams();
  const at = { params: { path: { token } } };
  const key = ["linked", token];
  const linked = useQuery({
    queryKey: key,
    retry: false,
    refetchInterval: 30_000, // what is taken back or struck meanwhile goes from an open page too
    queryFn: () => the(client.GET("/api/linked/{token}", at)),
  });
  useEffect(() => {
    document.title = linked.data?.title || t.name;
  }, [linked.data]);
  if (linked.isPending) return <Wait />;
  if (failed(linked))
    return linked.error instanceof Problem && linked.error.status < 500 ? (
      <main className="mx-auto max-w-xl px-5 py-12">
        <h1 className="mb-3 text-2xl">{t.links.nowhere}</h1>
        <p role="alert">{linked.error.message}</p>
      </main>
    ) : (
      <Trouble error={linked.error} again={() => void linked.refetch()} />
    );
  if (linked.data.locked) return <Locked token={token} stale={key} />;
  return <Shown linked={linked.data} token={token} />;
}

function Locked({ token, stale }: { token: string; stale: string[] }) {
  const [passphrase, setPassphrase] = useState("");
  const cache = useQueryClient();
  const unlock = useChange(() =>
    the(
      client.POST("/api/linked/{token}/unlock", {
        params: { path: { token } },
        body: { passphrase },
      }),
    ),
  );
  return (
    <main className="mx-auto max-w-xl px-5 py-12">
      <h1 className="mb-3 text-2xl">{t.links.locked}</h1>
      <form
        className="sheet flex flex-col gap-4 p-6"
        onSubmit={(event) => {
          event.preventDefault();
          unlock.mutate(undefined, {
            onSuccess: () => void anew(cache, stale),
          });
        }}
      >
        <Field label={t.links.passphrase} htmlFor="passphrase" hint={t.links.lockedHint}>
          <input
            id="passphrase"
            type="password"
            autoComplete="off"
            required
            className="field"
            value={passphrase}
            onChange={(event) => setPassphrase(event.target.value)}
          />
        </Field>
        <Wrong error={unlock.error} />
        <div>
          <button type="submit" className="press press-main" disabled={unlock.isPending}>
            {t.links.open}
          </button>
        </div>
      </form>
    </main>
  );
}

function Shown({ linked, token }: { linked: Linked; token: string }) {
  return (
    <main className="mx-auto w-full max-w-[48rem] px-4 py-10 sm:px-6">
      <h1 className="text-2xl">{linked.title}</h1>
      <p className="text-sm text-faded">
        {[
          linked.when && showLongDay(linked.when),
          linked.until && t.links.shownUntil({ day: showLongDay(linked.until) }),
        ]
          .filter(Boolean)
          .join(" · ")}
      </p>
      {linked.playable && <Sound address={`/api/linked/${token}/sound`} title={linked.title} />}
      {linked.sections.map((section) => (
        <section key={section.heading} className="sheet mt-5 px-5 py-4">
          <h2 className="mb-2 text-base">{section.heading}</h2>
          <ul className="list-disc pl-5 font-serif">
            {section.lines.map((line, index) => (
              <li key={index} className="py-0.5">
                {line}
              </li>
            ))}
          </ul>
        </section>
      ))}
      {linked.said.length > 0 && (
        <section aria-labelledby="record" className="sheet mt-5 px-5 py-4">
          <h2 id="record" className="mb-2 text-base">
            {t.links.record}
          </h2>
          <Spoken said={linked.said} />
        </section>
      )}
      {linked.excerpts.map((excerpt) => (
        <section key={excerpt.place} className="sheet mt-5 px-5 py-4">
          {linked.excerpts.length > 1 && <h2 className="mb-2 text-base">{excerpt.title}</h2>}
          {excerpt.playable && (
            <Sound address={`/api/linked/${token}/sound/${excerpt.place}`} title={excerpt.title} />
          )}
          <Spoken said={excerpt.said} />
        </section>
      ))}
    </main>
  );
}

function Sound({ address, title }: { address: string; title: string }) {
  return <audio controls preload="none" src={address} aria-label={title} className="my-3 w-full" />;
}

function Spoken({ said }: { said: Schemas["LinkedSaidOut"][] }) {
  return (
    <ul>
      {said.map((one, index) => (
        <li key={index} className="grid grid-cols-[3.5rem_1fr] gap-x-3 py-1">
          <span className="text-sm text-faded">{clock(one.start)}</span>
          <p className="font-serif leading-snug">
            <span className="font-sans text-sm font-semibold">{one.speaker}</span> {one.text}
          </p>
        </li>
      ))}
    </ul>
  );
}
