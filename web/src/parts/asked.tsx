import { client, the, type Schemas } from "../api/client";
import { keys, useChange } from "../api/hooks";
import { trust, useAsked } from "../api/trust";
import { t } from "../texts";
import { useSay } from "./sayings";
import { Wrong } from "./states";

type Question = Schemas["AskedToSeeOut"];

/** Who asks to see a meeting that I govern: of one, or of all. */
export function Asked({ of }: { of?: string }) {
  const asked = useAsked(true).data?.filter((one) => !of || one.meeting === of) ?? [];
  if (!asked.length) return null;
  return (
    <section aria-labelledby="asked" className="mb-6">
      <h2 id="asked" className="mb-2 text-base">
        {t.asked.title}
      </h2>
      <ul className="sheet px-4">
        {asked.map((one) => (
          <Row key={one.id} asked={one} />
        ))}
      </ul>
    </section>
  );
}

function Row({ asked }: { asked: Question }) {
  const say = useSay();
  const answer = useChange(
    (grant: boolean) =>
      the(
        client.POST("/api/asked-to-see/{request_id}", {
          params: { path: { request_id: asked.id } },
          body: { grant },
        }),
      ),
    trust.asked,
    keys.meeting(asked.meeting),
  );
  const name = asked.name;
  const facts = { name, title: asked.meeting_title };
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-2 border-b border-rule py-3 last:border-0">
      <div className="min-w-0 grow basis-60">
        <p>{t.asked.one({ ...facts, email: asked.email })}</p>
        {asked.words && <p className="font-serif text-sm">“{asked.words}”</p>}
        {asked.widens && <p className="text-sm text-faded">{t.asked.widens}</p>}
        <Wrong error={answer.error} />
      </div>
      <button
        type="button"
        className="press py-1"
        aria-label={t.asked.letInOf(facts)}
        disabled={answer.isPending}
        onClick={() => answer.mutate(true, { onSuccess: () => say(t.asked.done({ name })) })}
      >
        {t.asked.letIn}
      </button>
      <button
        type="button"
        className="press py-1"
        aria-label={t.asked.noOf(facts)}
        disabled={answer.isPending}
        onClick={() => answer.mutate(false, { onSuccess: () => say(t.asked.left) })}
      >
        {t.asked.no}
      </button>
    </li>
  );
}
