import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { client, the, type Schemas } from "./client";

/** Who gets what, and what becomes of it: the keys under which it is kept here, and how it is asked for. */
export const trust = {
  receivers: (id: string) => ["meeting", id, "meeting", "receivers"] as const,
  sentFrom: (id: string) => ["meeting", id, "meeting", "sent"] as const,
  sent: ["sent"] as const,
  lookOver: ["today", "look over"] as const,
  customs: ["customs"] as const,
  asked: ["today", "asked to see"] as const,
  hold: (id: string) => ["meeting", id, "meeting", "hold"] as const,
  rules: ["keeping", "rules"] as const,
  goes: ["keeping", "goes"] as const,
  kept: ["keeping", "where"] as const,
  verbs: ["audit", "verbs"] as const,
  people: ["rights", "people"] as const,
  erasures: ["rights", "erasures"] as const,
};

/** By what the audit is narrowed. */
export interface Audited {
  who?: number;
  verb?: string;
  since?: string;
  until?: string;
}

const at = (id: string) => ({ params: { path: { meeting_id: id } } });

export const useReceivers = (id: string, wanted: boolean) =>
  useQuery({
    queryKey: trust.receivers(id),
    enabled: wanted,
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/receivers", at(id))),
  });
/** Of a meeting that is to be made. */
export const useWouldGet = (asked: Schemas["ToComeIn"], wanted: boolean) =>
  useQuery({
    queryKey: ["would-get", asked],
    enabled: wanted,
    queryFn: () => the(client.POST("/api/receivers", { body: asked })),
    placeholderData: (before) => before,
  });
export const useSentFrom = (id: string) =>
  useQuery({
    queryKey: trust.sentFrom(id),
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/sent", at(id))),
  });
export const useSent = () =>
  useQuery({ queryKey: trust.sent, queryFn: () => the(client.GET("/api/sent")) });
export const useLookOver = (wanted: boolean) =>
  useQuery({
    queryKey: trust.lookOver,
    enabled: wanted,
    queryFn: () => the(client.GET("/api/to-look-over")),
  });
export const useCustoms = () =>
  useQuery({ queryKey: trust.customs, queryFn: () => the(client.GET("/api/customs")) });
export const useAsked = (wanted: boolean) =>
  useQuery({
    queryKey: [...trust.asked],
    enabled: wanted,
    queryFn: () => the(client.GET("/api/asked-to-see")),
  });
export const useHold = (id: string, wanted: boolean) =>
  useQuery({
    queryKey: trust.hold(id),
    enabled: wanted,
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/hold", at(id))),
  });
export const useKeepingRules = () =>
  useQuery({ queryKey: trust.rules, queryFn: () => the(client.GET("/api/keeping/rules")) });
export const useGoes = () =>
  useQuery({ queryKey: trust.goes, queryFn: () => the(client.GET("/api/keeping/goes")) });
export const useKept = () =>
  useQuery({ queryKey: trust.kept, queryFn: () => the(client.GET("/api/keeping/where")) });
export const useAuditVerbs = () =>
  useQuery({ queryKey: trust.verbs, queryFn: () => the(client.GET("/api/audit/verbs")) });
/** Who did what, page by page. */
export const useAudit = (asked: Audited) =>
  useInfiniteQuery({
    queryKey: ["audit", asked],
    initialPageParam: "",
    getNextPageParam: (page: Schemas["AuditOut"]) => page.next ?? undefined,
    queryFn: ({ pageParam }) =>
      the(client.GET("/api/audit", { params: { query: { ...asked, after: pageParam } } })),
  });
export const useLeaving = (id: number) =>
  useQuery({
    queryKey: ["members", "leaving", id],
    queryFn: () =>
      the(client.GET("/api/members/{member_id}/leaving", { params: { path: { member_id: id } } })),
  });
export const useSomebody = (q: string) =>
  useQuery({
    queryKey: [...trust.people, q],
    enabled: q.trim().length > 1,
    placeholderData: (before) => before,
    queryFn: () => the(client.GET("/api/rights/people", { params: { query: { q } } })),
  });
export const useKnownOf = (id: number) =>
  useQuery({
    queryKey: [...trust.people, "known", id],
    queryFn: () =>
      the(client.GET("/api/rights/people/{person_id}", { params: { path: { person_id: id } } })),
  });
export const useErasures = () =>
  useQuery({
    queryKey: trust.erasures,
    queryFn: () => the(client.GET("/api/rights/erasures")),
    refetchInterval: (query) => (query.state.data?.some((one) => !one.done_at) ? 3000 : false),
  });
