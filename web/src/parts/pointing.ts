import type { PointerEvent } from "react";

/** For a thing that is pointed at, by pointer or by focus. Only a pointer that moves points: where one rests, the page may scroll
 *  beneath it or a leaf close above it, and nobody means what then lies there. */
export function pointing(at: () => void, away: () => void) {
  return {
    onPointerMove: (event: PointerEvent) => {
      if (event.movementX || event.movementY) at();
    },
    onPointerLeave: away,
    onFocus: at,
    onBlur: away,
  };
}
