import type { Schemas } from "./client";
import { useChoices, useMe } from "./hooks";

type Visibility = Schemas["Visibility"];

/** Who may see what is about to be made: as somebody has said, else as is usual in its series, else as is usual with them. What is usual may
 * become known only after the series was typed. */
export function useSeenBy(said: Visibility | null, series: string): Visibility {
  const me = useMe();
  const choices = useChoices();
  return said ?? choices.data?.seen[series] ?? me.data?.usual_visibility ?? "named";
}
