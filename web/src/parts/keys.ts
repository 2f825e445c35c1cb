import { useEffect, useRef } from "react";

/** Keys that do something wherever the focus is, except while typing or with Ctrl, Alt or Meta. */
export function useKeys(actions: Record<string, (event: KeyboardEvent) => void>): void {
  const kept = useRef(actions);
  kept.current = actions;
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.altKey || event.metaKey || event.defaultPrevented) return;
      const target = event.target as HTMLElement;
      if (
        target.matches("input, textarea, select, [contenteditable]") ||
        target.closest("[role=dialog]")
      )
        return;
      // A focused button is pressed by Space and Enter; that stays so. Only one that plays leaves Space to pause and go on.
      if (
        event.key === " " &&
        target.matches("button:not([data-hear]), a, [role=tab], [role=slider]")
      )
        return;
      const act = kept.current[event.key];
      if (act) {
        event.preventDefault();
        act(event);
      }
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
}
