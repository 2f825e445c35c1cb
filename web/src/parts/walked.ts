import { useState, type FocusEvent, type KeyboardEvent } from "react";

const items = (list: HTMLElement) => [...list.querySelectorAll<HTMLElement>("[data-item]")];

/** Go to a neighbour of an item of a walked list: 1 the next, -1 the one before; at the ends one stays. */
export function step(item: HTMLElement | null, by: number) {
  const list = item?.closest<HTMLElement>("[data-walked]");
  if (!item || !list) return;
  const all = items(list);
  (all[all.indexOf(item) + by] ?? item).focus();
}

/** A list that is walked with Up and Down, and in which Tab stops at one item alone: the one that one was at last.
 * `names` are all items in their order. What can be pressed within an item is reached by Tab while one is at it. */
export function useWalked(names: readonly string[]) {
  const [last, setLast] = useState<string | null>(null);
  const at = last !== null && names.includes(last) ? last : names[0];
  return {
    /** For the list. */
    list: {
      "data-walked": "",
      onFocus: ({ target }: FocusEvent) =>
        setLast(
          (old) => target.closest<HTMLElement>("[data-item]")?.getAttribute("data-item") ?? old,
        ),
      onKeyDown: (event: KeyboardEvent) => {
        const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
        const item = event.target as HTMLElement;
        if (!by || event.altKey || !item.hasAttribute("data-item")) return;
        event.preventDefault();
        step(item, by);
      },
    },
    /** For an item. */
    item: (name: string) => ({ "data-item": name, tabIndex: name === at ? 0 : -1 }),
    /** For what can be pressed within an item. */
    inner: (name: string) => (name === at ? 0 : -1),
  };
}
export type Walked = ReturnType<typeof useWalked>;
