import type { ReactNode } from "react";
import { Wrong } from "../../parts/states";

interface Act {
  label: string;
  /** With the name of what it is done to. */
  of: string;
  off: boolean;
  act: () => void;
}

/** Something elsewhere that is looked at now and then: what is known of it, what can be done with it, what is wrong. */
export function Watched({
  name,
  remarks,
  acts,
  trouble,
  error,
  children,
}: {
  name: string;
  remarks: (string | null)[];
  acts: Act[];
  trouble: string;
  error: Error | null;
  children?: ReactNode;
}) {
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 border-b border-rule py-2">
      <span className="font-serif">{name}</span>
      <span className="grow text-sm text-faded">{remarks.filter(Boolean).join(" · ")}</span>
      <span className="flex gap-2 whitespace-nowrap">
        {acts.map((one) => (
          <button
            key={one.label}
            type="button"
            className="plain text-sm"
            aria-label={one.of}
            disabled={one.off}
            onClick={one.act}
          >
            {one.label}
          </button>
        ))}
      </span>
      {trouble && (
        <p role="alert" className="w-full text-sm text-clay">
          {trouble}
        </p>
      )}
      {children}
      <Wrong error={error} className="w-full text-sm" />
    </li>
  );
}
