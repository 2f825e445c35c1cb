import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { client, failed, the } from "../../api/client";
import {
  elsewhere,
  useConnections,
  useOutsideKinds,
  type Outside,
  type OutsideKind,
} from "../../api/elsewhere";
import { useChange, useMe } from "../../api/hooks";
import { may } from "../../api/rights";
import { Choose } from "../../parts/choose";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { Empty, Trouble, Wait, Wrong } from "../../parts/states";
import { t } from "../../texts";
import { Deliveries } from "./deliveries";
import { first, KindForm } from "./form";
import { Tokens } from "./tokens";
import { kindAbout, kindName } from "./words";

/** What is connected, what went where, and the way in for programs. */
export function Connections() {
  const all = useConnections();
  const kinds = useOutsideKinds();
  const me = useMe().data;
  return (
    <div className="mx-auto w-full max-w-[70rem] px-4 py-8 sm:px-6">
      <h1 className="text-2xl">{t.connections.title}</h1>
      <p className="my-3 max-w-prose text-faded">{t.connections.intro}</p>
      {failed(all) ? (
        <Trouble error={all.error} again={() => void all.refetch()} />
      ) : !all.data || !kinds.data ? (
        <Wait />
      ) : (
        <>
          {all.data.length === 0 ? (
            <Empty>{me && may(me, "manage") ? t.connections.none : t.connections.noneMine}</Empty>
          ) : (
            <ul className="sheet px-4">
              {all.data.map((one) => (
                <Row key={one.id} one={one} />
              ))}
            </ul>
          )}
          <Connect kinds={kinds.data} everybody={!!me && may(me, "manage")} />
          <section aria-labelledby="went" className="mt-10">
            <h2 id="went" className="text-lg">
              {t.connections.went}
            </h2>
            <p className="mb-2 text-sm text-faded">{t.connections.wentHint}</p>
            <Deliveries asked={{}} />
          </section>
        </>
      )}
      {me && may(me, "add") && <Tokens manages={may(me, "manage")} />}
    </div>
  );
}

/** How it stands with one, in a line. */
export function standing(one: Outside): string {
  return (
    [
      one.waiting > 0 && t.connections.waiting({ n: one.waiting }),
      one.asked > 0 && t.connections.asked({ n: one.asked }),
      one.aside > 0 && t.connections.aside({ n: one.aside }),
      one.clashes > 0 && t.connections.clashes({ n: one.clashes }),
      one.to_confirm > 0 && t.connections.toConfirm({ n: one.to_confirm }),
    ]
      .filter(Boolean)
      .join(" · ") || (one.trouble ? "" : t.connections.atRest)
  );
}

function Row({ one }: { one: Outside }) {
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-rule py-3 last:border-0">
      <div className="min-w-0 grow basis-60">
        <p className="font-serif">
          <Link to={`/connections/${one.id}`} className="underline-offset-4 hover:underline">
            {one.name}
          </Link>{" "}
          <span className="font-sans text-sm text-faded">
            {kindName({ name: one.kind, title: one.title })},{" "}
            {one.everybody ? t.connections.forAll : t.connections.forMe}
          </span>
        </p>
        {one.trouble && <p className="text-sm text-clay">{one.trouble}</p>}
      </div>
      <span className="text-sm text-faded">{standing(one)}</span>
    </li>
  );
}

function Connect({ kinds, everybody }: { kinds: OutsideKind[]; everybody: boolean }) {
  const [chosen, setChosen] = useState("");
  const kind = kinds.find((one) => one.name === chosen);
  return (
    <section aria-labelledby="connect" className="sheet mt-6 p-6">
      <h2 id="connect" className="mb-3 text-lg">
        {t.connections.connectTitle}
      </h2>
      <Choose
        id="kind"
        label={t.connections.kindOf}
        value={chosen}
        change={setChosen}
        options={{
          "": t.connections.choose,
          ...Object.fromEntries(kinds.map((one) => [one.name, kindName(one)])),
        }}
      />
      {kind && (
        <ConnectForm
          key={kind.name}
          kind={kind}
          everybody={everybody}
          close={() => setChosen("")}
        />
      )}
    </section>
  );
}

function ConnectForm({
  kind,
  everybody,
  close,
}: {
  kind: OutsideKind;
  everybody: boolean;
  close: () => void;
}) {
  const [given, setGiven] = useState(first(kind));
  const [name, setName] = useState("");
  const [forAll, setForAll] = useState(everybody);
  const say = useSay();
  const go = useNavigate();
  const connect = useChange(
    () =>
      the(
        client.POST("/api/connections", {
          body: { kind: kind.name, name, everybody: forAll, given },
        }),
      ),
    elsewhere.all,
  );
  return (
    <form
      className="mt-4 flex flex-col gap-4"
      aria-label={t.connections.connectOf({ kind: kindName(kind) })}
      onSubmit={(event) => {
        event.preventDefault();
        connect.mutate(undefined, {
          onSuccess: (made) => {
            say(t.connections.connected({ name: made.name, said: made.said }));
            close();
            void go(`/connections/${made.id}`);
          },
        });
      }}
    >
      <p className="max-w-prose text-sm text-faded">{kindAbout(kind)}</p>
      <Field label={t.connections.name} hint={t.connections.nameHint} htmlFor="connection-name">
        <input
          id="connection-name"
          maxLength={120}
          className="field"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </Field>
      <KindForm kind={kind} given={given} change={setGiven} />
      {everybody && (
        <label className="flex items-baseline gap-2">
          <input
            type="checkbox"
            className="size-4 accent-slate"
            checked={forAll}
            onChange={(event) => setForAll(event.target.checked)}
          />
          <span>
            {t.connections.everybody}
            <span className="block text-xs text-faded">{t.connections.everybodyHint}</span>
          </span>
        </label>
      )}
      <Wrong error={connect.error} />
      <p>
        <button type="submit" className="press press-main" disabled={connect.isPending}>
          {t.connections.connect}
        </button>
      </p>
    </form>
  );
}
