import { useState } from "react";
import { Link } from "react-router";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange, useMe } from "../../api/hooks";
import { Choose } from "../../parts/choose";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { Wait } from "../../parts/states";
import { applyScheme, chosenScheme, type Scheme } from "../../parts/scheme";
import { zone } from "../../parts/time";
import { t } from "../../texts";
import { chooseLanguage, chosenLanguage, LANGUAGES, type Language } from "../../texts/language";
import { Calendars } from "./calendars";
import { ClerkRules } from "./clerk";
import { Customs } from "./customs";
import { Letterbox } from "./letterbox";
import { Telephones } from "./telephone";
import { Capturing } from "./capturing";
import { DigestWish } from "./digest";
import { Folders } from "./folders";
import { KnownVoices } from "./known";
import { Members } from "./members";
import { Signing } from "./signing";
import { Writer } from "./writer";
import { may } from "../../api/rights";

export function Account() {
  const me = useMe();
  if (!me.data) return <Wait />;
  return (
    <div className="mx-auto w-full max-w-3xl px-4 py-8 sm:px-6">
      <h1 className="mb-1 text-2xl">{t.account.title}</h1>
      <p className="mb-5 flex flex-wrap gap-4">
        {may(me.data, "know team") && (
          <Link className="cite" to="/words">
            {t.words.title}
          </Link>
        )}
        {may(me.data, "arrange") && (
          <Link className="cite" to="/templates">
            {t.templates.title}
          </Link>
        )}
        {may(me.data, "add") && (
          <Link className="cite" to="/links">
            {t.links.title}
          </Link>
        )}
        {may(me.data, "manage") && (
          <>
            <Link className="cite" to="/keeping">
              {t.keeping.title}
            </Link>
            <Link className="cite" to="/audit">
              {t.audit.title}
            </Link>
          </>
        )}
      </p>
      <Me me={me.data} />
      <Signing />
      <DigestWish />
      {may(me.data, "add") && <Customs />}
      {may(me.data, "add") && <Calendars />}
      {may(me.data, "add") && <ClerkRules />}
      {may(me.data, "add") && <Letterbox me={me.data} />}
      {may(me.data, "add") && <Telephones />}
      {may(me.data, "add") && <Folders />}
      {may(me.data, "know team") && <Members me={me.data} />}
      {may(me.data, "manage") && <Capturing />}
      {may(me.data, "manage") && <Writer />}
      <KnownVoices />
    </div>
  );
}

function Me({ me }: { me: Schemas["MeOut"] }) {
  const [name, setName] = useState(me.name);
  const [scheme, setScheme] = useState<Scheme>(chosenScheme());
  const say = useSay();
  const rename = useChange(
    (given: string) => the(client.PATCH("/api/me", { body: { name: given } })),
    keys.me,
  );
  return (
    <section className="sheet p-6">
      <h2 className="mb-3 text-lg">{t.account.me}</h2>
      <form
        className="flex items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          rename.mutate(name, { onSuccess: () => say(t.settings.saved) });
        }}
      >
        <div className="grow">
          <Field label={t.door.yourName} htmlFor="name">
            <input
              id="name"
              required
              className="field"
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
          </Field>
        </div>
        <button type="submit" className="press">
          {t.account.keep}
        </button>
      </form>
      <p className="mt-3 text-sm text-faded">
        {me.email} · {t.account.times({ zone: zone() })}
      </p>
      <div className="mt-4 grid max-w-lg gap-4 sm:grid-cols-2">
        <Choose
          id="language"
          label={t.account.language}
          value={chosenLanguage() ?? ""}
          change={(chosen: Language | "") => chooseLanguage(chosen || null)}
          options={{ "": t.account.asDevice, ...LANGUAGES }}
        />
        <Choose
          id="scheme"
          label={t.account.scheme}
          value={scheme}
          change={(chosen) => {
            setScheme(chosen);
            applyScheme(chosen);
          }}
          options={t.account.schemes}
        />
      </div>
    </section>
  );
}
