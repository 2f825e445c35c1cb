import type { Schemas } from "../api/client";
import { t } from "../texts";

export type Point = Pick<Schemas["PointIn"], "text"> & { minutes: number };

/** The points of an agenda, each with its minutes, to be written. */
export function Points({ rows, put }: { rows: Point[]; put: (rows: Point[]) => void }) {
  const set = (index: number, change: Partial<Point>) =>
    put(rows.map((row, at) => (at === index ? { ...row, ...change } : row)));
  return (
    <>
      <ol className="flex flex-col gap-2">
        {rows.map((row, index) => (
          <li key={index} className="grid grid-cols-[1fr_5rem_auto] gap-2">
            <input
              aria-label={`${t.agenda.point} ${index + 1}`}
              className="field font-serif"
              maxLength={200}
              value={row.text}
              onChange={(event) => set(index, { text: event.target.value })}
            />
            <input
              aria-label={`${t.agenda.minutes} ${index + 1}`}
              type="number"
              min={1}
              max={600}
              className="field"
              value={row.minutes}
              onChange={(event) => set(index, { minutes: Number(event.target.value) || 1 })}
            />
            <button
              type="button"
              className="plain"
              aria-label={t.agenda.remove}
              onClick={() => put(rows.filter((_, at) => at !== index))}
            >
              ×
            </button>
          </li>
        ))}
      </ol>
      <button
        type="button"
        className="plain mt-1 text-sm"
        onClick={() => put([...rows, { text: "", minutes: 10 }])}
      >
        {t.agenda.add}
      </button>
    </>
  );
}
