import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { Toast } from "radix-ui";
import { Component, lazy, Suspense, type ComponentType, type ReactNode } from "react";
import { BrowserRouter, Navigate, Outlet, Route, Routes, useLocation } from "react-router";
import { Problem } from "./api/client";
import { asks, useMe } from "./api/hooks";
import { Frame } from "./parts/frame";
import { Wait } from "./parts/states";
import { Sayings } from "./parts/sayings";
import { t } from "./texts";
import { FoundWorkspace, Invited, NewPassword, SignIn } from "./views/signin/signin";
import { Today } from "./views/today/today";
import { Library } from "./views/library/library";

/** A view that is fetched when it is first gone to, so that none waits for the others. */
function later<Name extends string>(view: () => Promise<Record<Name, ComponentType>>, name: Name) {
  return lazy(async () => ({ default: (await view())[name] }));
}

const spread = () => import("./views/spread/spread");
const [Spread, Capture, Rehearsal, Captions] = [
  later(spread, "Spread"),
  later(() => import("./views/capture/capture"), "Capture"),
  later(() => import("./views/capture/rehearsal"), "Rehearsal"),
  later(() => import("./views/live/captions"), "Captions"),
];
const [NoticePage, Give, Review, Words] = [
  later(() => import("./views/notice/notice"), "NoticePage"),
  later(() => import("./views/give/give"), "Give"),
  later(() => import("./views/review/review"), "Review"),
  later(() => import("./views/words/words"), "Words"),
];
const LinkedPage = later(() => import("./views/links/linked"), "LinkedPage");
const Links = later(() => import("./views/links/links"), "Links");
const [Keeping, Audit] = [
  later(() => import("./views/keeping/keeping"), "Keeping"),
  later(() => import("./views/keeping/audit"), "Audit"),
];
const ProviderWanted = lazy(async () => ({
  default: (await import("./views/account/elsewhere")).ProviderWanted,
}));
const SecondWanted = lazy(async () => ({
  default: (await import("./views/account/signing")).SecondWanted,
}));
const [Connections, ConnectionPage, ThreadPage, Developers] = [
  later(() => import("./views/connections/connections"), "Connections"),
  later(() => import("./views/connections/connection"), "ConnectionPage"),
  later(() => import("./views/connections/thread"), "ThreadPage"),
  later(() => import("./views/developers/developers"), "Developers"),
];
const [Booking, BookPage, BookedPage] = [
  later(() => import("./views/booking/booking"), "Booking"),
  later(() => import("./views/booking/book"), "BookPage"),
  later(() => import("./views/booking/book"), "BookedPage"),
];
const StopMail = later(() => import("./views/notice/stop"), "StopMail");
const [Excerpts, ExcerptPage, SequencePage] = [
  later(() => import("./views/excerpts/excerpts"), "Excerpts"),
  later(() => import("./views/excerpts/excerpt"), "ExcerptPage"),
  later(() => import("./views/excerpts/sequence"), "SequencePage"),
];
const [About, FirstSteps, Ahead] = [
  later(() => import("./views/about/about"), "About"),
  later(() => import("./views/first/first"), "FirstSteps"),
  later(() => import("./views/ahead/ahead"), "Ahead"),
];
const [Templates, Settings, Account, TakenOut, SeriesPage, Ledger, Shelves, ShelfPage, Asking] = [
  later(() => import("./views/templates/templates"), "Templates"),
  later(() => import("./views/settings/settings"), "Settings"),
  later(() => import("./views/account/account"), "Account"),
  later(() => import("./views/library/taken"), "TakenOut"),
  later(() => import("./views/series/series"), "SeriesPage"),
  later(() => import("./views/ledger/ledger"), "Ledger"),
  later(() => import("./views/library/shelves"), "Shelves"),
  later(() => import("./views/library/shelf"), "ShelfPage"),
  later(() => import("./views/library/asking"), "Asking"),
];
// A page that was open when a new build came asks for files that are gone.
window.addEventListener("vite:preloadError", () => location.reload());

const cache = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      retry: (count, error) =>
        count < 2 && !(error instanceof Problem && error.status >= 400 && error.status < 500),
    },
  },
});

class Guard extends Component<{ children: ReactNode }, { broken: boolean }> {
  override state = { broken: false };
  static getDerivedStateFromError() {
    return { broken: true };
  }
  override render() {
    return this.state.broken ? <p className="p-8">{t.problem.page}</p> : this.props.children;
  }
}

/** What a meeting's page will ask for, asked for while the page itself is still on its way. */
function ahead(): void {
  const id = /^\/meetings\/([0-9a-f-]{36})$/u.exec(location.pathname)?.[1];
  if (!id) return;
  void spread();
  void cache.prefetchQuery(asks.me());
  void cache.prefetchQuery(asks.meeting(id));
  void cache.prefetchQuery(asks.record(id));
  void cache.prefetchQuery(asks.minutes(id));
}
ahead();

/** Whoever is not signed in is sent to the door, and back to where they wanted to go. */
function Inside() {
  const me = useMe();
  const where = useLocation();
  if (me.isPending) return <Wait />;
  if (me.error instanceof Problem && me.error.status === 401)
    return (
      <Navigate to={`/sign-in?to=${encodeURIComponent(where.pathname + where.search)}`} replace />
    );
  if (me.error) return <p className="p-8">{me.error.message}</p>;
  if (!me.data.workspace) return <FoundWorkspace />;
  if (me.data.second_wanted)
    return (
      <Suspense fallback={<Wait />}>
        <SecondWanted me={me.data} />
      </Suspense>
    );
  if (me.data.provider_wanted)
    return (
      <Suspense fallback={<Wait />}>
        <ProviderWanted me={me.data} />
      </Suspense>
    );
  return (
    <Frame me={me.data}>
      <Suspense fallback={<Wait />}>
        <Outlet />
      </Suspense>
    </Frame>
  );
}

export function App() {
  return (
    <Guard>
      <QueryClientProvider client={cache}>
        <Toast.Provider duration={8000} swipeDirection="down">
          <Sayings>
            <BrowserRouter>
              <Suspense fallback={<Wait />}>
                <Routes>
                  <Route path="/sign-in" element={<SignIn />} />
                  <Route path="/invited/:token" element={<Invited />} />
                  <Route path="/password/:key" element={<NewPassword />} />
                  <Route path="/notice/:token" element={<NoticePage />} />
                  <Route path="/stop/:token" element={<StopMail />} />
                  <Route path="/l/:token" element={<LinkedPage />} />
                  <Route path="/book/:slug" element={<BookPage />} />
                  <Route path="/booked/:token" element={<BookedPage />} />
                  <Route path="/developers" element={<Developers />} />
                  <Route path="/meetings/:id/captions" element={<Captions />} />
                  <Route element={<Inside />}>
                    <Route path="/capture" element={<Capture />} />
                    <Route path="/rehearsal" element={<Rehearsal />} />
                    <Route index element={<Today />} />
                    <Route path="/planned/:id" element={<Ahead />} />
                    <Route path="/library" element={<Library />} />
                    <Route path="/library/taken-out" element={<TakenOut />} />
                    <Route path="/ask" element={<Asking />} />
                    <Route path="/ledger" element={<Ledger />} />
                    <Route path="/shelves" element={<Shelves />} />
                    <Route path="/shelves/:id" element={<ShelfPage />} />
                    <Route path="/series/:id" element={<SeriesPage />} />
                    <Route path="/links" element={<Links />} />
                    <Route path="/connections" element={<Connections />} />
                    <Route path="/connections/:id" element={<ConnectionPage />} />
                    <Route path="/threads/:id" element={<ThreadPage />} />
                    <Route path="/booking" element={<Booking />} />
                    <Route path="/keeping" element={<Keeping />} />
                    <Route path="/audit" element={<Audit />} />
                    <Route path="/give" element={<Give />} />
                    <Route path="/meetings/:id" element={<Spread />} />
                    <Route path="/meetings/:id/review" element={<Review />} />
                    <Route path="/excerpts" element={<Excerpts />} />
                    <Route path="/excerpts/:id" element={<ExcerptPage />} />
                    <Route path="/sequences/:id" element={<SequencePage />} />
                    <Route path="/words" element={<Words />} />
                    <Route path="/templates" element={<Templates />} />
                    <Route path="/meetings/:id/settings" element={<Settings />} />
                    <Route path="/about" element={<About />} />
                    <Route path="/first-steps" element={<FirstSteps />} />
                    <Route path="/account" element={<Account />} />
                    <Route path="*" element={<p className="p-8">{t.problem.missing}</p>} />
                  </Route>
                </Routes>
              </Suspense>
            </BrowserRouter>
          </Sayings>
        </Toast.Provider>
      </QueryClientProvider>
    </Guard>
  );
}
