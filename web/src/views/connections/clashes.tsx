import { client, the, type Schemas } from "../../api/client";
import { elsewhere, usePlaced, type Outside } from "../../api/elsewhere";
import { keys, useChange } from "../../api/hooks";
import { useSay } from "../../parts/sayings";
import { Wrong } from "../../parts/states";
import { showDate } from "../../parts/time";
import { t } from "../../texts";
import { subjectName } from "./words";

type Clash = Schemas["ClashOut"];

function said(clash: Clash, value: string | null): string {
  if (clash.what === "due") return value ? showDate(value) : t.connections.noDay;
  if (clash.what === "owner") return value ?? t.connections.nobody;
  return t.connections.stateNames[value as "open" | "done" | "dropped"];
}

/** What both sides have changed: both are shown, and somebody says which counts. */
export function Clashes({ one }: { one: Outside }) {
  const placed = usePlaced(one.id, "clash").data ?? [];
  const say = useSay();
  const which = useChange(
    ({ id, what, keep }: { id: number; what: Clash["what"]; keep: "here" | "there" }) =>
      the(
        client.POST("/api/connections/placed/{placed_id}/which", {
          params: { path: { placed_id: id } },
          body: { what, keep },
        }),
      ),
    elsewhere.all,
    keys.ledger,
  );
  if (placed.length === 0) return null;
  return (
    <section aria-labelledby="clash" className="sheet mt-6 border-l-4 border-l-brass p-6">
      <h2 id="clash" className="text-lg">
        {t.connections.clashTitle}
      </h2>
      <p className="mb-2 text-sm text-faded">{t.connections.clashHint}</p>
      <ul>
        {placed.flatMap((row) =>
          row.clashes.map((clash) => (
            <li key={`${row.id} ${clash.what}`} className="border-b border-rule py-3 last:border-0">
              <p className="font-serif">{row.words || subjectName(row.subject)}</p>
              <dl className="my-1 grid grid-cols-[auto_1fr] gap-x-4 text-sm">
                <dt className="text-faded">
                  {t.connections.here}, {t.connections.fieldsOf[clash.what]}
                </dt>
                <dd>{said(clash, clash.here)}</dd>
                <dt className="text-faded">
                  {t.connections.there}, {t.connections.fieldsOf[clash.what]}
                </dt>
                <dd>{said(clash, clash.there)}</dd>
              </dl>
              <p className="flex flex-wrap gap-3">
                {(["here", "there"] as const).map((keep) => (
                  <button
                    key={keep}
                    type="button"
                    className="press py-1 text-sm"
                    disabled={which.isPending}
                    onClick={() =>
                      which.mutate(
                        { id: row.id, what: clash.what, keep },
                        { onSuccess: () => say(t.connections.settled) },
                      )
                    }
                  >
                    {keep === "here" ? t.connections.countsHere : t.connections.countsThere}
                  </button>
                ))}
              </p>
            </li>
          )),
        )}
      </ul>
      <Wrong error={which.error} />
    </section>
  );
}

/** What lies there though it should be gone. */
export function Left({ one }: { one: Outside }) {
  const left = usePlaced(one.id, "left").data ?? [];
  if (left.length === 0) return null;
  return (
    <section aria-labelledby="left" className="sheet mt-6 border-l-4 border-l-clay p-6">
      <h2 id="left" className="text-lg">
        {t.connections.leftTitle}
      </h2>
      <p className="mb-2 text-sm text-faded">{t.connections.leftHint}</p>
      <ul>
        {left.map((row) => (
          <li key={row.id} className="py-1 text-sm">
            {subjectName(row.subject)} {row.target_name && `(${row.target_name})`}: {row.left}
          </li>
        ))}
      </ul>
    </section>
  );
}
