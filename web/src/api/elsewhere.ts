import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { client, the, type Schemas } from "./client";

/** Outside systems, what goes there and comes back, programs, being booked: the keys under which it is kept here, and how it is asked for. */
export const elsewhere = {
  all: ["connections"] as const,
  one: (id: string) => ["connections", id] as const,
  placed: (id: string, only: string) => ["connections", id, "placed", only] as const,
  deliveries: ["connections", "deliveries"] as const,
  fields: (id: string) => ["connections", id, "fields"] as const,
  answers: (id: string) => ["connections", id, "answers"] as const,
  goneWhere: (id: string) => ["meeting", id, "meeting", "gone where"] as const,
  threads: ["threads"] as const,
  tokens: ["tokens"] as const,
  booking: ["booking"] as const,
};

export type Outside = Schemas["ConnectionOut"];
export type OutsideKind = Schemas["OutsideKindOut"];
export type Went = Schemas["DeliveryOut"];
export type Subject = Went["subject"];

const at = (id: string) => ({ params: { path: { connection_id: id } } });

export const useOutsideKinds = () =>
  useQuery({
    queryKey: [...elsewhere.all, "kinds"],
    staleTime: Infinity,
    queryFn: () => the(client.GET("/api/connections/kinds")),
  });
export const useConnections = () =>
  useQuery({
    queryKey: [...elsewhere.all, "list"],
    queryFn: () => the(client.GET("/api/connections")),
    refetchInterval: (query) => (query.state.data?.some((one) => one.waiting) ? 4000 : false),
  });
export const useConnection = (id: string) =>
  useQuery({
    queryKey: elsewhere.one(id),
    queryFn: () => the(client.GET("/api/connections/{connection_id}", at(id))),
    refetchInterval: (query) => (query.state.data?.waiting ? 4000 : false),
  });
/** Where something can go there; asked only when somebody is about to choose. */
export const useTargets = (id: string, wanted: boolean) =>
  useQuery({
    queryKey: [...elsewhere.one(id), "targets"],
    enabled: wanted,
    staleTime: 60_000,
    queryFn: () => the(client.GET("/api/connections/{connection_id}/targets", at(id))),
  });
export const useFieldsThere = (id: string) =>
  useQuery({
    queryKey: [...elsewhere.fields(id), "there"],
    staleTime: 60_000,
    queryFn: () => the(client.GET("/api/connections/{connection_id}/fields", at(id))),
  });
export const useFieldQuestions = (id: string) =>
  useQuery({
    queryKey: elsewhere.fields(id),
    queryFn: () => the(client.GET("/api/connections/{connection_id}/questions", at(id))),
  });
export const useFieldAnswers = (id: string) =>
  useQuery({
    queryKey: elsewhere.answers(id),
    queryFn: () => the(client.GET("/api/connections/{connection_id}/answers", at(id))),
  });
export const usePlaced = (id: string, only: "" | "clash" | "left") =>
  useQuery({
    queryKey: elsewhere.placed(id, only),
    queryFn: () =>
      the(
        client.GET("/api/connections/{connection_id}/placed", {
          params: { path: { connection_id: id }, query: { only } },
        }),
      ),
  });
export interface WentAsked {
  connection?: string;
  meeting?: string;
  state?: Went["state"];
}
/** What went where, page by page; looked at again as long as something is on its way. */
export const useDeliveries = (asked: WentAsked) =>
  useInfiniteQuery({
    queryKey: [...elsewhere.deliveries, asked],
    initialPageParam: "",
    getNextPageParam: (page: Schemas["DeliveriesOut"]) => page.next ?? undefined,
    queryFn: ({ pageParam }) =>
      the(
        client.GET("/api/connections/deliveries", {
          params: { query: { ...asked, cursor: pageParam } },
        }),
      ),
    refetchInterval: (query) =>
      query.state.data?.pages.some((page) => page.deliveries.some((one) => one.state === "waiting"))
        ? 4000
        : false,
  });
export const useGoneWhere = (meeting: string, wanted = true) =>
  useQuery({
    queryKey: elsewhere.goneWhere(meeting),
    enabled: wanted,
    queryFn: () =>
      the(
        client.GET("/api/meetings/{meeting_id}/gone-where", {
          params: { path: { meeting_id: meeting } },
        }),
      ),
  });
export const useRooms = (id: string) =>
  useQuery({
    queryKey: [...elsewhere.one(id), "rooms"],
    queryFn: () => the(client.GET("/api/connections/{connection_id}/rooms", at(id))),
  });
export const useThread = (id: string) =>
  useQuery({
    queryKey: [...elsewhere.threads, id],
    queryFn: () =>
      the(client.GET("/api/threads/{thread_id}", { params: { path: { thread_id: id } } })),
    refetchInterval: (query) => (query.state.data?.state === "waiting" ? 1500 : false),
  });
export const useThreads = () =>
  useQuery({ queryKey: elsewhere.threads, queryFn: () => the(client.GET("/api/threads")) });
export const useTokens = () =>
  useQuery({ queryKey: elsewhere.tokens, queryFn: () => the(client.GET("/api/tokens")) });
export const useBooking = () =>
  useQuery({ queryKey: elsewhere.booking, queryFn: () => the(client.GET("/api/booking")) });
