import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange } from "../../api/hooks";
import { trust, useCustoms } from "../../api/trust";
import { Choose } from "../../parts/choose";
import { useSay } from "../../parts/sayings";
import { Wrong } from "../../parts/states";
import { t } from "../../texts";

type Custom = Schemas["CustomIn"];

const { mine, named, workspace } = t.visibility;

/** What is usual of meetings that I make, and of everybody's. */
export function Customs() {
  const customs = useCustoms().data;
  if (!customs) return null;
  return (
    <section aria-labelledby="customs" className="sheet mt-6 p-6">
      <h2 id="customs" className="mb-1 text-lg">
        {t.sending.customs}
      </h2>
      <p className="mb-4 text-sm text-faded">{t.sending.customsHint}</p>
      <Form of="own" custom={customs.own} />
      {customs.may_change && <Form of="workspace" custom={customs.workspace} />}
    </section>
  );
}

function Form({ of, custom }: { of: "own" | "workspace"; custom: Custom }) {
  const [said, setSaid] = useState(custom);
  const say = useSay();
  const save = useChange(
    () => the(client.PUT(`/api/customs/${of}`, { body: said })),
    trust.customs,
    keys.me,
  );
  return (
    <form
      className="mb-4 last:mb-0"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(undefined, { onSuccess: () => say(t.settings.saved) });
      }}
    >
      <h3 className="mb-2 text-base">{t.sending.ofWhose[of]}</h3>
      <CustomFields id={of} said={said} change={setSaid} />
      <Wrong error={save.error} className="mt-2" />
      <button type="submit" className="press mt-3" disabled={save.isPending}>
        {t.settings.save}
      </button>
    </form>
  );
}

/** Who sees a meeting for which nobody says otherwise, who gets its minutes, and when. */
export function CustomFields({
  id,
  said,
  change,
  visibility = true,
  disabled = false,
}: {
  id: string;
  said: Custom;
  change: (said: Custom) => void;
  visibility?: boolean;
  disabled?: boolean;
}) {
  return (
    <fieldset disabled={disabled} className="grid gap-4 sm:grid-cols-3">
      {visibility && (
        <Choose
          id={`${id}-seen`}
          label={t.usual.seen}
          value={said.visibility ?? ""}
          change={(value) => change({ ...said, visibility: value })}
          options={{ "": t.sending.otherwise, mine, named, workspace }}
        />
      )}
      <Choose
        id={`${id}-goes-to`}
        label={t.sending.title}
        value={said.goes_to ?? ""}
        change={(value) => change({ ...said, goes_to: value })}
        options={{ "": t.sending.otherwise, ...t.sending.goesTo }}
      />
      <Choose
        id={`${id}-going`}
        label={t.sending.when}
        value={said.going ?? ""}
        change={(value) => change({ ...said, going: value })}
        options={{ "": t.sending.careful, ...t.sending.goings }}
      />
    </fieldset>
  );
}
