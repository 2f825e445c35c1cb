import { useQueryClient } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { anew } from "../../api/anew";
import { keys, useChange } from "../../api/hooks";
import { Again, showAgain, signOut } from "../../api/session";
import { Leaf } from "../../parts/leaf";
import { Secret } from "../../parts/secret";
import { Wrong } from "../../parts/states";
import { t } from "../../texts";

export const FACTORS = ["factors"] as const;
export const TIED = ["tied"] as const;
export const SESSIONS = ["sessions"] as const;

/** Does something of weight; where who one is has to be shown once more, that is asked for, and it is done then. */
export function useSure() {
  const cache = useQueryClient();
  const [waiting, setWaiting] = useState<(() => Promise<void>) | null>(null);
  const [error, setError] = useState<Error | null>(null);
  const act = async (what: () => Promise<void>) => {
    setError(null);
    try {
      await what();
      setWaiting(null);
      for (const key of [FACTORS, SESSIONS, TIED, keys.me]) await anew(cache, key);
    } catch (problem) {
      if (problem instanceof Again) setWaiting(() => what);
      else setError(problem as Error);
    }
  };
  const leaf = waiting && (
    <WhoAgain
      close={() => setWaiting(null)}
      shown={async (password) => {
        await showAgain(password);
        await act(waiting);
      }}
    />
  );
  return { act, error, leaf };
}

export function WhoAgain({
  shown,
  close,
}: {
  shown: (password: string) => Promise<void>;
  close: () => void;
}) {
  const [password, setPassword] = useState("");
  const show = useChange(() => shown(password));
  return (
    <Leaf title={t.signing.again} close={close}>
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          show.mutate(undefined);
        }}
      >
        <Secret id="again" label={t.signing.password} value={password} change={setPassword} />
        <Wrong error={show.error} />
        <div>
          <button type="submit" className="press press-main" disabled={show.isPending}>
            {t.signing.go}
          </button>
        </div>
      </form>
    </Leaf>
  );
}

/** Shown instead of everything as long as the workspace wants something of how one signs in. */
export function Wanting({
  title,
  hint,
  email,
  children,
}: {
  title: string;
  hint: string;
  email: string;
  children: ReactNode;
}) {
  const cache = useQueryClient();
  return (
    <main className="mx-auto w-full max-w-3xl px-4 py-8 sm:px-6">
      <h1 className="mb-2 text-2xl">{title}</h1>
      <p className="mb-5 text-faded">{hint}</p>
      {children}
      <p className="mt-4 text-sm text-faded">
        {email}{" "}
        <button
          type="button"
          className="plain"
          onClick={() => void signOut().then(() => cache.clear())}
        >
          {t.nav.signOut}
        </button>
      </p>
    </main>
  );
}

/** A part of how one signs in. */
export function Part({
  title,
  hint,
  children,
}: {
  title: string;
  hint?: string;
  children: ReactNode;
}) {
  return (
    <div className="mb-5 border-b border-rule pb-5 last:mb-0 last:border-0 last:pb-0">
      <h3 className="mb-1 text-base">{title}</h3>
      {hint && <p className="mb-2 text-sm text-faded">{hint}</p>}
      {children}
    </div>
  );
}
