import { Field } from "./field";

/** One of several, each under its name. */
export function Choose<Value extends string>({
  id,
  label,
  hint,
  value,
  change,
  options,
}: {
  id: string;
  label: string;
  hint?: string | undefined;
  value: Value;
  change: (value: Value) => void;
  /** Value → name, in their order. */
  options: Readonly<Record<string, string | undefined>>;
}) {
  return (
    <Field label={label} htmlFor={id} hint={hint}>
      <select
        id={id}
        className="field"
        value={value}
        onChange={(event) => change(event.target.value as Value)}
      >
        {Object.entries(options).map(([key, name]) => (
          <option key={key} value={key}>
            {name}
          </option>
        ))}
      </select>
    </Field>
  );
}
