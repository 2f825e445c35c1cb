import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useChange } from "../../api/hooks";
import {
  addPasskey,
  beginCodes,
  changePassword,
  dropCodes,
  dropPasskey,
  emergencyCodes,
  endSessions,
  factors,
  knowsPasskeys,
  sessions,
  takeCodes,
} from "../../api/session";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { Secret } from "../../parts/secret";
import { Wait, Wrong } from "../../parts/states";
import { showDay } from "../../parts/time";
import { t } from "../../texts";
import { Elsewhere } from "./elsewhere";
import { FACTORS, Part, SESSIONS, useSure, Wanting } from "./sure";

const dayOf = (seconds: number) => showDay(new Date(seconds * 1000).toISOString());

/** Where the workspace wants a factor that one has not. */
export function SecondWanted({ me }: { me: Schemas["MeOut"] }) {
  return (
    <Wanting title={t.signing.wanted} hint={t.signing.wantedHint} email={me.email}>
      <div className="sheet p-6">
        <Factors />
      </div>
    </Wanting>
  );
}

/** Second factor, passkeys, codes for an emergency, password, sessions. */
export function Signing() {
  return (
    <section aria-labelledby="signing" className="sheet mt-6 p-6">
      <h2 id="signing" className="mb-3 text-lg">
        {t.signing.title}
      </h2>
      <Factors />
      <Elsewhere />
      <Password />
      <Sessions />
      <p className="mt-4">
        <a className="cite" href="/api/rights/mine/file" download>
          {t.person.mine}
        </a>
      </p>
    </section>
  );
}

function Factors() {
  const known = useQuery({ queryKey: FACTORS, queryFn: factors });
  const { act, error, leaf } = useSure();
  if (!known.data) return <Wait />;
  const app = known.data.find((one) => one.type === "totp");
  const passkeys = known.data.filter((one) => one.type === "webauthn");
  const emergency = known.data.find((one) => one.type === "recovery_codes");
  return (
    <>
      <Part title={t.signing.apps}>
        {app ? (
          <p className="flex flex-wrap items-baseline gap-4">
            {t.signing.have({ day: dayOf(app.created_at) })}
            <button type="button" className="plain" onClick={() => void act(dropCodes)}>
              {t.signing.drop}
            </button>
          </p>
        ) : (
          <App act={act} />
        )}
      </Part>
      <Part title={t.signing.passkeys} hint={t.signing.passkeysHint}>
        <ul>
          {passkeys.map((one) => (
            <li key={one.id} className="flex flex-wrap items-baseline gap-4 py-1">
              <span>{one.name}</span>
              <span className="text-sm text-faded">
                {t.signing.have({ day: dayOf(one.created_at) })}
              </span>
              <button
                type="button"
                className="plain"
                onClick={() => void act(() => dropPasskey(one.id!))}
              >
                {t.signing.drop}
              </button>
            </li>
          ))}
        </ul>
        {knowsPasskeys() ? (
          <Passkey act={act} />
        ) : (
          <p className="text-sm text-faded">{t.signing.passkeyNot}</p>
        )}
      </Part>
      {emergency && (
        <Part title={t.signing.emergency} hint={t.signing.emergencyHint}>
          <Emergency left={emergency.unused_code_count ?? 0} act={act} />
        </Part>
      )}
      <Wrong error={error} className="mb-4" />
      {leaf}
    </>
  );
}

type Act = (what: () => Promise<void>) => Promise<void>;

function App({ act }: { act: Act }) {
  const [secret, setSecret] = useState("");
  const [code, setCode] = useState("");
  if (!secret)
    return (
      <button
        type="button"
        className="press"
        onClick={() => void act(async () => setSecret(await beginCodes()))}
      >
        {t.signing.add}
      </button>
    );
  return (
    <form
      className="flex flex-wrap items-end gap-5"
      onSubmit={(event) => {
        event.preventDefault();
        void act(() => takeCodes(code));
      }}
    >
      <p className="basis-full text-sm text-faded">{t.signing.appHint}</p>
      <img
        src={`/api/me/totp.svg?${secret.slice(0, 4)}`}
        alt={t.signing.appPicture}
        className="size-44 border border-rule bg-white p-1"
      />
      <div className="flex min-w-0 grow flex-col gap-3">
        <Field label={t.signing.key} htmlFor="totp-key">
          <input id="totp-key" readOnly className="field font-mono text-sm" value={secret} />
        </Field>
        <Field label={t.signing.take} htmlFor="totp-code">
          <input
            id="totp-code"
            required
            inputMode="numeric"
            autoComplete="one-time-code"
            maxLength={6}
            className="field max-w-40"
            value={code}
            onChange={(event) => setCode(event.target.value)}
          />
        </Field>
        <div>
          <button type="submit" className="press press-main">
            {t.signing.go}
          </button>
        </div>
      </div>
    </form>
  );
}

function Passkey({ act }: { act: Act }) {
  const [name, setName] = useState("");
  return (
    <form
      className="mt-2 flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void act(async () => {
          await addPasskey(name);
          setName("");
        });
      }}
    >
      <Field label={t.signing.passkeyName} htmlFor="passkey-name">
        <input
          id="passkey-name"
          required
          maxLength={100}
          className="field"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </Field>
      <button type="submit" className="press">
        {t.signing.passkeyAdd}
      </button>
    </form>
  );
}

function Emergency({ left, act }: { left: number; act: Act }) {
  const [codes, setCodes] = useState<string[]>([]);
  const say = useSay();
  return (
    <>
      <p className="flex flex-wrap items-baseline gap-4">
        {t.signing.left({ n: left })}
        <button
          type="button"
          className="plain"
          onClick={() => void act(async () => setCodes(await emergencyCodes(false)))}
        >
          {t.signing.show}
        </button>
        <button
          type="button"
          className="plain"
          onClick={() =>
            void act(async () => {
              setCodes(await emergencyCodes(true));
              say(t.signing.anewDone);
            })
          }
        >
          {t.signing.anew}
        </button>
      </p>
      {codes.length > 0 && (
        <ul className="mt-2 grid max-w-md grid-cols-2 gap-x-6 font-mono text-sm">
          {codes.map((code) => (
            <li key={code}>{code}</li>
          ))}
        </ul>
      )}
    </>
  );
}

function Password() {
  const [changing, setChanging] = useState(false);
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  const say = useSay();
  const { act, error, leaf } = useSure();
  return (
    <Part title={t.signing.changePassword}>
      {!changing ? (
        <button type="button" className="press" onClick={() => setChanging(true)}>
          {t.signing.changePassword}
        </button>
      ) : (
        <form
          className="grid gap-4 sm:grid-cols-2"
          onSubmit={(event) => {
            event.preventDefault();
            void act(async () => {
              await changePassword(old, fresh);
              say(t.signing.changed);
              setChanging(false);
            });
          }}
        >
          <Secret id="old-password" label={t.signing.old} value={old} change={setOld} />
          <Secret
            id="fresh-password"
            label={t.signing.fresh}
            hint={t.door.passwordRule}
            value={fresh}
            change={setFresh}
            fresh
            least={12}
          />
          <div>
            <button type="submit" className="press press-main">
              {t.signing.go}
            </button>
          </div>
        </form>
      )}
      <Wrong error={error} className="mt-2" />
      {leaf}
    </Part>
  );
}

function Sessions() {
  const known = useQuery({ queryKey: SESSIONS, queryFn: sessions });
  const say = useSay();
  const end = useChange((ids: number[]) => endSessions(ids), SESSIONS);
  const done = { onSuccess: () => say(t.signing.ended) };
  const others = known.data?.filter((one) => !one.is_current) ?? [];
  return (
    <Part title={t.signing.sessions}>
      <ul>
        {known.data?.map((one) => (
          <li
            key={one.id}
            className="flex flex-wrap items-baseline gap-x-4 border-b border-rule py-1.5 last:border-0"
          >
            <span className="min-w-0 grow basis-60 text-sm break-words">
              {one.is_current && <strong className="font-serif">{t.signing.here} </strong>}
              {one.user_agent}
              <span className="block text-faded">
                {t.signing.since({ day: dayOf(one.created_at), address: one.ip })}
              </span>
            </span>
            {!one.is_current && (
              <button
                type="button"
                className="plain"
                aria-label={t.signing.endOf({ agent: one.user_agent })}
                onClick={() => end.mutate([one.id], done)}
              >
                {t.signing.end}
              </button>
            )}
          </li>
        ))}
      </ul>
      {others.length > 1 && (
        <button
          type="button"
          className="press mt-2"
          onClick={() =>
            end.mutate(
              others.map((one) => one.id),
              done,
            )
          }
        >
          {t.signing.endOthers}
        </button>
      )}
      <Wrong error={end.error} />
    </Part>
  );
}
