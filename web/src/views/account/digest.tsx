import { useQuery } from "@tanstack/react-query";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange } from "../../api/hooks";
import { Choose } from "../../parts/choose";
import { useSay } from "../../parts/sayings";
import { Wrong } from "../../parts/states";
import { zone } from "../../parts/time";
import { locale, t } from "../../texts";

type Wish = Schemas["DigestIn"];
const HOURS = Array.from({ length: 24 }, (_, hour) => hour);
const hourOf = new Intl.DateTimeFormat(locale, {
  hour: "2-digit",
  minute: "2-digit",
  timeZone: "UTC",
});
const dayOf = new Intl.DateTimeFormat(locale, { weekday: "long", timeZone: "UTC" });
const MONDAY = Date.UTC(2024, 0, 1);

/** Whether, how often and when one hears by mail of what is new. */
export function DigestWish() {
  const known = useQuery({
    queryKey: keys.digest,
    queryFn: () => the(client.GET("/api/digest")),
  }).data;
  const say = useSay();
  const put = useChange((body: Wish) => the(client.PUT("/api/digest", { body })), keys.digest);
  if (!known) return null;
  const wish = (part: Partial<Wish>) =>
    put.mutate(
      { ...known, ...part, time_zone: zone() },
      { onSuccess: () => say(t.settings.saved) },
    );
  return (
    <section aria-labelledby="digest" className="sheet mt-6 p-6">
      <h2 id="digest" className="text-lg">
        {t.news.digest}
      </h2>
      <p className="mb-3 text-sm text-faded">{t.news.digestHint}</p>
      <div className="grid gap-x-5 gap-y-3 sm:grid-cols-3">
        <Choose
          id="digest-often"
          label={t.news.often}
          value={known.often}
          change={(often) => wish({ often })}
          options={t.news.oftens}
        />
        {known.often === "weekly" && (
          <Choose
            id="digest-weekday"
            label={t.news.weekday}
            value={String(known.weekday)}
            change={(day) => wish({ weekday: Number(day) })}
            options={Object.fromEntries(
              [0, 1, 2, 3, 4, 5, 6].map((day) => [
                String(day),
                dayOf.format(MONDAY + day * 86_400_000),
              ]),
            )}
          />
        )}
        {known.often !== "never" && (
          <Choose
            id="digest-hour"
            label={t.news.hour}
            value={String(known.hour)}
            change={(hour) => wish({ hour: Number(hour) })}
            options={Object.fromEntries(
              HOURS.map((hour) => [String(hour), hourOf.format(MONDAY + hour * 3_600_000)]),
            )}
            hint={t.news.zone({ zone: known.time_zone })}
          />
        )}
      </div>
      <Wrong error={put.error} />
    </section>
  );
}
