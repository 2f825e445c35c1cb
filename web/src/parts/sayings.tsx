import { Toast } from "radix-ui";
import { createContext, useCallback, useContext, useMemo, useState, type ReactNode } from "react";
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

/** Says something short at the foot of the page, with a way back where there is one; `back` names it. */
export const useSay = () => useContext(Say);

export function Sayings({ children }: { children: ReactNode }) {
  const [sayings, setSayings] = useState<Saying[]>([]);
  const say = useCallback(
    (text: string, undo?: () => void, back: string = t.spread.undo) =>
      setSayings((all) => [
        ...all,
        { id: Date.now() + Math.random(), text, back, ...(undo ? { undo } : {}) },
      ]),
    [],
  );
  const gone = (id: number) => setSayings((all) => all.filter((one) => one.id !== id));
  return (
    <Say.Provider value={useMemo(() => say, [say])}>
      {children}
      {sayings.map((one) => (
        <Toast.Root
          key={one.id}
          onOpenChange={(open) => {
            if (!open) gone(one.id);
          }}
          className="flex items-center justify-between gap-4 rounded-card bg-slate px-4 py-3 text-on-slate shadow-lg"
        >
          <Toast.Description>{one.text}</Toast.Description>
          {one.undo && (
            <Toast.Action altText={one.back} asChild>
              <button type="button" className="underline underline-offset-4" onClick={one.undo}>
                {one.back}
              </button>
            </Toast.Action>
          )}
        </Toast.Root>
      ))}
      <Toast.Viewport className="fixed bottom-28 left-1/2 z-50 flex w-[min(30rem,calc(100vw-2rem))] -translate-x-1/2 flex-col gap-2 outline-none" />
    </Say.Provider>
  );
}
