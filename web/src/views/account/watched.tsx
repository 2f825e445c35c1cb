import type { ReactNode } from "react";
import { Link } from "react-router";
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

interface One {
  key: string;
  title: string;
  /** The meeting that it became. */
  meeting: string | null;
  remarks: string;
}

/** What came of it lately, each with what became of that; out of the way where all of it is as it should be. */
export function Came({
  all,
  empty,
  latest,
  open,
}: {
  all: One[];
  empty: string;
  latest: string;
  open: boolean;
}) {
  if (all.length === 0) return <p className="w-full text-sm text-faded">{empty}</p>;
  return (
    <details className="w-full text-sm" open={open}>
      <summary className="cursor-pointer text-faded">{latest}</summary>
      <ul>
        {all.map((one) => (
          <li key={one.key} className="py-0.5">
            {one.meeting ? (
              <Link className="underline underline-offset-4" to={`/meetings/${one.meeting}`}>
                {one.title}
              </Link>
            ) : (
              one.title
            )}{" "}
            <span className="text-faded">{one.remarks}</span>
          </li>
        ))}
      </ul>
    </details>
  );
}
