import { useState } from "react";
import { Link } from "react-router";
import { client, failed, the, type Schemas } from "../../api/client";
import { keys, useChange, useLinkRules, useLinks, useMe } from "../../api/hooks";
import { may } from "../../api/rights";
import { copyText } from "../../parts/copy";
import { useSay } from "../../parts/sayings";
import { Empty, Trouble, Wait, Wrong } from "../../parts/states";
import { showDay, showLongDay } from "../../parts/time";
import { t } from "../../texts";
import { AllSent } from "./sent";

type Given = Schemas["LinkOut"];

/** The links that I gave, and those of everybody where I manage the workspace; what it wants of them. */
export function Links() {
  const me = useMe().data;
  const [everybody, setEverybody] = useState(false);
  const links = useLinks(everybody);
  return (
    <div className="mx-auto w-full max-w-[70rem] px-4 py-8 sm:px-6">
      <div className="flex flex-wrap items-baseline gap-x-6">
        <h1 className="text-2xl">{t.links.title}</h1>
        {me && may(me, "manage") && (
          <label className="flex items-center gap-2 text-sm">
            <input
              type="checkbox"
              className="size-4 accent-slate"
              checked={everybody}
              onChange={(event) => setEverybody(event.target.checked)}
            />
            {t.links.everybody}
          </label>
        )}
      </div>
      <p className="my-4 text-faded">{t.links.pageHint}</p>
      {failed(links) ? (
        <Trouble error={links.error} again={() => void links.refetch()} />
      ) : !links.data ? (
        <Wait />
      ) : links.data.length === 0 ? (
        <Empty>{t.links.none}</Empty>
      ) : (
        <LinkList links={links.data} />
      )}
      {me && may(me, "manage") && <AllSent />}
      <Rules />
    </div>
  );
}

/** Links, each with for whom it is, how often it was opened, and the way to take it back. */
export function LinkList({ links }: { links: Given[] }) {
  return (
    <ul className="sheet px-4">
      {links.map((one) => (
        <Row key={one.id} link={one} />
      ))}
    </ul>
  );
}

function state(link: Given): string {
  if (link.revoked_at) return t.links.revokedAt({ day: showDay(link.revoked_at) });
  if (!link.leads) return t.links.leadsNowhere;
  return link.until ? t.links.endsAt({ day: showLongDay(link.until) }) : t.links.endless;
}

function Row({ link }: { link: Given }) {
  const say = useSay();
  const revoke = useChange(
    () => the(client.DELETE("/api/links/{link_id}", { params: { path: { link_id: link.id } } })),
    keys.links,
  );
  const opened = link.opened_at
    ? t.links.opened({ n: link.opened, day: showDay(link.opened_at) })
    : t.links.unopened;
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-rule py-3 last:border-0">
      <div className="min-w-0 grow basis-60">
        <p className="font-serif">
          {link.meeting ? (
            <Link to={`/meetings/${link.meeting}`} className="underline-offset-4 hover:underline">
              {link.title}
            </Link>
          ) : (
            link.title
          )}{" "}
          <span className="font-sans text-sm text-faded">
            {[
              t.links.scopes[link.scope],
              link.sound && t.links.withSound,
              link.passphrase && t.links.withPassphrase,
            ]
              .filter(Boolean)
              .join(", ")}
          </span>
        </p>
        <p className="text-sm text-faded">
          {[
            link.whom && t.links.for({ whom: link.whom }),
            !link.mine && t.links.by({ who: link.by }),
            state(link),
            opened,
          ]
            .filter(Boolean)
            .join(" · ")}
        </p>
        <Wrong error={revoke.error} />
      </div>
      {link.address && (
        <button
          type="button"
          className="press py-1 text-sm"
          aria-label={t.links.copyOf({ title: link.title })}
          onClick={() => void copyText(link.address ?? "").then(() => say(t.links.copied))}
        >
          {t.links.copy}
        </button>
      )}
      {!link.revoked_at && (
        <button
          type="button"
          className="press border-clay py-1 text-sm text-clay"
          aria-label={t.links.revokeOf({ title: link.title })}
          disabled={revoke.isPending}
          onClick={() => revoke.mutate(undefined, { onSuccess: () => say(t.links.revoked) })}
        >
          {t.links.revoke}
        </button>
      )}
    </li>
  );
}

const RULES = ["allowed", "must_end", "must_have_passphrase"] as const;

function Rules() {
  const rules = useLinkRules().data;
  const say = useSay();
  const set = useChange(
    (body: Schemas["LinkRulesIn"]) => the(client.PUT("/api/links/rules", { body })),
    keys.links,
  );
  if (!rules?.may_change) return null;
  return (
    <fieldset className="mt-8 border-t border-rule pt-5">
      <legend className="font-serif text-lg">{t.links.rules}</legend>
      <p className="mb-2 text-sm text-faded">{t.links.rulesHint}</p>
      {RULES.map((one) => (
        <label key={one} className="flex cursor-pointer items-center gap-2 py-1">
          <input
            type="checkbox"
            className="size-4 accent-slate"
            checked={rules[one]}
            disabled={set.isPending}
            onChange={(event) =>
              set.mutate(
                {
                  allowed: rules.allowed,
                  must_end: rules.must_end,
                  must_have_passphrase: rules.must_have_passphrase,
                  [one]: event.target.checked,
                },
                { onSuccess: () => say(t.links.rulesKept) },
              )
            }
          />
          {t.links.ruleNames[one]}
        </label>
      ))}
      <Wrong error={set.error} />
    </fieldset>
  );
}
