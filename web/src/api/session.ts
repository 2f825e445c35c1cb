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

export async function signIn(email: string, password: string): Promise<void> {
  await check(await call("POST", "auth/login", { email, password }), t.door.wrong);
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
