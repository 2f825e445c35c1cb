import createClient from "openapi-fetch";
import { t } from "../texts";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

/** An error of the API: RFC 9457 problem details. */
export class Problem extends Error {
  readonly status: number;
  readonly facts: Record<string, unknown>;

  constructor(status: number, detail: string, facts: Record<string, unknown> = {}) {
    super(detail);
    this.status = status;
    this.facts = facts;
  }
}

export function csrfToken(): string {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? "";
}

export const client = createClient<paths>({ baseUrl: "/", credentials: "same-origin" });
client.use({
  onRequest({ request }) {
    if (!["GET", "HEAD"].includes(request.method)) request.headers.set("X-CSRFToken", csrfToken());
    return request;
  },
});

/** The data of an answer, or a Problem thrown. */
export async function the<T>(
  answer: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  let got;
  try {
    got = await answer;
  } catch {
    throw new Problem(0, t.problem.network);
  }
  if (got.response.ok) return got.data as T;
  const facts = (got.error ?? {}) as Record<string, unknown>;
  throw new Problem(
    got.response.status,
    typeof facts.detail === "string" ? facts.detail : t.problem.network,
    facts,
  );
}

/** Whether a query has nothing to show: what it asks for never came, or is refused now. A server that does not answer takes nothing away that is
 *  on the page already, least of all while somebody writes or captures there. */
export function failed<Q extends { data: unknown; error: Error | null }>(
  query: Q,
): query is Extract<Q, { data: undefined; error: Error }> {
  const { data, error } = query;
  const refused = error instanceof Problem && error.status >= 400 && error.status < 500;
  return error !== null && (data === undefined || refused);
}
