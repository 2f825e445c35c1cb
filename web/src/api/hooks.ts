import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, the, type Schemas } from "./client";

export const keys = {
  me: ["me"] as const, today: ["today"] as const, library: ["library"] as const, choices: ["choices"] as const,
  search: (q: string) => ["search", q] as const, meeting: (id: string) => ["meeting", id] as const,
  record: (id: string) => ["meeting", id, "record"] as const, minutes: (id: string) => ["meeting", id, "minutes"] as const,
};

const at = (id: string) => ({ params: { path: { meeting_id: id } } });
const working = (states: (string | undefined)[]) => states.some((state) => state === "working");

export const useDoor = () => useQuery({ queryKey: ["door"], queryFn: () => the(client.GET("/api/door")) });
export const useMe = () => useQuery({ queryKey: keys.me, queryFn: () => the(client.GET("/api/me")), staleTime: 60_000 });
export const useToday = () => useQuery({
  queryKey: keys.today, queryFn: () => the(client.GET("/api/today")),
  refetchInterval: (query) => (working(query.state.data?.working.map((one) => one.work.state) ?? []) ? 1500 : 20_000),
});
export const useLibrary = () => useInfiniteQuery({
  queryKey: keys.library, initialPageParam: "", getNextPageParam: (page: Schemas["LibraryOut"]) => page.next ?? undefined,
  queryFn: ({ pageParam }) => the(client.GET("/api/library", { params: { query: { cursor: pageParam } } })),
});
export const useSearch = (q: string) => useQuery({
  queryKey: keys.search(q), enabled: q.trim() !== "", placeholderData: (before) => before,
  queryFn: () => the(client.GET("/api/search", { params: { query: { q } } })),
});
export const useChoices = () => useQuery({ queryKey: keys.choices, queryFn: () => the(client.GET("/api/choices")) });
export const useMembers = () => useQuery({ queryKey: ["members"], queryFn: () => the(client.GET("/api/members")) });
export const useInvitations = () => useQuery({ queryKey: ["invitations"], queryFn: () => the(client.GET("/api/invitations")) });

/** A meeting; asked for again every second and a half while it is being worked on. */
export const useMeeting = (id: string) => useQuery({
  queryKey: keys.meeting(id), queryFn: () => the(client.GET("/api/meetings/{meeting_id}", at(id))),
  refetchInterval: (query) => (query.state.data?.work.state === "working" ? 1500 : false),
});
export const useRecord = (id: string) => useQuery({
  queryKey: keys.record(id), staleTime: 60_000, queryFn: () => the(client.GET("/api/meetings/{meeting_id}/record", at(id))),
});
export const useMinutes = (id: string) => useQuery({
  queryKey: keys.minutes(id), queryFn: () => the(client.GET("/api/meetings/{meeting_id}/minutes", at(id))),
});

/** A change that, once made, has the given things asked for anew. */
export function useChange<In, Out>(change: (input: In) => Promise<Out>, ...stale: (readonly unknown[])[]) {
  const cache = useQueryClient();
  return useMutation({ mutationFn: change, onSuccess: () => Promise.all(stale.map((queryKey) => cache.invalidateQueries({ queryKey }))) });
}
