import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { Toast } from "radix-ui";
import { Component, type ReactNode } from "react";
import { BrowserRouter, Navigate, Outlet, Route, Routes, useLocation } from "react-router";
import { Problem } from "./api/client";
import { useMe } from "./api/hooks";
import { Frame } from "./parts/frame";
import { Wait } from "./parts/states";
import { Sayings } from "./parts/sayings";
import { t } from "./texts";
import { FoundWorkspace, Invited, NewPassword, SignIn } from "./views/signin/signin";
import { Today } from "./views/today/today";
import { Library } from "./views/library/library";
import { Spread } from "./views/spread/spread";
import { Capture } from "./views/capture/capture";
import { Captions } from "./views/live/captions";
import { NoticePage } from "./views/notice/notice";
import { Rehearsal } from "./views/capture/rehearsal";
import { Give } from "./views/give/give";
import { Review } from "./views/review/review";
import { Templates } from "./views/templates/templates";
import { Words } from "./views/words/words";
import { Settings } from "./views/settings/settings";
import { Account } from "./views/account/account";

const cache = new QueryClient({
  defaultOptions: { queries: { staleTime: 5_000, retry: (count, error) => count < 2 && !(error instanceof Problem && error.status >= 400 && error.status < 500) } },
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

/** Whoever is not signed in is sent to the door, and back to where they wanted to go. */
function Inside() {
  const me = useMe();
  const where = useLocation();
  if (me.isPending) return <Wait />;
  if (me.error instanceof Problem && me.error.status === 401) return <Navigate to={`/sign-in?to=${encodeURIComponent(where.pathname + where.search)}`} replace />;
  if (me.error) return <p className="p-8">{me.error.message}</p>;
  if (!me.data.workspace) return <FoundWorkspace />;
  return <Frame me={me.data}><Outlet /></Frame>;
}

export function App() {
  return (
    <Guard>
      <QueryClientProvider client={cache}>
        <Toast.Provider duration={8000} swipeDirection="down">
          <Sayings>
            <BrowserRouter>
              <Routes>
                <Route path="/sign-in" element={<SignIn />} />
                <Route path="/invited/:token" element={<Invited />} />
                <Route path="/password/:key" element={<NewPassword />} />
                <Route path="/notice/:token" element={<NoticePage />} />
                <Route path="/meetings/:id/captions" element={<Captions />} />
                <Route element={<Inside />}>
                  <Route path="/capture" element={<Capture />} />
                  <Route path="/rehearsal" element={<Rehearsal />} />
                  <Route index element={<Today />} />
                  <Route path="/library" element={<Library />} />
                  <Route path="/give" element={<Give />} />
                  <Route path="/meetings/:id" element={<Spread />} />
                  <Route path="/meetings/:id/review" element={<Review />} />
                  <Route path="/words" element={<Words />} />
                  <Route path="/templates" element={<Templates />} />
                  <Route path="/meetings/:id/settings" element={<Settings />} />
                  <Route path="/account" element={<Account />} />
                  <Route path="*" element={<p className="p-8">{t.problem.missing}</p>} />
                </Route>
              </Routes>
            </BrowserRouter>
          </Sayings>
        </Toast.Provider>
      </QueryClientProvider>
    </Guard>
  );
}
