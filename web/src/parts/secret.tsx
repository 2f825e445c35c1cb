import { Field } from "./field";

interface Props {
  id: string;
  label: string;
  hint?: string | undefined;
  value: string;
  change: (value: string) => void;
  /** One that is chosen now, and not one that is known. */
  fresh?: boolean;
  least?: number;
}

/** A password. */
export function Secret({ id, label, hint, value, change, fresh = false, least }: Props) {
  return (
    <Field label={label} hint={hint} htmlFor={id}>
      <input
        id={id}
        type="password"
        required
        minLength={least}
        autoComplete={fresh ? "new-password" : "current-password"}
        className="field"
        value={value}
        onChange={(event) => change(event.target.value)}
      />
    </Field>
  );
}
