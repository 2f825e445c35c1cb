import { csrfToken, Problem } from "./client";
import { t } from "../texts";

/** Sign-in and its kin, by django-allauth's own browser API. */
async function call(method: string, path: string, body?: object): Promise<Response> {
  try {
    return await fetch(`/_allauth/browser/v1/${path}`, {
      method,
      headers: { "Content-Type": "application/json", "X-CSRFToken": csrfToken() },
      ...(body ? { body: JSON.stringify(body) } : {}),
    });
  } catch {
    throw new Problem(0, t.problem.network);
  }
}

async function check(answer: Response, fallback: string): Promise<void> {
  if (answer.ok) return;
  if (answer.status === 429) throw new Problem(429, t.door.slow);
  const errors = (
    (await answer.json().catch(() => ({}))) as { errors?: { message: string; code: string }[] }
  ).errors;
  const said = errors
    ?.filter((error) => error.code !== "email_password_mismatch")
    .map((error) => error.message)
    .join(" ");
  throw new Problem(answer.status, said || fallback);
}

/** What the library says that is still to be done, by the names of its flows. */
async function flowsOf(answer: Response): Promise<string[]> {
  const said = (await answer
    .clone()
    .json()
    .catch(() => ({}))) as { data?: { flows?: { id: string; is_pending?: boolean }[] } };
  return (
    said.data?.flows
      ?.filter((one) => one.is_pending || one.id.includes("reauth"))
      .map((one) => one.id) ?? []
  );
}

/** True: a second factor is wanted besides. */
export async function signIn(email: string, password: string): Promise<boolean> {
  const answer = await call("POST", "auth/login", { email, password });
  if (answer.status === 401 && (await flowsOf(answer)).includes("mfa_authenticate")) return true;
  await check(answer, t.door.wrong);
  return false;
}

export async function giveCode(code: string): Promise<void> {
  await check(await call("POST", "auth/2fa/authenticate", { code }), t.signing.wrongCode);
}

/** Came in by way of a provider, and a second factor is wanted besides? */
export async function secondPending(): Promise<boolean> {
  return (await flowsOf(await call("GET", "auth/session"))).includes("mfa_authenticate");
}

export interface Tied {
  uid: string;
  provider: { id: string };
}

/** The identities elsewhere that are tied to the account. */
export async function tied(): Promise<Tied[]> {
  const answer = await call("GET", "account/providers");
  await check(answer, t.problem.network);
  return data<Tied[]>(answer);
}

export async function untie(one: Tied): Promise<void> {
  const body = { provider: one.provider.id, account: one.uid };
  await sure(await call("DELETE", "account/providers", body), t.problem.network);
}

/** The password is asked for once more, and what was tried is tried again. */
export class Again extends Problem {}

async function sure(answer: Response, fallback: string): Promise<Response> {
  if (answer.status === 401 && (await flowsOf(answer)).some((one) => one.includes("reauth")))
    throw new Again(401, t.signing.again);
  await check(answer, fallback);
  return answer;
}

export async function showAgain(password: string): Promise<void> {
  await check(await call("POST", "auth/reauthenticate", { password }), t.door.wrong);
}

export interface Factor {
  id?: number;
  type: "totp" | "webauthn" | "recovery_codes";
  name?: string;
  created_at: number;
  last_used_at: number | null;
  unused_code_count?: number;
}

async function data<Told>(answer: Response): Promise<Told> {
  return ((await answer.json()) as { data: Told }).data;
}

export async function factors(): Promise<Factor[]> {
  const answer = await call("GET", "account/authenticators");
  await check(answer, t.problem.network);
  return data<Factor[]>(answer);
}

/** A fresh secret for an app that makes codes. */
export async function beginCodes(): Promise<string> {
  const answer = await call("GET", "account/authenticators/totp");
  const said = (await answer.json()) as { meta?: { secret?: string } };
  if (!said.meta?.secret) throw new Problem(answer.status, t.problem.network);
  return said.meta.secret;
}

export async function takeCodes(code: string): Promise<void> {
  await sure(await call("POST", "account/authenticators/totp", { code }), t.signing.wrongCode);
}

export async function dropCodes(): Promise<void> {
  await sure(await call("DELETE", "account/authenticators/totp"), t.problem.network);
}

export async function emergencyCodes(fresh: boolean): Promise<string[]> {
  const answer = await sure(
    await call(fresh ? "POST" : "GET", "account/authenticators/recovery-codes"),
    t.problem.network,
  );
  return (await data<{ unused_codes: string[] }>(answer)).unused_codes;
}

interface Asked {
  creation_options?: { publicKey: PublicKeyCredentialCreationOptionsJSON };
  request_options?: { publicKey: PublicKeyCredentialRequestOptionsJSON };
}

/** Has this browser what passkeys need? */
export const knowsPasskeys = () =>
  typeof PublicKeyCredential !== "undefined" &&
  "parseCreationOptionsFromJSON" in PublicKeyCredential;

/** What the device showed. It does not say why it showed nothing. */
async function shown(asking: Promise<Credential | null>): Promise<PublicKeyCredential> {
  const made = await asking.catch(() => null);
  if (!made) throw new Problem(0, t.signing.noPasskey);
  return made as PublicKeyCredential;
}

export async function addPasskey(name: string): Promise<void> {
  const asked = await data<Asked>(
    await sure(
      await call("GET", "account/authenticators/webauthn?passwordless"),
      t.problem.network,
    ),
  );
  const publicKey = PublicKeyCredential.parseCreationOptionsFromJSON(
    asked.creation_options!.publicKey,
  );
  const made = await shown(navigator.credentials.create({ publicKey }));
  const body = { name, credential: made.toJSON() as object };
  await sure(await call("POST", "account/authenticators/webauthn", body), t.signing.noPasskey);
}

export async function dropPasskey(id: number): Promise<void> {
  await sure(
    await call("DELETE", "account/authenticators/webauthn", { authenticators: [id] }),
    t.problem.network,
  );
}

/** With a passkey alone, or as the second factor after a password. */
export async function showPasskey(alone: boolean): Promise<void> {
  const path = alone ? "auth/webauthn/login" : "auth/webauthn/authenticate";
  const asked = await call("GET", path);
  await check(asked, t.signing.noPasskey);
  const publicKey = PublicKeyCredential.parseRequestOptionsFromJSON(
    (await data<Asked>(asked)).request_options!.publicKey,
  );
  const made = await shown(navigator.credentials.get({ publicKey }));
  await check(
    await call("POST", path, { credential: made.toJSON() as object }),
    t.signing.noPasskey,
  );
}

export interface Session {
  id: number;
  user_agent: string;
  ip: string;
  created_at: number;
  last_seen_at?: number;
  is_current: boolean;
}

export async function sessions(): Promise<Session[]> {
  const answer = await call("GET", "auth/sessions");
  await check(answer, t.problem.network);
  return data<Session[]>(answer);
}

export async function endSessions(ids: number[]): Promise<void> {
  await check(await call("DELETE", "auth/sessions", { sessions: ids }), t.problem.network);
}

export async function changePassword(old: string, fresh: string): Promise<void> {
  await sure(
    await call("POST", "account/password/change", { current_password: old, new_password: fresh }),
    t.door.wrong,
  );
}

export async function signUp(email: string, password: string): Promise<void> {
  await check(await call("POST", "auth/signup", { email, password }), t.door.closed);
}

/** Ends the session; the server answers 401 because there is none any more. */
export async function signOut(): Promise<void> {
  await call("DELETE", "auth/session");
}

export async function askForReset(email: string): Promise<void> {
  await check(await call("POST", "auth/password/request", { email }), t.door.slow);
}

export async function setPassword(key: string, password: string): Promise<void> {
  const answer = await call("POST", "auth/password/reset", { key, password });
  // 401: the password is set and one has yet to sign in.
  if (answer.status !== 401) await check(answer, t.problem.network);
}
