import { client, the, type Schemas } from "../../api/client";
import { keys, useChange, useClerkRules } from "../../api/hooks";
import { useSay } from "../../parts/sayings";
import { Wrong } from "../../parts/states";
import { t } from "../../texts";

type Rule = Schemas["RulesIn"]["rules"][number];

/** To which meetings of my calendars the clerk goes by itself. */
export function ClerkRules() {
  const rules = useClerkRules();
  const say = useSay();
  const keep = useChange(
    (wanted: Rule[]) => the(client.PUT("/api/clerk/rules", { body: { rules: wanted } })),
    keys.clerkRules,
    keys.days,
  );
  if (!rules.data) return null;
  const chosen = keep.isPending ? keep.variables : rules.data.rules;
  return (
    <section aria-label={t.clerk.rulesTitle} className="sheet mt-6 p-6">
      <h2 className="text-lg">{t.clerk.rulesTitle}</h2>
      <p className="mb-3 text-sm text-faded">{t.clerk.rulesIntro}</p>
      {(Object.entries(t.clerk.rules) as [Rule, string][]).map(([rule, label]) => (
        <label key={rule} className="flex items-center gap-2 py-1">
          <input
            type="checkbox"
            className="size-4 accent-slate"
            checked={chosen.includes(rule)}
            onChange={(event) =>
              keep.mutate(
                event.target.checked ? [...chosen, rule] : chosen.filter((one) => one !== rule),
                { onSuccess: () => say(t.clerk.rulesKept) },
              )
            }
          />
          {label}
        </label>
      ))}
      <Wrong error={keep.error} />
    </section>
  );
}
