import { useId } from "react";

interface Props {
  legend: string;
  hint?: string;
  all: { id: number; name: string }[];
  chosen: number[];
  change: (chosen: number[]) => void;
  disabled?: boolean;
}

/** Several out of a list, each ticked or not. */
export function Ticks({ legend, hint = "", all, chosen, change, disabled = false }: Props) {
  const id = useId();
  const toggle = (one: number) =>
    change(chosen.includes(one) ? chosen.filter((other) => other !== one) : [...chosen, one]);
  return (
    <fieldset aria-describedby={hint ? id : undefined} disabled={disabled}>
      <legend className="mb-1 font-serif text-sm">{legend}</legend>
      <ul className="max-h-52 overflow-y-auto border border-rule px-3 py-1">
        {all.map((one) => (
          <li key={one.id}>
            <label className="flex cursor-pointer items-center gap-2 py-1">
              <input
                type="checkbox"
                className="size-4 accent-slate"
                checked={chosen.includes(one.id)}
                onChange={() => toggle(one.id)}
              />
              {one.name}
            </label>
          </li>
        ))}
      </ul>
      {hint && (
        <p id={id} className="mt-1 text-xs text-faded">
          {hint}
        </p>
      )}
    </fieldset>
  );
}
