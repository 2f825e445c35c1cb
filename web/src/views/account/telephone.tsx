import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange, useDialers } from "../../api/hooks";
import { Choose } from "../../parts/choose";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { Empty, Wrong } from "../../parts/states";
import { showDay, showTime } from "../../parts/time";
import { t } from "../../texts";
import { arriving } from "./folders";
import { Came, Watched } from "./watched";

/** Telephone systems that tell of calls they have recorded. */
export function Telephones() {
  const dialers = useDialers();
  if (!dialers.data) return null;
  return (
    <section aria-label={t.telephone.title} className="sheet mt-6 p-6">
      <h2 className="text-lg">{t.telephone.title}</h2>
      <p className="mb-3 text-sm text-faded">{t.telephone.intro}</p>
      {dialers.data.length === 0 && <Empty>{t.telephone.none}</Empty>}
      <ul>
        {dialers.data.map((one) => (
          <Row key={one.id} dialer={one} />
        ))}
      </ul>
      <Connect />
    </section>
  );
}

function Row({ dialer }: { dialer: Schemas["DialerOut"] }) {
  const say = useSay();
  const drop = useChange(
    () =>
      the(
        client.DELETE("/api/telephone/{dialer_id}", { params: { path: { dialer_id: dialer.id } } }),
      ),
    keys.dialers,
  );
  return (
    <Watched
      name={dialer.name}
      remarks={[t.folders.seenBy[dialer.visibility]]}
      acts={[
        {
          label: t.telephone.drop,
          of: t.telephone.dropOf({ name: dialer.name }),
          off: drop.isPending,
          act: () => drop.mutate(undefined, { onSuccess: () => say(t.telephone.dropped) }),
        },
      ]}
      trouble=""
      error={drop.error}
    >
      <Came
        all={dialer.calls.map((call) => ({
          key: `${call.begun_at} ${call.meeting}`,
          title: call.people.filter(Boolean).join(", "),
          meeting: call.meeting,
          remarks: `${showDay(call.begun_at)}, ${showTime(call.begun_at)} · ${[t.telephone.states[call.state], call.words].filter(Boolean).join(": ")}`,
        }))}
        empty={t.telephone.empty}
        latest={t.telephone.latest({ n: dialer.calls.length })}
        open
      />
    </Watched>
  );
}

function Connect() {
  const [name, setName] = useState("");
  const [visibility, setVisibility] = useState<Schemas["DialerIn"]["visibility"]>("mine");
  const connect = useChange(
    () => the(client.POST("/api/telephone", { body: { name, visibility } })),
    keys.dialers,
  );
  return (
    <form
      className="mt-4 flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        connect.mutate(undefined, { onSuccess: () => setName("") });
      }}
    >
      <div className="grid gap-4 sm:grid-cols-2">
        <Field label={t.telephone.name} htmlFor="dialer-name">
          <input
            id="dialer-name"
            required
            maxLength={120}
            className="field"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </Field>
        <Choose
          id="dialer-seen"
          label={t.telephone.seen}
          value={visibility}
          change={setVisibility}
          options={arriving()}
        />
      </div>
      <Wrong error={connect.error} />
      <p>
        <button type="submit" className="press" disabled={connect.isPending}>
          {t.telephone.connect}
        </button>
      </p>
      {connect.data && (
        <div role="status" className="border-l-4 border-brass pl-3 text-sm">
          <p>{t.telephone.made}</p>
          <dl className="mt-1 grid gap-x-4 gap-y-1 break-all sm:grid-cols-[auto_1fr]">
            <dt className="text-faded">{t.telephone.address}</dt>
            <dd>{connect.data.address}</dd>
            <dt className="text-faded">{t.telephone.secret}</dt>
            <dd>{connect.data.secret}</dd>
          </dl>
          <p className="mt-1 text-faded">{t.telephone.how}</p>
        </div>
      )}
    </form>
  );
}
