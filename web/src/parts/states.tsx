import { t } from "../texts";

export function Wait() {
  return (
    <p role="status" className="p-8 text-faded">
      {t.loading}
    </p>
  );
}

export function Trouble({ error, again }: { error: Error; again?: () => void }) {
  return (
    <div role="alert" className="sheet m-4 max-w-xl border-l-4 border-l-clay p-4">
      <p>{error.message}</p>
      {again && (
        <button type="button" className="press mt-3" onClick={again}>
          {t.problem.again}
        </button>
      )}
    </div>
  );
}

/** Why what was just sent was refused, beside the form that sent it. */
export function Wrong({ error, className = "" }: { error: Error | null; className?: string }) {
  return (
    error && (
      <p role="alert" className={`text-clay ${className}`}>
        {error.message}
      </p>
    )
  );
}

export function Empty({ children }: { children: React.ReactNode }) {
  return <p className="max-w-prose py-3 text-faded italic font-serif text-sm">{children}</p>;
}
