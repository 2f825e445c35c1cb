import { useState } from "react";
import { Link } from "react-router";
import { client, the, type Schemas } from "../../api/client";
import { elsewhere, useGoneWhere, useTargets, type Subject } from "../../api/elsewhere";
import { useChange } from "../../api/hooks";
import { Choose } from "../../parts/choose";
import { Leaf } from "../../parts/leaf";
import { useSay } from "../../parts/sayings";
import { Empty, Wait, Wrong } from "../../parts/states";
import { showDay } from "../../parts/time";
import { t } from "../../texts";
import { subjectName } from "./words";

type Taker = Schemas["TakerOut"];
type Placed = Schemas["PlacedOut"];

interface Thing {
  subject: Subject;
  key: string;
}

/** Choose to where something goes; a leaf over the page it is on. */
export function SendElsewhere({
  meeting,
  thing,
  close,
}: {
  meeting: string;
  thing: Thing;
  close: () => void;
}) {
  const where = useGoneWhere(meeting);
  const takers = where.data?.takers.filter((one) => one.takes.includes(thing.subject));
  return (
    <Leaf title={t.connections.sendTo({ what: t.connections.the[thing.subject] })} close={close}>
      {!takers ? (
        <Wait />
      ) : takers.length === 0 ? (
        <Empty>{t.connections.sendNone}</Empty>
      ) : (
        <Sending meeting={meeting} thing={thing} takers={takers} done={close} />
      )}
    </Leaf>
  );
}

function Sending({
  meeting,
  thing,
  takers,
  done,
}: {
  meeting: string;
  thing: Thing;
  takers: Taker[];
  done: () => void;
}) {
  const [to, setTo] = useState(takers[0]!.id);
  const [target, setTarget] = useState("");
  const taker = takers.find((one) => one.id === to) ?? takers[0]!;
  const targets = useTargets(taker.id, taker.aims);
  const say = useSay();
  const send = useChange(
    () =>
      the(
        client.POST("/api/connections/{connection_id}/send", {
          params: { path: { connection_id: taker.id } },
          body: {
            ...thing,
            target: taker.aims ? target : "",
            target_name: targets.data?.find((one) => one.key === target)?.name ?? "",
          },
        }),
      ),
    elsewhere.goneWhere(meeting),
    elsewhere.all,
  );
  return (
    <form
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        send.mutate(undefined, {
          onSuccess: () => {
            say(t.connections.sent({ name: taker.name }));
            done();
          },
        });
      }}
    >
      <Choose
        id="send-to"
        label={t.connections.title}
        value={to}
        change={(value) => {
          setTo(value);
          setTarget("");
        }}
        options={Object.fromEntries(takers.map((one) => [one.id, one.name]))}
      />
      {taker.aims && (
        <Choose
          id="send-target"
          label={t.connections.target}
          value={target}
          change={setTarget}
          options={{
            "": t.connections.choose,
            ...Object.fromEntries((targets.data ?? []).map((one) => [one.key, one.name])),
          }}
        />
      )}
      <Wrong error={send.error ?? targets.error} />
      <p>
        <button
          type="submit"
          className="press press-main"
          disabled={send.isPending || (taker.aims && !target)}
        >
          {t.connections.send}
        </button>
      </p>
    </form>
  );
}

/** On a meeting's page of who sees it: what of it lies elsewhere, and sending it there. */
export function Elsewhere({ meeting }: { meeting: string }) {
  const where = useGoneWhere(meeting).data;
  const [thing, setThing] = useState<Thing | null>(null);
  if (!where || (where.takers.length === 0 && where.placed.length === 0 && where.left.length === 0))
    return null;
  const able = new Set(where.takers.flatMap((one) => one.takes));
  return (
    <section aria-labelledby="elsewhere" className="sheet mt-6 p-6">
      <h2 id="elsewhere" className="text-lg">
        {t.connections.sendTitle}
      </h2>
      <p className="mb-3 text-sm text-faded">{t.connections.sendHint}</p>
      <p className="flex flex-wrap gap-3">
        {(["minutes", "record"] as const)
          .filter((subject) => able.has(subject))
          .map((subject) => (
            <button
              key={subject}
              type="button"
              className="press"
              onClick={() => setThing({ subject, key: meeting })}
            >
              {t.connections.sendTo({ what: t.connections.the[subject] })}…
            </button>
          ))}
        <Link to="/connections" className="plain">
          {t.connections.title}
        </Link>
      </p>
      <h3 className="mt-4 font-serif text-sm">{t.connections.lies}</h3>
      {where.placed.length === 0 && <Empty>{t.connections.liesNone}</Empty>}
      <ul>
        {where.placed.map((one) => (
          <Lying key={one.id} one={one} meeting={meeting} />
        ))}
      </ul>
      {where.left.length > 0 && (
        <>
          <h3 className="mt-4 font-serif text-sm text-clay">{t.connections.leftTitle}</h3>
          <p className="text-sm text-faded">{t.connections.leftHint}</p>
          <ul>
            {where.left.map((one) => (
              <li key={one.id} className="py-1 text-sm">
                {one.connection_name}: {subjectName(one.subject)}. {one.left}
              </li>
            ))}
          </ul>
        </>
      )}
      {thing && <SendElsewhere meeting={meeting} thing={thing} close={() => setThing(null)} />}
    </section>
  );
}

function Lying({ one, meeting }: { one: Placed; meeting: string }) {
  const say = useSay();
  const back = useChange(
    () =>
      the(
        client.POST("/api/connections/placed/{placed_id}/take-back", {
          params: { path: { placed_id: one.id } },
        }),
      ),
    elsewhere.goneWhere(meeting),
    elsewhere.all,
  );
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 border-b border-rule py-2 last:border-0">
      <span className="min-w-0 grow basis-60">
        <span className="font-serif">
          {subjectName(one.subject)}
          {one.words && `: ${one.words}`}
        </span>{" "}
        <span className="text-sm text-faded">
          {[
            one.connection_name,
            one.target_name,
            one.placed_at && t.connections.placedAt({ day: showDay(one.placed_at) }),
          ]
            .filter(Boolean)
            .join(" · ")}
        </span>
        <Wrong error={back.error} />
      </span>
      {one.address && (
        <a href={one.address} className="cite">
          {t.connections.openThere}
        </a>
      )}
      {one.recalls && (
        <button
          type="button"
          className="plain text-sm"
          aria-label={t.connections.takeBackOf({
            what: one.words || t.connections.the[one.subject],
            name: one.connection_name,
          })}
          disabled={back.isPending}
          onClick={() => back.mutate(undefined, { onSuccess: () => say(t.connections.takenBack) })}
        >
          {t.connections.takeBack}
        </button>
      )}
    </li>
  );
}
