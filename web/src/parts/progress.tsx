import type { Schemas } from "../api/client";
import { t } from "../texts";
import { showLeft } from "./time";

/** Stage, percent, estimate. */
export function WorkProgress({ work }: { work: Schemas["WorkOut"] }) {
  return (
    <div>
      <div
        role="progressbar"
        aria-valuenow={work.percent}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-label={work.words}
        className="h-2 overflow-hidden rounded-card bg-rule"
      >
        <div
          className="h-full bg-slate transition-[width] duration-700"
          style={{ width: `${work.percent}%` }}
        />
      </div>
      <p className="mt-1 flex justify-between gap-4 text-sm text-faded">
        <span className="first-letter:uppercase">{work.words}</span>
        <span className="whitespace-nowrap">
          {t.work.percent({ n: work.percent })}
          {work.left !== null && `, ${t.work.left({ time: showLeft(work.left ?? 0) })}`}
        </span>
      </p>
    </div>
  );
}
