import { useState } from "react";
import type { OutsideKind } from "../../api/elsewhere";
import { Choose } from "../../parts/choose";
import { Field } from "../../parts/field";
import { t } from "../../texts";
import { fieldName } from "./words";

/** A field of a kind's form, as its JSON schema has it. */
interface Asked {
  title: string;
  description?: string;
  default?: string;
  enum?: string[];
  secret?: boolean;
  made?: string;
  format?: string;
  maxLength?: number;
}

export type Given = Record<string, string>;

const fieldsOf = (kind: OutsideKind) =>
  Object.entries((kind.form as { properties: Record<string, Asked> }).properties);
const needed = (kind: OutsideKind) =>
  new Set((kind.form as { required?: string[] }).required ?? []);

const said = (value: unknown) => (typeof value === "string" ? value : "");

/** What is in a form before anybody has written into it: what a kind takes where nothing is said, or what was kept. */
export function first(kind: OutsideKind, kept?: Record<string, unknown>): Given {
  return Object.fromEntries(
    fieldsOf(kind).map(([name, asked]) => [name, said(kept?.[name]) || (asked.default ?? "")]),
  );
}

/** A secret to sign with, made here: nobody has to think one up. */
function newSecret(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(24));
  return `whsec_${btoa(String.fromCharCode(...bytes))}`;
}

/** The form of a kind, drawn from its schema: a new kind needs nothing here. */
export function KindForm({
  kind,
  given,
  change,
  kept = false,
}: {
  kind: OutsideKind;
  given: Given;
  change: (given: Given) => void;
  /** It is connected already: a secret that is left out stays as it is. */
  kept?: boolean;
}) {
  const must = needed(kind);
  const set = (name: string, value: string) => change({ ...given, [name]: value });
  return (
    <div className="grid gap-4 sm:grid-cols-2">
      {fieldsOf(kind).map(([name, asked]) => {
        const id = `${kind.name}-${name}`;
        const label = fieldName(name, asked.title);
        if (asked.enum)
          return (
            <Choose
              key={name}
              id={id}
              label={label}
              value={given[name] ?? ""}
              change={(value) => set(name, value)}
              options={Object.fromEntries(asked.enum.map((one) => [one, one.toUpperCase()]))}
            />
          );
        const hint = asked.secret && kept ? t.connections.secretStays : asked.description;
        return (
          <Field key={name} label={label} hint={hint} htmlFor={id}>
            <Line
              id={id}
              asked={asked}
              required={must.has(name) && !(asked.secret && kept)}
              value={given[name] ?? ""}
              change={(value) => set(name, value)}
            />
          </Field>
        );
      })}
    </div>
  );
}

function Line({
  id,
  asked,
  required,
  value,
  change,
}: {
  id: string;
  asked: Asked;
  required: boolean;
  value: string;
  change: (value: string) => void;
}) {
  const [shown, setShown] = useState(false);
  return (
    <span className="flex gap-2">
      <input
        id={id}
        required={required}
        type={asked.secret && !shown ? "password" : "text"}
        inputMode={asked.format === "uri" ? "url" : undefined}
        placeholder={asked.format === "uri" ? "https://" : undefined}
        autoComplete={asked.secret ? "new-password" : "off"}
        maxLength={asked.maxLength ?? 2000}
        className="field placeholder:text-faded"
        value={value}
        onChange={(event) => change(event.target.value)}
      />
      {asked.made === "whsec" && (
        <button
          type="button"
          className="press py-1 text-sm whitespace-nowrap"
          onClick={() => {
            setShown(true);
            change(newSecret());
          }}
        >
          {t.connections.make}
        </button>
      )}
    </span>
  );
}
