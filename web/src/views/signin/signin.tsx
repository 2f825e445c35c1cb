import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, type FormEvent, type ReactNode } from "react";
import { Link, Navigate, useNavigate, useParams, useSearchParams } from "react-router";
import { client, failed, the, type Schemas } from "../../api/client";
import { keys, useChange, useDoor, useMe } from "../../api/hooks";
import {
  askForReset,
  giveCode,
  knowsPasskeys,
  secondPending,
  setPassword,
  showPasskey,
  signIn,
  signUp,
} from "../../api/session";
import { Field } from "../../parts/field";
import { Gateway, useTurnedBack } from "../../parts/gateway";
import { Secret } from "../../parts/secret";
import { Trouble, Wait, Wrong } from "../../parts/states";
import { t } from "../../texts";

function Door({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="grid min-h-dvh place-items-center p-4">
      <div className="grid w-full max-w-4xl overflow-hidden md:grid-cols-2 sheet shadow-sm">
        <div className="flex flex-col justify-between gap-10 bg-slate p-8 text-on-slate">
          <p className="font-serif text-2xl italic">{t.name}</p>
          <svg viewBox="0 0 200 90" aria-hidden className="w-full opacity-80">
            {[12, 30, 48, 22, 9, 60, 74, 51, 33, 12, 5, 26, 44, 66, 38, 17, 29, 11, 4, 8].map(
              (fall, index) => (
                <rect
                  key={index}
                  x={index * 10}
                  y="0"
                  width="6"
                  height={fall}
                  fill="currentColor"
                />
              ),
            )}
            <path d="M0 88h200" stroke="currentColor" strokeWidth="2" />
          </svg>
          <p className="font-serif text-base">{t.door.line}</p>
        </div>
        <main className="p-8">
          <h1 className="mb-5 text-2xl">{title}</h1>
          {children}
        </main>
      </div>
    </div>
  );
}

/** A form that sends once, shows what went wrong, and keeps what was typed. */
function useSend(send: () => Promise<void>) {
  const [error, setError] = useState<Error | null>(null);
  const [busy, setBusy] = useState(false);
  async function submit(event: FormEvent) {
    event.preventDefault();
    setBusy(true);
    setError(null);
    try {
      await send();
    } catch (problem) {
      setError(problem as Error);
    } finally {
      setBusy(false);
    }
  }
  return { submit, error, busy };
}

export function SignIn() {
  const door = useDoor();
  const me = useMe();
  const cache = useQueryClient();
  const go = useNavigate();
  const [params] = useSearchParams();
  const turnedBack = useTurnedBack();
  const [mode, setMode] = useState<"in" | "up" | "reset" | "sent" | "second">("in");
  const [code, setCode] = useState("");
  const [email, setEmail] = useState("");
  const [password, setPasswordText] = useState("");
  const to = params.get("to") ?? "/";
  const inside = to.startsWith("/") && !to.startsWith("//") ? to : "/";
  const by = params.has("by");
  useEffect(() => {
    if (by) void secondPending().then((pending) => pending && setMode("second"));
  }, [by]);
  const { submit, error, busy } = useSend(async () => {
    if (mode === "reset") {
      await askForReset(email);
      return setMode("sent");
    }
    if (mode === "second") await giveCode(code);
    else if (mode === "up") await signUp(email, password);
    else if (await signIn(email, password)) return setMode("second");
    await enter();
  });
  const enter = async () => {
    cache.clear();
    await go(inside, { replace: true });
  };
  const passkey = useSend(async () => {
    await showPasskey(mode !== "second");
    await enter();
  });
  if (door.isPending) return <Wait />;
  if (me.data && !busy) return <Navigate to={inside} replace />;
  const withPasskey = knowsPasskeys() && (
    <form onSubmit={(event) => void passkey.submit(event)} className="mt-4">
      <button type="submit" disabled={passkey.busy} className="press w-full justify-center">
        {t.signing.withPasskey}
      </button>
      <Wrong error={passkey.error} className="mt-2" />
    </form>
  );
  if (mode === "second")
    return (
      <Door title={t.signing.second}>
        <form onSubmit={(event) => void submit(event)} className="flex flex-col gap-4">
          <Field label={t.signing.code} hint={t.signing.codeHint} htmlFor="code">
            <input
              id="code"
              required
              autoFocus
              autoComplete="one-time-code"
              inputMode="numeric"
              maxLength={12}
              className="field"
              value={code}
              onChange={(event) => setCode(event.target.value)}
            />
          </Field>
          <Wrong error={error} />
          <button type="submit" disabled={busy} className="press press-main justify-center">
            {t.door.enter}
          </button>
        </form>
        {withPasskey}
      </Door>
    );
  if (mode === "sent")
    return (
      <Door title={t.door.forgot}>
        <p>{t.door.resetSent}</p>
        <button type="button" className="press mt-4" onClick={() => setMode("in")}>
          {t.door.toSignIn}
        </button>
      </Door>
    );
  return (
    <Door title={mode === "in" ? t.door.title : mode === "up" ? t.door.signUpTitle : t.door.forgot}>
      <form onSubmit={(event) => void submit(event)} className="flex flex-col gap-4">
        <Field label={t.door.email} htmlFor="email">
          <input
            id="email"
            type="email"
            required
            autoComplete="username"
            autoFocus
            className="field"
            value={email}
            onChange={(e) => setEmail(e.target.value)}
          />
        </Field>
        {mode !== "reset" && (
          <Secret
            id="password"
            label={t.door.password}
            hint={mode === "up" ? t.door.passwordRule : undefined}
            value={password}
            change={setPasswordText}
            fresh={mode === "up"}
          />
        )}
        <Wrong error={error ?? (turnedBack && new Error(turnedBack.words))} />
        <button type="submit" disabled={busy} className="press press-main justify-center">
          {mode === "in" ? t.door.enter : mode === "up" ? t.door.make : t.door.reset}
        </button>
      </form>
      {mode === "in" && withPasskey}
      {mode === "in" && <ByWayOf back={`/sign-in?by=1&to=${encodeURIComponent(inside)}`} />}
      <div className="mt-5 flex flex-col items-start gap-1 text-sm">
        {mode === "in" ? (
          <button type="button" className="plain" onClick={() => setMode("reset")}>
            {t.door.forgot}
          </button>
        ) : (
          <button type="button" className="plain" onClick={() => setMode("in")}>
            {t.door.toSignIn}
          </button>
        )}
        {mode === "in" &&
          (door.data?.sign_up_open ? (
            <button type="button" className="plain" onClick={() => setMode("up")}>
              {t.door.toSignUp}
            </button>
          ) : (
            <p className="px-1 text-faded">{t.door.closed}</p>
          ))}
      </div>
    </Door>
  );
}

/** The other ways in that whoever runs the server has set up. */
function ByWayOf({ back }: { back: string }) {
  const door = useDoor();
  return (
    <div className="mt-4 flex flex-col gap-2 *:[&_button]:w-full">
      {door.data?.providers.map((one) => (
        <Gateway key={one.id} provider={one} back={back} label={t.door.by({ name: one.name })} />
      ))}
    </div>
  );
}

export function Invited() {
  const { token = "" } = useParams();
  const path = { params: { path: { token } } };
  const invited = useQuery({
    queryKey: ["invited", token],
    queryFn: () => the(client.GET("/api/invited/{token}", path)),
  });
  const me = useMe();
  const turnedBack = useTurnedBack();
  const cache = useQueryClient();
  const go = useNavigate();
  const [name, setName] = useState("");
  const [password, setPasswordText] = useState("");
  const { submit, error, busy } = useSend(async () => {
    await the(client.POST("/api/invited/{token}", { ...path, body: { name, password } }));
    cache.clear();
    await go("/");
  });
  if (invited.isPending || me.isPending) return <Wait />;
  if (failed(invited))
    return (
      <Door title={t.problem.title}>
        <Trouble error={invited.error} />
      </Door>
    );
  const mine = me.data?.email.toLowerCase() === invited.data.email.toLowerCase();
  if (invited.data.has_account && !mine) {
    return (
      <Door title={t.door.invited({ workspace: invited.data.workspace })}>
        <p>{t.door.hasAccount({ email: invited.data.email })}</p>
        <Link className="press mt-4" to={`/sign-in?to=/invited/${token}`}>
          {t.door.enter}
        </Link>
      </Door>
    );
  }
  return (
    <Door title={t.door.invited({ workspace: invited.data.workspace })}>
      <form onSubmit={(event) => void submit(event)} className="flex flex-col gap-4">
        {!invited.data.has_account && (
          <>
            <p className="text-faded">{t.door.invitedAs({ email: invited.data.email })}</p>
            <Field label={t.door.yourName} htmlFor="name">
              <input
                id="name"
                required
                autoComplete="name"
                className="field"
                value={name}
                onChange={(e) => setName(e.target.value)}
              />
            </Field>
            <Secret
              id="password"
              hint={t.door.passwordRule}
              fresh
              label={t.door.password}
              value={password}
              change={setPasswordText}
            />
          </>
        )}
        <Wrong error={error ?? (turnedBack && new Error(turnedBack.words))} />
        <button type="submit" disabled={busy} className="press press-main justify-center">
          {t.door.join}
        </button>
      </form>
      {!me.data && <ByWayOf back={`/invited/${token}`} />}
    </Door>
  );
}

export function NewPassword() {
  const { key = "" } = useParams();
  const door = useDoor();
  const [password, setText] = useState("");
  const [done, setDone] = useState(false);
  const { submit, error, busy } = useSend(async () => {
    await setPassword(key, password);
    setDone(true);
  });
  if (door.isPending) return <Wait />;
  if (done)
    return (
      <Door title={t.door.newPassword}>
        <p>{t.door.resetDone}</p>
        <Link className="press mt-4" to="/sign-in">
          {t.door.enter}
        </Link>
      </Door>
    );
  return (
    <Door title={t.door.newPassword}>
      <form onSubmit={(event) => void submit(event)} className="flex flex-col gap-4">
        <Secret
          id="password"
          hint={t.door.passwordRule}
          fresh
          label={t.door.newPassword}
          value={password}
          change={setText}
        />
        <Wrong error={error} />
        <button type="submit" disabled={busy} className="press press-main justify-center">
          {t.door.setPassword}
        </button>
      </form>
    </Door>
  );
}

export function FoundWorkspace() {
  const [name, setName] = useState("");
  const found = useChange(
    (given: string) =>
      the<Schemas["MeOut"]>(client.POST("/api/workspaces", { body: { name: given } })),
    keys.me,
  );
  return (
    <Door title={t.door.name}>
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          found.mutate(name);
        }}
      >
        <Field label={t.door.name} htmlFor="name" hint={t.door.nameHint}>
          <input
            id="name"
            required
            autoFocus
            className="field"
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
        </Field>
        <Wrong error={found.error} />
        <button
          type="submit"
          disabled={found.isPending}
          className="press press-main justify-center"
        >
          {t.door.found}
        </button>
      </form>
    </Door>
  );
}
