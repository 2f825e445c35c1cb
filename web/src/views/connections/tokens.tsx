import { useState } from "react";
import { Link } from "react-router";
import { client, the, type Schemas } from "../../api/client";
import { elsewhere, useTokens } from "../../api/elsewhere";
import { useChange } from "../../api/hooks";
import { copyText } from "../../parts/copy";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { Empty, Wrong } from "../../parts/states";
import { dayAfter, dayOf, showDay, showLongDay } from "../../parts/time";
import { t } from "../../texts";

type Token = Schemas["TokenOut"];
type Scope = Schemas["TokenScope"];
const SCOPES = Object.keys(t.tokens.scopeNames) as Scope[];

/** Ways in for programs. */
export function Tokens({ manages }: { manages: boolean }) {
  const tokens = useTokens().data ?? [];
  return (
    <section aria-labelledby="tokens" className="mt-10">
      <h2 id="tokens" className="text-lg">
        {t.tokens.title}
      </h2>
      <p className="mb-2 text-sm text-faded">
        {t.tokens.hint}{" "}
        <Link to="/developers" className="cite">
          {t.tokens.api}
        </Link>
      </p>
      {tokens.length === 0 ? (
        <Empty>{t.tokens.none}</Empty>
      ) : (
        <ul className="sheet px-4">
          {tokens.map((one) => (
            <Row key={one.id} token={one} />
          ))}
        </ul>
      )}
      <Make manages={manages} />
    </section>
  );
}

function Row({ token }: { token: Token }) {
  const say = useSay();
  const revoke = useChange(
    () =>
      the(client.DELETE("/api/tokens/{token_id}", { params: { path: { token_id: token.id } } })),
    elsewhere.tokens,
  );
  const ended = new Date(token.until) <= new Date();
  const state = token.revoked_at
    ? t.tokens.takenBack
    : ended
      ? t.tokens.ended
      : t.tokens.ends({ day: showLongDay(token.until) });
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 border-b border-rule py-2.5 last:border-0">
      <div className="min-w-0 grow basis-60">
        <p className="font-serif">{token.name}</p>
        <p className="text-sm text-faded">
          {[
            token.everybody ? t.tokens.ofAll : t.tokens.mine,
            token.scopes.map((scope) => t.tokens.scopeNames[scope]).join(", "),
            state,
            token.used_at ? t.tokens.used({ day: showDay(token.used_at) }) : t.tokens.unused,
          ].join(" · ")}
        </p>
        <Wrong error={revoke.error} />
      </div>
      {!token.revoked_at && (
        <button
          type="button"
          className="press border-clay py-1 text-sm text-clay"
          aria-label={t.tokens.revokeOf({ name: token.name })}
          disabled={revoke.isPending}
          onClick={() => revoke.mutate(undefined, { onSuccess: () => say(t.tokens.revoked) })}
        >
          {t.tokens.revoke}
        </button>
      )}
    </li>
  );
}

function Make({ manages }: { manages: boolean }) {
  const [name, setName] = useState("");
  const [scopes, setScopes] = useState<Scope[]>(["read"]);
  const [until, setUntil] = useState(dayAfter(dayOf(new Date()), 90));
  const [everybody, setEverybody] = useState(false);
  const [guest, setGuest] = useState(false);
  const say = useSay();
  const make = useChange(
    () =>
      the(
        client.POST("/api/tokens", {
          body: {
            name,
            scopes,
            until: new Date(`${until}T23:59:00`).toISOString(),
            everybody,
            guest: everybody && guest,
          },
        }),
      ),
    elsewhere.tokens,
  );
  return (
    <details className="sheet mt-3 p-6">
      <summary className="cursor-pointer font-serif">{t.tokens.make}</summary>
      <form
        className="mt-4 flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate(undefined, { onSuccess: () => setName("") });
        }}
      >
        <div className="grid gap-4 sm:grid-cols-2">
          <Field label={t.tokens.name} htmlFor="token-name">
            <input
              id="token-name"
              required
              maxLength={120}
              className="field"
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
          </Field>
          <Field label={t.tokens.until} htmlFor="token-until">
            <input
              id="token-until"
              type="date"
              required
              className="field"
              value={until}
              onChange={(event) => setUntil(event.target.value)}
            />
          </Field>
        </div>
        <fieldset>
          <legend className="mb-1 font-serif text-sm">{t.tokens.scopes}</legend>
          {SCOPES.map((scope) => (
            <label key={scope} className="flex items-center gap-2 py-0.5">
              <input
                type="checkbox"
                className="size-4 accent-slate"
                checked={scopes.includes(scope)}
                onChange={(event) =>
                  setScopes(
                    event.target.checked
                      ? [...scopes, scope]
                      : scopes.filter((other) => other !== scope),
                  )
                }
              />
              {t.tokens.scopeNames[scope]}
            </label>
          ))}
        </fieldset>
        {manages && (
          <div>
            <label className="flex items-center gap-2 py-0.5">
              <input
                type="checkbox"
                className="size-4 accent-slate"
                checked={everybody}
                onChange={(event) => setEverybody(event.target.checked)}
              />
              {t.tokens.everybody}
            </label>
            {everybody && (
              <label className="flex items-center gap-2 py-0.5 pl-6">
                <input
                  type="checkbox"
                  className="size-4 accent-slate"
                  checked={guest}
                  onChange={(event) => setGuest(event.target.checked)}
                />
                {t.tokens.guest}
              </label>
            )}
          </div>
        )}
        <Wrong error={make.error} />
        <p>
          <button type="submit" className="press" disabled={make.isPending || scopes.length === 0}>
            {t.tokens.make}
          </button>
        </p>
      </form>
      {make.data && (
        <div role="status" className="mt-3 border-l-4 border-brass pl-3">
          <p>{t.tokens.made}</p>
          <p className="flex flex-wrap items-baseline gap-3">
            <code className="break-all">{make.data.token}</code>
            <button
              type="button"
              className="press py-1 text-sm"
              onClick={() => void copyText(make.data.token).then(() => say(t.tokens.copied))}
            >
              {t.tokens.copy}
            </button>
          </p>
        </div>
      )}
    </details>
  );
}
