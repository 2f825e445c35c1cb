import { client, the } from "../../api/client";
import { keys, useChange, useKnownVoices } from "../../api/hooks";
import { useSay } from "../../parts/sayings";
import { showLongDay } from "../../parts/time";
import { t } from "../../texts";
import { Wrong } from "../../parts/states";

/** Whose voices are kept; each can be forgotten at any time. */
export function KnownVoices() {
  const voices = useKnownVoices();
  const say = useSay();
  const forget = useChange(
    (id: number) =>
      the(client.DELETE("/api/voices/{known_id}", { params: { path: { known_id: id } } })),
    keys.knownVoices,
  );
  if (!voices.data) return null;
  return (
    <section aria-label={t.voices.title} className="sheet mt-6 p-6">
      <h2 className="text-lg">{t.voices.title}</h2>
      <p className="mb-3 text-faded">{t.voices.intro}</p>
      {voices.data.length === 0 && <p className="font-serif text-faded italic">{t.voices.none}</p>}
      <ul>
        {voices.data.map((one) => (
          <li
            key={one.id}
            className="flex flex-wrap items-baseline gap-x-4 border-b border-rule py-2"
          >
            <span className="font-serif">{one.name}</span>
            <span className="grow text-sm text-faded">
              {one.noted_by
                ? t.voices.sinceBy({ when: showLongDay(one.at), by: one.noted_by })
                : t.voices.since({ when: showLongDay(one.at) })}
            </span>
            <button
              type="button"
              className="plain text-sm"
              aria-label={t.voices.forgetOf({ name: one.name })}
              onClick={() => forget.mutate(one.id, { onSuccess: () => say(t.voices.forgotten) })}
            >
              {t.voices.forget}
            </button>
          </li>
        ))}
      </ul>
      <Wrong error={forget.error} />
    </section>
  );
}
