import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, the, type Schemas } from "../../../api/client";
import { keys, useChange } from "../../../api/hooks";
import { Wrong } from "../../../parts/states";
import { t } from "../../../texts";

export type Wanted = Omit<Schemas["RecordCopyIn"], "form">;

/** Documents of a long record: a press has one made, and it is taken as soon as it is there. */
export function PaperAway({
  meeting,
  wanted,
  forms,
}: {
  meeting: string;
  wanted: Wanted;
  forms: [string, string][];
}) {
  const at = { params: { path: { meeting_id: meeting } } };
  const [asked, setAsked] = useState<number | null>(null);
  const copies = useQuery({
    queryKey: keys.recordCopies(meeting),
    queryFn: () => the(client.GET("/api/meetings/{meeting_id}/record-copies", at)),
    enabled: asked !== null,
    refetchInterval: (query) =>
      query.state.data?.some((one) => one.state === "waiting") ? 1000 : false,
  });
  const ask = useChange(async (form: string) => {
    const copy = await the(
      client.POST("/api/meetings/{meeting_id}/record-copies", {
        ...at,
        body: { ...wanted, form },
      }),
    );
    setAsked(copy.id);
  }, keys.recordCopies(meeting));
  const copy = copies.data?.find((one) => one.id === asked);
  useEffect(() => {
    if (copy?.state !== "ready") return;
    window.location.assign(`/api/meetings/${meeting}/record-copies/${copy.id}`);
    setAsked(null);
  }, [copy?.state, copy?.id, meeting]);
  return (
    <>
      {forms.map(([form, label]) =>
        copy?.form === form && copy.state === "waiting" ? (
          <span key={form} role="status" className="press text-faded">
            {t.passages.makingSound({ form: label, n: Math.round(100 * copy.progress) })}
          </span>
        ) : (
          <button
            key={form}
            type="button"
            className="press"
            disabled={ask.isPending || copy?.state === "waiting"}
            onClick={() => ask.mutate(form)}
          >
            {label}
          </button>
        ),
      )}
      {copy?.state === "failed" && (
        <span role="alert" className="w-full text-clay">
          {copy.message}
        </span>
      )}
      <Wrong error={ask.error ?? copies.error} />
    </>
  );
}
