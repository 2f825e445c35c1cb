import { Link, useSearchParams } from "react-router";
import { failed } from "../../api/client";
import { useMembers } from "../../api/hooks";
import { useAudit, useAuditVerbs, type Audited } from "../../api/trust";
import { Choose } from "../../parts/choose";
import { Field } from "../../parts/field";
import { Empty, Trouble, Wait } from "../../parts/states";
import { showDay, showTime } from "../../parts/time";
import { t } from "../../texts";

/** A verb as it is kept, in words; one that is newer than the words stands for itself. */
const said = (verb: string) => (t.verbs as Partial<Record<string, string>>)[verb] ?? verb;

/** Who did what: narrowed by what stands in the address, so that it can be sent on. */
export function Audit() {
  const [params, setParams] = useSearchParams();
  const members = useMembers().data ?? [];
  const verbs = useAuditVerbs().data?.verbs ?? [];
  const put = (name: keyof Audited, value: string) =>
    setParams((before) => {
      if (value) before.set(name, value);
      else before.delete(name);
      return before;
    });
  const asked: Audited = {
    ...(params.get("who") ? { who: Number(params.get("who")) } : {}),
    ...(params.get("verb") ? { verb: params.get("verb")! } : {}),
    ...(params.get("since") ? { since: params.get("since")! } : {}),
    ...(params.get("until") ? { until: params.get("until")! } : {}),
  };
  const found = useAudit(asked);
  const entries = found.data?.pages.flatMap((page) => page.entries) ?? [];
  return (
    <div className="mx-auto w-full max-w-[84rem] px-4 py-8 sm:px-6">
      <div className="flex flex-wrap items-baseline gap-x-6">
        <h1 className="text-2xl">{t.audit.title}</h1>
        <a className="cite" href={`/api/audit/table.csv?${params.toString()}`} download>
          {t.audit.table}
        </a>
      </div>
      <p className="my-4 text-faded">{t.audit.hint}</p>
      <div className="mb-5 grid gap-4 sm:grid-cols-4">
        <Choose
          id="who"
          label={t.audit.who}
          value={params.get("who") ?? ""}
          change={(value) => put("who", value)}
          options={{
            "": t.audit.anybody,
            ...Object.fromEntries(members.map((one) => [String(one.id), one.name])),
          }}
        />
        <Choose
          id="verb"
          label={t.audit.verb}
          value={params.get("verb") ?? ""}
          change={(value) => put("verb", value)}
          options={{
            "": t.audit.anything,
            ...Object.fromEntries(verbs.map((one) => [one, said(one)])),
          }}
        />
        {(["since", "until"] as const).map((name) => (
          <Field key={name} label={t.audit[name]} htmlFor={name}>
            <input
              id={name}
              type="date"
              className="field"
              value={params.get(name) ?? ""}
              onChange={(event) => put(name, event.target.value)}
            />
          </Field>
        ))}
      </div>
      {failed(found) ? (
        <Trouble error={found.error} again={() => void found.refetch()} />
      ) : found.isPending ? (
        <Wait />
      ) : entries.length === 0 ? (
        <Empty>{t.audit.none}</Empty>
      ) : (
        <div className="sheet overflow-x-auto px-4" tabIndex={0}>
          <table className="w-full text-left text-sm">
            <thead>
              <tr className="border-b border-rule text-faded">
                {[t.audit.at, t.audit.who, t.audit.verb, t.audit.where, t.audit.detail].map(
                  (name) => (
                    <th key={name} scope="col" className="py-2 pr-4 font-normal">
                      {name}
                    </th>
                  ),
                )}
              </tr>
            </thead>
            <tbody>
              {entries.map((one) => (
                <tr key={one.id} className="border-b border-rule align-baseline last:border-0">
                  <td className="py-1.5 pr-4 whitespace-nowrap">
                    {showDay(one.at)}, {showTime(one.at)}
                  </td>
                  <td className={`py-1.5 pr-4 ${one.who ? "" : "text-faded"}`}>
                    {one.who || t.audit.program}
                  </td>
                  <td className="py-1.5 pr-4 font-serif">{said(one.verb)}</td>
                  <td className="py-1.5 pr-4">
                    {one.meeting ? (
                      <Link
                        to={`/meetings/${one.meeting}`}
                        className="underline-offset-4 hover:underline"
                      >
                        {one.meeting_title}
                      </Link>
                    ) : (
                      one.of_a_meeting && <span className="text-faded">{t.audit.unseen}</span>
                    )}
                  </td>
                  <td className="py-1.5 text-faded">
                    {Object.entries(one.detail)
                      .map(([name, value]) => `${name.replaceAll("_", " ")}: ${String(value)}`)
                      .join(", ")}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {found.hasNextPage && (
        <button
          type="button"
          className="press mt-4"
          disabled={found.isFetchingNextPage}
          onClick={() => void found.fetchNextPage()}
        >
          {t.audit.more}
        </button>
      )}
    </div>
  );
}
