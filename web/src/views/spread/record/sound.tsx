import { useQuery } from "@tanstack/react-query";
import { client, the, type Schemas } from "../../../api/client";
import { keys, useChange } from "../../../api/hooks";
import { Wrong } from "../../../parts/states";
import { t } from "../../../texts";

/** The recording's sound to take away: asked for, made while one does something else, then taken. */
export function SoundAway({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  const at = { params: { path: { meeting_id: meeting.id } } };
  const copies = useQuery({
    queryKey: keys.copies(meeting.id),
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/sound-copies", at)),
    refetchInterval: (query) =>
      query.state.data?.some((one) => one.state === "waiting") ? 1000 : false,
  });
  const ask = useChange(
    (form: string) =>
      the(client.POST("/api/meetings/{meeting_id}/sound-copies", { ...at, body: { form } })),
    keys.copies(meeting.id),
  );
  const failed = copies.data?.filter((one) => one.state === "failed") ?? [];
  return (
    <div className="mt-3 flex flex-wrap items-center gap-2">
      <span className="w-32 font-serif text-sm">{t.passages.sound}</span>
      {Object.entries(t.passages.soundForms).map(([form, label = form]) => {
        const copy = copies.data?.find((one) => one.form === form);
        if (copy?.state === "ready")
          return (
            <a
              key={form}
              className="press press-main"
              href={`/api/meetings/${meeting.id}/sound.${form}`}
              download
            >
              {t.passages.takeSound({ form: label })}
            </a>
          );
        return copy?.state === "waiting" ? (
          <span key={form} role="status" className="press text-faded">
            {t.passages.makingSound({ form: label, n: Math.round(100 * copy.progress) })}
          </span>
        ) : (
          <button
            key={form}
            type="button"
            className="press"
            disabled={ask.isPending}
            onClick={() => ask.mutate(form)}
          >
            {label}
          </button>
        );
      })}
      {meeting.recording?.picture && (
        <a className="press" href={`/api/meetings/${meeting.id}/sound.video`} download>
          {t.passages.videoAsIs}
        </a>
      )}
      <span className="w-full text-xs text-faded">{t.passages.soundHint}</span>
      {failed.map((one) => (
        <p key={one.form} role="alert" className="w-full text-clay">
          {one.message}
        </p>
      ))}
      <Wrong error={ask.error ?? copies.error} />
    </div>
  );
}
