import { Toast } from "radix-ui";
import { createContext, useCallback, useContext, useState, type ReactNode } from "react";
import { t } from "../texts";

interface Saying {
  id: number;
  text: string;
  undo?: () => void;
  back: string;
}
const Say = createContext<(text: string, undo?: () => void, back?: string) => void>(
  () => undefined,
);

/** Says something short in the corner of the page, with a way back where there is one; `back` names it. One thing at a time: the newest. */
export const useSay = () => useContext(Say);

export function Sayings({ children }: { children: ReactNode }) {
  const [saying, setSaying] = useState<Saying | null>(null);
  const say = useCallback(
    (text: string, undo?: () => void, back: string = t.spread.undo) =>
      setSaying({ id: Date.now() + Math.random(), text, back, ...(undo ? { undo } : {}) }),
    [],
  );
  return (
    <Say.Provider value={say}>
      {children}
      {saying && (
        <Toast.Root
          key={saying.id}
          onOpenChange={(open) => {
            if (!open) setSaying((now) => (now?.id === saying.id ? null : now));
          }}
          className="flex items-center justify-between gap-4 rounded-card bg-slate px-4 py-3 text-on-slate shadow-lg"
        >
          <Toast.Description>{saying.text}</Toast.Description>
          {saying.undo && (
            <Toast.Action altText={saying.back} asChild>
              <button type="button" className="underline underline-offset-4" onClick={saying.undo}>
                {saying.back}
              </button>
            </Toast.Action>
          )}
        </Toast.Root>
      )}
      <Toast.Viewport className="fixed right-4 bottom-20 z-50 w-[min(26rem,calc(100vw-2rem))] outline-none" />
    </Say.Provider>
  );
}
