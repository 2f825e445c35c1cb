import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange, useDoor, useWorkspace } from "../../api/hooks";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { locale, t } from "../../texts";
import { Wrong } from "../../parts/states";

const named = new Intl.DisplayNames(locale, { type: "language", fallback: "code" });

/** How a workspace captures: what people are told, whether all must agree, how much a month, kinds of mark. */
export function Capturing() {
  const rules = useWorkspace();
  return rules.data ? <Form rules={rules.data} /> : null;
}

function Form({ rules }: { rules: Schemas["CapturingOut"] }) {
  const [notices, setNotices] = useState(rules.notices);
  const [language, setLanguage] = useState("");
  const [consent, setConsent] = useState(rules.consent_of_all);
  const [known, setKnown] = useState(rules.known_voices);
  const [minutes, setMinutes] = useState(rules.monthly_minutes?.toString() ?? "");
  const [name, setName] = useState(rules.clerk_name);
  const [leaves, setLeaves] = useState(rules.clerk_leaves);
  const [days, setDays] = useState(String(rules.keep_removed));
  const [second, setSecond] = useState(rules.second_factor);
  const [provider, setProvider] = useState(rules.provider);
  const door = useDoor();
  const [kinds, setKinds] = useState(rules.mark_kinds.join(", "));
  const say = useSay();
  const save = useChange(
    () =>
      the(
        client.PATCH("/api/workspace", {
          body: {
            notices,
            consent_of_all: consent,
            known_voices: known,
            monthly_minutes: minutes === "" ? null : Number(minutes),
            mark_kinds: kinds.split(","),
            clerk_name: name,
            clerk_leaves: leaves,
            keep_removed: Number(days),
            second_factor: second,
            provider,
          },
        }),
      ),
    keys.workspace,
  );
  return (
    <form
      className="sheet mt-6 flex flex-col gap-5 p-6"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(undefined, { onSuccess: () => say(t.settings.saved) });
      }}
    >
      <h2 className="text-lg">{t.workspace.title}</h2>
      {Object.entries(notices).map(([code, text]) => (
        <Field
          key={code}
          label={t.workspace.noticeIn({ language: named.of(code) ?? code })}
          hint={text ? "" : t.workspace.own}
          htmlFor={`notice-${code}`}
        >
          <textarea
            id={`notice-${code}`}
            lang={code}
            rows={2}
            className="field font-serif"
            value={text}
            onChange={(event) => setNotices({ ...notices, [code]: event.target.value })}
          />
        </Field>
      ))}
      <p className="flex items-end gap-2">
        <label className="text-sm">
          {t.workspace.code}
          <input
            className="field w-28"
            maxLength={3}
            pattern="[a-z]{2,3}"
            value={language}
            onChange={(event) => setLanguage(event.target.value)}
          />
        </label>
        <button
          type="button"
          disabled={!/^[a-z]{2,3}$/.test(language)}
          className="press"
          onClick={() => {
            setNotices({ [language]: "", ...notices });
            setLanguage("");
          }}
        >
          {t.workspace.another}
        </button>
      </p>
      <Tick label={t.workspace.consent} value={consent} change={setConsent} />
      <Tick label={t.voices.allow} value={known} change={setKnown} />
      <Tick label={t.clerk.leaves} value={leaves} change={setLeaves} />
      <Tick label={t.signing.wantedOfAll} value={second} change={setSecond} />
      {(door.data?.providers.length || provider) && (
        <Field label={t.signing.providerOfAll} htmlFor="provider">
          <select
            id="provider"
            className="field"
            value={provider}
            onChange={(event) => setProvider(event.target.value)}
          >
            <option value="">{t.signing.providerAny}</option>
            {door.data?.providers.map((one) => (
              <option key={one.id} value={one.id}>
                {one.name}
              </option>
            ))}
          </select>
        </Field>
      )}
      <Field label={t.clerk.name} hint={t.clerk.nameHint} htmlFor="clerk-name">
        <input
          id="clerk-name"
          maxLength={80}
          className="field"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </Field>
      <Field label={t.workspace.keepRemoved} htmlFor="keep-removed">
        <input
          id="keep-removed"
          type="number"
          min={1}
          max={365}
          required
          className="field max-w-40"
          value={days}
          onChange={(event) => setDays(event.target.value)}
        />
      </Field>
      <div className="grid gap-5 sm:grid-cols-[10rem_1fr]">
        <Field
          label={t.workspace.minutes}
          hint={t.workspace.used({ n: rules.minutes_used })}
          htmlFor="minutes"
        >
          <input
            id="minutes"
            type="number"
            min={0}
            placeholder={t.workspace.noLimit}
            className="field placeholder:text-faded"
            value={minutes}
            onChange={(event) => setMinutes(event.target.value)}
          />
        </Field>
        <Field label={t.workspace.kinds} hint={t.workspace.kindsHint} htmlFor="kinds">
          <input
            id="kinds"
            className="field"
            value={kinds}
            onChange={(event) => setKinds(event.target.value)}
          />
        </Field>
      </div>
      <Wrong error={save.error} />
      <div>
        <button type="submit" disabled={save.isPending} className="press press-main">
          {t.workspace.keep}
        </button>
      </div>
    </form>
  );
}

function Tick(props: { label: string; value: boolean; change: (value: boolean) => void }) {
  return (
    <label className="flex items-center gap-2">
      <input
        type="checkbox"
        className="size-4 accent-slate"
        checked={props.value}
        onChange={(event) => props.change(event.target.checked)}
      />
      {props.label}
    </label>
  );
}
