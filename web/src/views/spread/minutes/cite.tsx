import { clock } from "../../../parts/time";
import { t } from "../../../texts";

/** The time at which something was said; a press hears it. */
export function Cite({ start, act, tab }: { start: number; act: () => void; tab?: number }) {
  return (
    <button
      type="button"
      data-hear
      tabIndex={tab}
      className="cite"
      aria-label={t.spread.hear({ time: clock(start) })}
      onClick={act}
    >
      {clock(start)}
    </button>
  );
}
