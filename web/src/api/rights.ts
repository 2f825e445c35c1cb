import type { Schemas } from "./client";

/** A right, by the server's one list of them. */
export type Can = Schemas["Can"];

/** Does the server say that I may? Of me: in the workspace; of a meeting: in that. */
export function may(of: { can: Can[] } | undefined, can: Can): boolean {
  return of?.can.includes(can) ?? false;
}
