import { useCallback, useSyncExternalStore } from "react";

/** Two pages beside each other, as in a book; below that they turn. */
export const TWO_PAGES = "(min-width: 56rem)";
/** As low as a laptop's screen: every line of it counts. */
export const LOW = "(max-height: 56rem)";
/** Where a finger points and nothing hovers. */
export const NARROW = "(max-width: 47.99rem)";

/** Does a media query hold? Kept up to date. */
export function useMedia(query: string): boolean {
  const subscribe = useCallback(
    (listener: () => void) => {
      const media = matchMedia(query);
      media.addEventListener("change", listener);
      return () => media.removeEventListener("change", listener);
    },
    [query],
  );
  return useSyncExternalStore(subscribe, () => matchMedia(query).matches);
}
