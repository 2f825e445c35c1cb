import type { ReactNode } from "react";

export function Field({
  label,
  hint,
  htmlFor,
  children,
}: {
  label: string;
  hint?: ReactNode;
  htmlFor: string;
  children: ReactNode;
}) {
  return (
    <div>
      <label htmlFor={htmlFor} className="mb-1 block font-serif text-sm">
        {label}
      </label>
      {children}
      {hint && <p className="mt-1 text-xs text-faded">{hint}</p>}
    </div>
  );
}
