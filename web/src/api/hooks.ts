import {
  queryOptions,
  useInfiniteQuery,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useEffect } from "react";
import { zone } from "../parts/time";
import type { LedgerAsked } from "../parts/matters";
import type { Wanted } from "../parts/wanted";
import { anew } from "./anew";
import { client, the, type Schemas } from "./client";

export const keys = {
  me: ["me"] as const,
  today: ["today"] as const,
  days: ["day"] as const,
  planned: (id: number) => ["planned", id] as const,
  ahead: (id: number) => ["planned", id, "ahead"] as const,
  calendars: ["calendars"] as const,
  folders: ["folders"] as const,
  visits: ["visits"] as const,
  dialers: ["dialers"] as const,
  clerkRules: ["clerk-rules"] as const,
  letterbox: ["letterbox"] as const,
  library: ["library"] as const,
  choices: ["choices"] as const,
  narrow: ["library", "narrow"] as const,
  keptSearches: ["kept-searches"] as const,
  inquiries: ["inquiries"] as const,
  news: ["today", "news"] as const,
  digest: ["digest"] as const,
  allSeries: ["series"] as const,
  series: (id: number) => ["series", id] as const,
  neighbours: (id: string) => ["series", "neighbours", id] as const,
  ledger: ["ledger"] as const,
  shelves: ["shelves"] as const,
  shelf: (id: number) => ["shelves", id] as const,
  shelvesOf: (id: string) => ["meeting", id, "meeting", "shelves"] as const,
  reminders: ["reminders"] as const,
  takenOut: ["library", "taken out"] as const,
  links: ["links"] as const,
  search: (...asked: unknown[]) => ["search", ...asked] as const,
  meeting: (id: string) => ["meeting", id] as const,
  record: (id: string) => ["meeting", id, "record"] as const,
  minutes: (id: string) => ["meeting", id, "minutes"] as const,
  live: (id: string) => ["meeting", id, "live"] as const,
  clerk: (id: string) => ["meeting", id, "clerk"] as const,
  notes: (id: string) => ["meeting", id, "notes"] as const,
  agenda: (id: string) => ["meeting", id, "agenda"] as const,
  words: ["words"] as const,
  knownVoices: ["voices"] as const,
  review: (id: string) => ["meeting", id, "review"] as const,
  proposals: (id: string) => ["meeting", id, "proposals"] as const,
  pictures: (id: string) => ["meeting", id, "pictures"] as const,
  files: (id: string) => ["meeting", id, "pictures", "files"] as const,
  notices: (id: string) => ["meeting", id, "notices"] as const,
  agendas: ["agendas"] as const,
  writer: ["writer"] as const,
  workspace: ["workspace"] as const,
  questions: (id: string) => ["meeting", id, "questions"] as const,
  versions: (id: string) => ["meeting", id, "minutes", "versions"] as const,
  templates: ["templates"] as const,
  edits: (id: string) => ["meeting", id, "record", "edits"] as const,
  comments: (id: string) => ["meeting", id, "comments"] as const,
  copies: (id: string) => ["meeting", id, "copies"] as const,
  recordCopies: (id: string) => ["meeting", id, "record-copies"] as const,
  said: (id: string, from: number) => ["meeting", id, "record", "said", from] as const,
  excerpts: ["excerpts"] as const,
  excerpt: (id: string) => ["excerpts", id] as const,
  sequences: ["sequences"] as const,
};

const at = (id: string) => ({ params: { path: { meeting_id: id } } });
const working = (states: (string | undefined)[]) => states.some((state) => state === "working");

export const useDoor = () =>
  useQuery({ queryKey: ["door"], queryFn: () => the(client.GET("/api/door")) });
/** What is asked for by the views, and ahead of them while they are on their way. */
export const asks = {
  me: () =>
    queryOptions({
      queryKey: keys.me,
      queryFn: () => the(client.GET("/api/me")),
      staleTime: 60_000,
    }),
  meeting: (id: string) =>
    queryOptions({
      queryKey: keys.meeting(id),
      queryFn: () => the(client.GET("/api/meetings/{meeting_id}", at(id))),
    }),
  record: (id: string) =>
    queryOptions({
      queryKey: keys.record(id),
      staleTime: 60_000,
      queryFn: () => the(client.GET("/api/meetings/{meeting_id}/record", at(id))),
    }),
  minutes: (id: string) =>
    queryOptions({
      queryKey: keys.minutes(id),
      queryFn: () => the(client.GET("/api/meetings/{meeting_id}/minutes", at(id))),
    }),
};

export const useMe = () => useQuery(asks.me());
export const useToday = (wanted = true) =>
  useQuery({
    queryKey: keys.today,
    enabled: wanted,
    queryFn: () => the(client.GET("/api/today")),
    refetchInterval: (query) =>
      working(query.state.data?.working.map((one) => one.work.state) ?? []) ? 1500 : 20_000,
  });
/** The meetings of a day of this device's time zone. */
export const useDay = (on: string) =>
  useQuery({
    queryKey: [...keys.days, on],
    placeholderData: (before) => before,
    // A calendar that was just connected is read meanwhile.
    refetchInterval: 10_000,
    queryFn: () => the(client.GET("/api/day", { params: { query: { on, time_zone: zone() } } })),
  });
/** One of the meetings in my calendars; null: none is asked for. */
export const usePlanned = (id: number | null) =>
  useQuery({
    queryKey: keys.planned(id ?? 0),
    enabled: id !== null,
    staleTime: 60_000,
    queryFn: () =>
      the(client.GET("/api/planned/{planned_id}", { params: { path: { planned_id: id! } } })),
  });
/** All that is known of a meeting before it happens. */
export const useAhead = (id: number) =>
  useQuery({
    queryKey: keys.ahead(id),
    refetchInterval: 30_000,
    queryFn: () =>
      the(client.GET("/api/planned/{planned_id}/ahead", { params: { path: { planned_id: id } } })),
  });
export const useCalendars = () =>
  useQuery({
    queryKey: keys.calendars,
    queryFn: () => the(client.GET("/api/calendars")),
    refetchInterval: (query) =>
      query.state.data?.some((one) => one.looked_at === null) ? 1500 : 30_000,
  });
export const useFolders = () =>
  useQuery({
    queryKey: keys.folders,
    queryFn: () => the(client.GET("/api/folders")),
    refetchInterval: 15_000,
  });
export const useDialers = () =>
  useQuery({
    queryKey: keys.dialers,
    queryFn: () => the(client.GET("/api/telephone")),
    refetchInterval: 15_000,
  });
/** Where the clerk is for me, or was today. */
export const useVisits = () =>
  useQuery({
    queryKey: keys.visits,
    queryFn: () => the(client.GET("/api/clerk")),
    refetchInterval: (query) => (query.state.data?.some((one) => !one.over) ? 1500 : 20_000),
  });
/** The clerk in a meeting's call, and who is there. */
export const useInCall = (id: string) =>
  useQuery({
    queryKey: keys.clerk(id),
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/clerk", at(id))),
    refetchInterval: (query) => (query.state.data?.visit?.over === false ? 5_000 : false),
  });
/** The clerk's address, and what I sent there. */
export const useLetterbox = () =>
  useQuery({
    queryKey: keys.letterbox,
    queryFn: () => the(client.GET("/api/letterbox")),
    refetchInterval: 15_000,
  });
export const useClerkRules = () =>
  useQuery({
    queryKey: keys.clerkRules,
    queryFn: () => the(client.GET("/api/clerk/rules")),
  });
/** Meetings, newest first. */
export const useLibrary = (wanted: Wanted) =>
  useInfiniteQuery({
    queryKey: [...keys.library, wanted],
    placeholderData: (before) => before,
    initialPageParam: "",
    getNextPageParam: (page: Schemas["LibraryOut"]) => page.next ?? undefined,
    queryFn: ({ pageParam }) =>
      the(
        client.GET("/api/library", {
          params: { query: { ...wanted, time_zone: zone(), cursor: pageParam } },
        }),
      ),
  });
/** Decisions and actions across the meetings that I see. */
export const useLedger = (asked: LedgerAsked) =>
  useInfiniteQuery({
    queryKey: [...keys.ledger, asked],
    placeholderData: (before) => before,
    initialPageParam: "",
    getNextPageParam: (page: Schemas["LedgerOut"]) => page.next ?? undefined,
    queryFn: ({ pageParam }) =>
      the(
        client.GET("/api/ledger", {
          params: { query: { ...asked, time_zone: zone(), cursor: pageParam } },
        }),
      ),
  });
/** The shelves that I know of. */
export const useShelves = () =>
  useQuery({ queryKey: keys.shelves, queryFn: () => the(client.GET("/api/shelves")) });
export const useShelf = (id: number) =>
  useQuery({
    queryKey: keys.shelf(id),
    queryFn: () =>
      the(client.GET("/api/shelves/{shelf_id}", { params: { path: { shelf_id: id } } })),
  });
/** My shelves, and whether a meeting stands on them. */
export const useShelvesOf = (id: string) =>
  useQuery({
    queryKey: keys.shelvesOf(id),
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/shelves", at(id))),
  });
/** What I am reminded of. */
export const useReminders = () =>
  useQuery({ queryKey: keys.reminders, queryFn: () => the(client.GET("/api/reminders")) });
/** By what the meetings that I see can be narrowed. */
export const useNarrow = () =>
  useQuery({
    queryKey: keys.narrow,
    staleTime: 60_000,
    queryFn: () => the(client.GET("/api/library/narrow")),
  });
/** What was taken out of the library and I may have back. */
export const useTakenOut = () =>
  useQuery({
    queryKey: keys.takenOut,
    queryFn: () => the(client.GET("/api/library/taken-out")),
  });
/** A series over time. */
export const useSeries = (id: number) =>
  useQuery({
    queryKey: keys.series(id),
    queryFn: () =>
      the(client.GET("/api/series/{series_id}", { params: { path: { series_id: id } } })),
  });
/** The meetings of its series before and after one. */
export const useNeighbours = (id: string, recurs: boolean) =>
  useQuery({
    queryKey: keys.neighbours(id),
    enabled: recurs,
    staleTime: 60_000,
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/neighbours", at(id))),
  });
/** The searches that I keep. */
export const useKeptSearches = () =>
  useQuery({
    queryKey: keys.keptSearches,
    queryFn: () => the(client.GET("/api/searches")),
  });
export const useSearch = (q: string, wanted: Wanted, order: Schemas["Order"]) =>
  useInfiniteQuery({
    queryKey: keys.search(q, wanted, order),
    enabled: q.trim() !== "",
    placeholderData: (before) => before,
    initialPageParam: 0,
    getNextPageParam: (page: Schemas["SearchOut"]) => page.next ?? undefined,
    queryFn: ({ pageParam }) =>
      the(
        client.GET("/api/search", {
          params: { query: { q, order, ...wanted, time_zone: zone(), after: pageParam } },
        }),
      ),
  });
/** The links that I gave; everybody's, where I manage the workspace. */
export const useLinks = (everybody: boolean) =>
  useQuery({
    queryKey: [...keys.links, everybody],
    placeholderData: (before) => before,
    queryFn: () => the(client.GET("/api/links", { params: { query: { everybody } } })),
  });
/** What the workspace wants of links. */
export const useLinkRules = () =>
  useQuery({
    queryKey: [...keys.links, "rules"],
    queryFn: () => the(client.GET("/api/links/rules")),
  });
export const useChoices = () =>
  useQuery({ queryKey: keys.choices, queryFn: () => the(client.GET("/api/choices")) });
/** Who would see a meeting, in names, before it is made or changed. */
export const useWouldSee = (asked: Schemas["WouldSeeIn"]) =>
  useQuery({
    queryKey: ["seen-by", asked],
    queryFn: () => the(client.POST("/api/seen-by", { body: asked })),
    placeholderData: (before) => before,
  });
export const useMembers = (wanted = true) =>
  useQuery({
    queryKey: ["members"],
    enabled: wanted,
    queryFn: () => the(client.GET("/api/members")),
  });
export const useWorkspace = () =>
  useQuery({ queryKey: keys.workspace, queryFn: () => the(client.GET("/api/workspace")) });
export const useInvitations = (wanted: boolean) =>
  useQuery({
    queryKey: ["invitations"],
    enabled: wanted,
    queryFn: () => the(client.GET("/api/invitations")),
  });

/** A meeting. Events say when something of it is new; while it is worked on it is asked for now and then in case one is missed. */
export const useMeeting = (id: string) =>
  useQuery({
    ...asks.meeting(id),
    refetchInterval: (query) =>
      [query.state.data?.work.state, query.state.data?.behind?.state].includes("working")
        ? 5000
        : false,
  });
export const useLive = (id: string, language = "") =>
  useQuery({
    queryKey: [...keys.live(id), language],
    queryFn: () =>
      the(
        client.GET("/api/meetings/{meeting_id}/live", {
          params: { path: { meeting_id: id }, query: { language } },
        }),
      ),
    placeholderData: (before) => before,
    // Events bring what is new; how far the hearing is behind grows also while it brings nothing.
    refetchInterval: (query) => (query.state.data?.state === "on" ? 5000 : false),
  });
export const useNotes = (id: string) =>
  useQuery({
    queryKey: keys.notes(id),
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/notes", at(id))),
  });
export const useAgenda = (id: string) =>
  useQuery({
    queryKey: keys.agenda(id),
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/agenda", at(id))),
  });
export const useAgendas = () =>
  useQuery({ queryKey: keys.agendas, queryFn: () => the(client.GET("/api/agendas")) });
export const useWords = () =>
  useQuery({ queryKey: keys.words, queryFn: () => the(client.GET("/api/words")) });
export const useKnownVoices = () =>
  useQuery({ queryKey: keys.knownVoices, queryFn: () => the(client.GET("/api/voices")) });
export const useReview = (id: string) =>
  useQuery({
    queryKey: keys.review(id),
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/review", at(id))),
  });
export const useProposals = (id: string, wanted: boolean) =>
  useQuery({
    queryKey: keys.proposals(id),
    enabled: wanted,
    staleTime: 60_000,
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/voices/proposals", at(id))),
  });
export const usePictures = (id: string, captured: boolean) =>
  useQuery({
    queryKey: keys.pictures(id),
    enabled: captured,
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/pictures", at(id))),
  });
/** What was put into the chat of the call as files. */
export const useFiles = (id: string, captured: boolean) =>
  useQuery({
    queryKey: keys.files(id),
    enabled: captured,
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/files", at(id))),
  });
export const useNotices = (id: string) =>
  useQuery({
    queryKey: keys.notices(id),
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/notices", at(id))),
  });

/** Has what is shown of a meeting asked for anew as soon as the server says that it is new. */
export function useEvents(id: string): void {
  const cache = useQueryClient();
  useEffect(() => {
    const source = new EventSource(`/api/meetings/${id}/events`);
    source.onmessage = ({ data }: MessageEvent<string>) => {
      for (const part of JSON.parse(data) as string[]) {
        if (part === "everything") void anew(cache, keys.meeting(id));
        else if (["meeting", "progress", "capture"].includes(part))
          void anew(cache, keys.meeting(id), true);
        if (part === "capture") {
          void anew(cache, keys.live(id));
          void anew(cache, keys.clerk(id));
        } else void anew(cache, [...keys.meeting(id), part]);
      }
    };
    return () => source.close();
  }, [id, cache]);
}
export const useRecord = (id: string) => useQuery(asks.record(id));
export const useMinutes = (id: string) => useQuery(asks.minutes(id));

export const useQuestions = (id: string, wanted: boolean) =>
  useQuery({
    queryKey: keys.questions(id),
    enabled: wanted,
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/questions", at(id))),
  });
export const useVersions = (id: string) =>
  useQuery({
    queryKey: keys.versions(id),
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/minutes/versions", at(id))),
  });
export const useEdits = (id: string) =>
  useQuery({
    queryKey: keys.edits(id),
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/edits", at(id))),
  });
export const useComments = (id: string) =>
  useQuery({
    queryKey: keys.comments(id),
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/comments", at(id))),
  });
export const useExcerpts = () =>
  useQuery({ queryKey: keys.excerpts, queryFn: () => the(client.GET("/api/excerpts")) });
export const useExcerpt = (id: string) =>
  useQuery({
    queryKey: keys.excerpt(id),
    queryFn: () =>
      the(client.GET("/api/excerpts/{excerpt_id}", { params: { path: { excerpt_id: id } } })),
  });
export const useSequences = () =>
  useQuery({ queryKey: keys.sequences, queryFn: () => the(client.GET("/api/sequences")) });
export const useTemplates = () =>
  useQuery({
    queryKey: keys.templates,
    staleTime: 60_000,
    queryFn: () => the(client.GET("/api/templates")),
  });
export const useKinds = () =>
  useQuery({
    queryKey: ["kinds"],
    staleTime: Infinity,
    queryFn: () => the(client.GET("/api/minutes/kinds")),
  });

/** A change that, once made, has the given things asked for anew. What `mutate` is told to do on success is done also when what was
 *  changed has left the page by then, as a removed line has: its undo is offered all the same. */
export function useChange<In, Out>(
  change: (input: In) => Promise<Out>,
  ...stale: (readonly unknown[])[]
) {
  const cache = useQueryClient();
  const mutation = useMutation({
    mutationFn: change,
    onSuccess: () => Promise.all(stale.map((queryKey) => anew(cache, queryKey))),
  });
  const { mutateAsync } = mutation;
  // A failure is shown from `error`; nothing is lost by not hearing of it twice.
  const mutate = (input: In, then?: { onSuccess?: (made: Out) => void }) =>
    void mutateAsync(input).then(then?.onSuccess, () => undefined);
  return { ...mutation, mutate };
}

/** Have a stage of the work on a meeting that failed tried again. */
export const useTryAgain = (meeting: string) =>
  useChange(
    () =>
      the(
        client.POST("/api/meetings/{meeting_id}/progress/again", {
          params: { path: { meeting_id: meeting } },
        }),
      ),
    keys.meeting(meeting),
  );
