import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { client, failed, the } from "../../api/client";
import {
  elsewhere,
  useConnection,
  useOutsideKinds,
  type Outside,
  type OutsideKind,
} from "../../api/elsewhere";
import { useChange } from "../../api/hooks";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { Trouble, Wait, Wrong } from "../../parts/states";
import { Sure } from "../../parts/sure";
import { t } from "../../texts";
import { Clashes, Left } from "./clashes";
import { standing } from "./connections";
import { Deliveries } from "./deliveries";
import { Answers, FieldQuestions } from "./fields";
import { first, KindForm } from "./form";
import { Rules } from "./rules";
import { ReadThread } from "./thread";
import { kindAbout, kindName } from "./words";

/** One connection: how it stands, what goes there by itself, what waits for somebody, what went. */
export function ConnectionPage() {
  const { id = "" } = useParams();
  const one = useConnection(id);
  const kinds = useOutsideKinds();
  if (failed(one)) return <Trouble error={one.error} />;
  const kind = kinds.data?.find((known) => known.name === one.data?.kind);
  if (!one.data || !kind) return <Wait />;
  return <Page one={one.data} kind={kind} />;
}

function Page({ one, kind }: { one: Outside; kind: OutsideKind }) {
  const say = useSay();
  const at = { params: { path: { connection_id: one.id } } };
  const check = useChange(
    () => the(client.POST("/api/connections/{connection_id}/check", at)),
    elsewhere.all,
  );
  const again = useChange(
    () => the(client.POST("/api/connections/{connection_id}/again", at)),
    elsewhere.all,
  );
  return (
    <div className="mx-auto w-full max-w-[60rem] px-4 py-8 sm:px-6">
      <Link to="/connections" className="plain">
        {t.connections.title}
      </Link>
      <h1 className="mt-2 text-2xl">{one.name}</h1>
      <p className="text-faded">
        {kindName(kind)}, {one.everybody ? t.connections.forAll : t.connections.forMe}
        {standing(one) && ` · ${standing(one)}`}
      </p>
      <p className="my-2 max-w-prose text-sm text-faded">{kindAbout(kind)}</p>
      {one.trouble && (
        <p role="alert" className="my-2 border-l-4 border-clay pl-3">
          {one.trouble}
        </p>
      )}
      {one.can_change && (
        <p className="flex flex-wrap gap-3">
          <button
            type="button"
            className="press"
            disabled={check.isPending}
            onClick={() =>
              check.mutate(undefined, {
                onSuccess: (told) => {
                  if (told.said) say(t.connections.tried({ said: told.said }));
                },
              })
            }
          >
            {t.connections.try}
          </button>
          {one.aside > 0 && (
            <button
              type="button"
              className="press"
              disabled={again.isPending}
              onClick={() =>
                again.mutate(undefined, { onSuccess: () => say(t.connections.sentAgain) })
              }
            >
              {t.connections.againAll}
            </button>
          )}
        </p>
      )}
      <Wrong error={check.error ?? again.error} />
      <Clashes one={one} />
      <Left one={one} />
      {kind.fills && <Answers one={one} />}
      {kind.name === "chat" && <ReadThread one={one} />}
      <Rules one={one} kind={kind} />
      {kind.fills && one.can_change && <FieldQuestions one={one} />}
      <section aria-labelledby="went" className="mt-8">
        <h2 id="went" className="mb-2 text-lg">
          {t.connections.went}
        </h2>
        <Deliveries asked={{ connection: one.id }} named={false} />
      </section>
      {one.can_change && <Changing one={one} kind={kind} />}
    </div>
  );
}

function Changing({ one, kind }: { one: Outside; kind: OutsideKind }) {
  const [name, setName] = useState(one.name);
  const [given, setGiven] = useState(first(kind, one.given));
  const [sure, setSure] = useState(false);
  const say = useSay();
  const go = useNavigate();
  const at = { params: { path: { connection_id: one.id } } };
  const save = useChange(
    () => the(client.PATCH("/api/connections/{connection_id}", { ...at, body: { name, given } })),
    elsewhere.all,
  );
  const drop = useChange(
    () => the(client.DELETE("/api/connections/{connection_id}", at)),
    elsewhere.all,
  );
  return (
    <details className="sheet mt-8 p-6">
      <summary className="cursor-pointer font-serif text-lg">{t.connections.settings}</summary>
      <form
        className="mt-4 flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate(undefined, {
            onSuccess: (kept) => say(t.connections.kept({ said: kept.said })),
          });
        }}
      >
        <Field label={t.connections.name} htmlFor="connection-name">
          <input
            id="connection-name"
            maxLength={120}
            required
            className="field"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </Field>
        <KindForm kind={kind} given={given} change={setGiven} kept />
        <Wrong error={save.error ?? drop.error} />
        <p className="flex flex-wrap gap-3">
          <button type="submit" className="press press-main" disabled={save.isPending}>
            {t.connections.keep}
          </button>
          <button
            type="button"
            className="press border-clay text-clay"
            onClick={() => setSure(true)}
          >
            {t.connections.drop}
          </button>
        </p>
      </form>
      {sure && (
        <Sure
          title={t.connections.sure({ name: one.name })}
          hint={t.connections.sureHint}
          yes={t.connections.drop}
          no={t.connections.keepIt}
          act={() =>
            drop.mutate(undefined, {
              onSuccess: () => {
                say(t.connections.dropped);
                void go("/connections");
              },
            })
          }
          close={() => setSure(false)}
        />
      )}
    </details>
  );
}
