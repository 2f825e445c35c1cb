import { useCallback, useState } from "react";
import { useSearchParams } from "react-router";

export type Leaf = "minutes" | "ask";
export type Side = Leaf | "record";

/** What the address of an open meeting says: the chosen line, the words looked for, the page opposite the record. */
export function useAddress() {
  const [params, setParams] = useSearchParams();
  const put = useCallback(
    (values: Record<string, string | null>) =>
      setParams(
        (old) => {
          for (const [name, value] of Object.entries(values))
            if (value === null) old.delete(name);
            else old.set(name, value);
          return old;
        },
        { replace: true },
      ),
    [setParams],
  );
  const chosen = params.has("line") ? Number(params.get("line")) : null;
  const leaf: Leaf = params.get("leaf") === "ask" ? "ask" : "minutes";
  // Of the three pages, the one that a narrow screen shows.
  const [side, setSide] = useState<Side>(chosen === null ? leaf : "record");
  return {
    chosen,
    leaf,
    side,
    setSide,
    find: params.get("find") ?? "",
    at: params.has("at") ? Number(params.get("at")) : null,
    hear: params.has("hear"),
    put,
    setLeaf: useCallback(
      (to: Leaf) => {
        setSide(to);
        put({ leaf: to === "ask" ? to : null });
      },
      [put],
    ),
    setFind: useCallback((words: string) => put({ find: words || null }), [put]),
    choose: useCallback((line: number) => put({ line: String(line), hear: null }), [put]),
  };
}
export type Address = ReturnType<typeof useAddress>;
