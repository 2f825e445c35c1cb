import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange, useLinkRules } from "../../api/hooks";
import { copyText } from "../../parts/copy";
import { Field } from "../../parts/field";
import { Leaf } from "../../parts/leaf";
import { useSay } from "../../parts/sayings";
import { Wait, Wrong } from "../../parts/states";
import { t } from "../../texts";

type Scope = Schemas["Scope"];

interface Props {
  /** The key of what it leads to. */
  of: string;
  scopes: Scope[];
  /** Is there anything to be heard? */
  heard: boolean;
  close: () => void;
}

/** A link for somebody without an account: to what, for whom, until when, with which passphrase. */
export function GiveLink({ of, scopes, heard, close }: Props) {
  const rules = useLinkRules().data;
  return (
    <Leaf title={t.links.give} close={close}>
      {!rules ? (
        <Wait />
      ) : rules.allowed ? (
        <Form of={of} scopes={scopes} heard={heard} close={close} rules={rules} />
      ) : (
        <p>{t.links.forbidden}</p>
      )}
    </Leaf>
  );
}

const dayAhead = (days: number) => {
  const day = new Date();
  day.setDate(day.getDate() + days);
  return day.toLocaleDateString("sv-SE");
};

function Form({ of, scopes, heard, close, rules }: Props & { rules: Schemas["LinkRulesOut"] }) {
  const say = useSay();
  const [scope, setScope] = useState<Scope>(scopes[0] ?? "minutes");
  const [sound, setSound] = useState(false);
  const [whom, setWhom] = useState("");
  const [until, setUntil] = useState(dayAhead(rules.usual));
  const [passphrase, setPassphrase] = useState("");
  const [given, setGiven] = useState<string | null>(null);
  const give = useChange(
    () =>
      the(
        client.POST("/api/links", {
          body: {
            scope,
            of,
            sound,
            whom,
            passphrase,
            until: until ? new Date(`${until}T23:59:59`).toISOString() : null,
          },
        }),
      ),
    keys.links,
  );
  if (given)
    return (
      <>
        <Field label={t.links.address} htmlFor="link-address" hint={t.links.addressHint}>
          <input
            id="link-address"
            readOnly
            className="field"
            value={given}
            onFocus={(event) => event.target.select()}
          />
        </Field>
        <p className="mt-4 flex gap-3">
          <button
            type="button"
            className="press press-main"
            onClick={() => void copyText(given).then(() => say(t.links.copied))}
          >
            {t.links.copy}
          </button>
          <button type="button" className="press" onClick={close}>
            {t.links.enough}
          </button>
        </p>
      </>
    );
  return (
    <form
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        give.mutate(undefined, { onSuccess: ({ address }) => setGiven(address ?? "") });
      }}
    >
      <p className="text-sm text-faded">{t.links.hint}</p>
      {scopes.length > 1 && (
        <Field label={t.links.what} htmlFor="link-scope">
          <select
            id="link-scope"
            className="field"
            value={scope}
            onChange={(event) => setScope(event.target.value as Scope)}
          >
            {scopes.map((one) => (
              <option key={one} value={one}>
                {t.links.scopes[one]}
              </option>
            ))}
          </select>
        </Field>
      )}
      {heard && scope !== "minutes" && (
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="size-4 accent-slate"
            checked={sound}
            onChange={(event) => setSound(event.target.checked)}
          />
          {t.links.sound}
        </label>
      )}
      <Field label={t.links.whom} htmlFor="link-whom" hint={t.links.whomHint}>
        <input
          id="link-whom"
          className="field"
          maxLength={120}
          value={whom}
          onChange={(event) => setWhom(event.target.value)}
        />
      </Field>
      <div className="grid gap-4 sm:grid-cols-2">
        <Field label={t.links.until} htmlFor="link-until" hint={t.links.untilHint}>
          <input
            id="link-until"
            type="date"
            className="field"
            required={rules.must_end}
            min={dayAhead(0)}
            value={until}
            onChange={(event) => setUntil(event.target.value)}
          />
        </Field>
        <Field label={t.links.passphrase} htmlFor="link-passphrase" hint={t.links.passphraseHint}>
          <input
            id="link-passphrase"
            className="field"
            autoComplete="off"
            required={rules.must_have_passphrase}
            minLength={8}
            maxLength={200}
            value={passphrase}
            onChange={(event) => setPassphrase(event.target.value)}
          />
        </Field>
      </div>
      <Wrong error={give.error} />
      <p className="flex gap-3">
        <button type="submit" className="press press-main" disabled={give.isPending}>
          {t.links.give}
        </button>
        <button type="button" className="press" onClick={close}>
          {t.spread.cancel}
        </button>
      </p>
    </form>
  );
}
