import type { ReactNode } from "react";
import { Link } from "react-router";
import { withWanted } from "../../parts/wanted";
import { t } from "../../texts";

const MOST = 50; // meetings that one question can be put to by name

/** Meetings that are being chosen one by one; null while none is. */
export type Picked = string[] | null;

interface Props {
  id: string;
  title: string;
  picked: Picked;
  pick: (picked: Picked) => void;
  children: ReactNode;
}

/** A meeting of a list, with a box to tick while meetings are being chosen. */
export function Pick({ id, title, picked, pick, children }: Props) {
  if (!picked) return children;
  const on = picked.includes(id);
  return (
    <div className="grid grid-cols-[auto_minmax(0,1fr)] items-start gap-x-2">
      <input
        type="checkbox"
        aria-label={t.picking.one({ title })}
        className="mt-4 ml-2 size-5 accent-slate"
        checked={on}
        disabled={!on && picked.length >= MOST}
        onChange={() => pick(on ? picked.filter((one) => one !== id) : [...picked, id])}
      />
      {children}
    </div>
  );
}

/** What can be done with those that are chosen. */
export function PickBar({ picked, pick }: { picked: string[]; pick: (picked: Picked) => void }) {
  const asked = withWanted(new URLSearchParams(), { holds: [], only: picked });
  return (
    <div
      role="group"
      aria-label={t.picking.choose}
      className="sticky bottom-0 z-10 flex flex-wrap items-center gap-x-4 gap-y-2 border-t border-edge bg-paper px-4 py-3"
    >
      <p role="status">{t.picking.chosen({ n: picked.length })}</p>
      {picked.length > 0 && (
        <Link to={`/ask?${asked}`} className="press press-main">
          {t.picking.ask}
        </Link>
      )}
      <button type="button" className="press" onClick={() => pick(null)}>
        {t.picking.leave}
      </button>
    </div>
  );
}
