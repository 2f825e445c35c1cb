import { useState } from "react";
import { Link } from "react-router";
import { client, failed, the, type Schemas } from "../../api/client";
import { keys, useChange, useMe, useTakenOut } from "../../api/hooks";
import { Field } from "../../parts/field";
import { Leaf } from "../../parts/leaf";
import { useSay } from "../../parts/sayings";
import { Empty, Trouble, Wait, Wrong } from "../../parts/states";
import { showDay, showLongDay } from "../../parts/time";
import { t } from "../../texts";

type Out = Schemas["TakenOutOut"];

/** What was taken out of the library: to be had back, or deleted for good. */
export function TakenOut() {
  const out = useTakenOut();
  const [going, setGoing] = useState<Out | null>(null);
  return (
    <div className="mx-auto w-full max-w-[70rem] px-4 py-8 sm:px-6">
      <div className="flex flex-wrap items-baseline gap-x-6">
        <h1 className="text-2xl">{t.library.takenOut}</h1>
        <Link to="/library" className="cite">
          {t.library.title}
        </Link>
      </div>
      <p className="my-4 text-faded">{t.library.takenOutHint}</p>
      {failed(out) ? (
        <Trouble error={out.error} again={() => void out.refetch()} />
      ) : !out.data ? (
        <Wait />
      ) : out.data.length === 0 ? (
        <Empty>{t.library.nothingOut}</Empty>
      ) : (
        <ul className="sheet px-4">
          {out.data.map((one) => (
            <Row key={one.id} out={one} away={() => setGoing(one)} />
          ))}
        </ul>
      )}
      {going && <ForGood out={going} close={() => setGoing(null)} />}
    </div>
  );
}

function Row({ out, away }: { out: Out; away: () => void }) {
  const say = useSay();
  const restore = useChange(
    () =>
      the(
        client.POST("/api/meetings/{meeting_id}/restore", {
          params: { path: { meeting_id: out.id } },
        }),
      ),
    keys.library,
    keys.today,
    keys.days,
  );
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-rule py-3 last:border-0">
      <div className="min-w-0 grow basis-60">
        <p className="font-serif">
          {out.title} <span className="text-sm text-faded">{showDay(out.started_at)}</span>
        </p>
        <p className="text-sm text-faded">
          {t.library.outBy({ when: showDay(out.at), who: out.by || "–" })} ·{" "}
          {t.library.outUntil({ when: showLongDay(out.until) })}
        </p>
        <Wrong error={restore.error} />
      </div>
      <button
        type="button"
        className="press py-1 text-sm"
        aria-label={t.library.backOf({ title: out.title })}
        disabled={restore.isPending}
        onClick={() => restore.mutate(undefined, { onSuccess: () => say(t.library.isBack) })}
      >
        {t.library.back}
      </button>
      <button
        type="button"
        className="press border-clay py-1 text-sm text-clay"
        aria-label={t.library.forGoodOf({ title: out.title })}
        onClick={away}
      >
        {t.library.forGood}
      </button>
    </li>
  );
}

function ForGood({ out, close }: { out: Out; close: () => void }) {
  const me = useMe();
  const [name, setName] = useState("");
  const say = useSay();
  const erase = useChange(
    () =>
      the(
        client.POST("/api/library/taken-out/{meeting_id}/delete", {
          params: { path: { meeting_id: out.id } },
          body: { name },
        }),
      ),
    keys.library,
  );
  return (
    <Leaf
      title={t.library.forGoodOf({ title: out.title })}
      hint={t.library.forGoodHint}
      close={close}
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          erase.mutate(undefined, {
            onSuccess: () => {
              say(t.library.going);
              close();
            },
          });
        }}
      >
        <Field
          label={t.library.signIt({ name: me.data?.name || me.data?.email || "" })}
          htmlFor="delete-name"
        >
          <input
            id="delete-name"
            className="field"
            autoComplete="off"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </Field>
        <Wrong error={erase.error} className="mt-2" />
        <p className="mt-4 flex gap-3">
          <button
            type="submit"
            className="press border-clay text-clay"
            disabled={!name.trim() || erase.isPending}
          >
            {t.library.forGood}
          </button>
          <button type="button" className="press" onClick={close}>
            {t.library.keepIt}
          </button>
        </p>
      </form>
    </Leaf>
  );
}
