import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";
import { client, failed, the } from "../../api/client";
import { useChange } from "../../api/hooks";
import { Wait, Wrong } from "../../parts/states";
import { t } from "../../texts";

/** Where somebody comes who has had enough of a mail that comes again and again. No sign-in. */
export function StopMail() {
  const { token = "" } = useParams();
  const at = { params: { path: { token } } };
  const known = useQuery({
    queryKey: ["stop", token],
    retry: false,
    queryFn: () => the(client.GET("/api/letters/stop/{token}", at)),
  });
  const [stopped, setStopped] = useState(false);
  const stop = useChange(() => the(client.POST("/api/letters/stop/{token}", at)), ["stop", token]);
  return (
    <main className="mx-auto w-full max-w-xl px-5 py-14">
      <h1 className="text-2xl">{t.news.stopTitle}</h1>
      {known.isPending ? (
        <Wait />
      ) : failed(known) ? (
        <p role="alert" className="mt-4">
          {known.error.message}
        </p>
      ) : (
        <>
          <p className="mt-4 font-serif text-lg">{known.data.called}</p>
          {stopped ? (
            <p role="status" className="mt-4">
              {t.news.stopped}
            </p>
          ) : (
            <button
              type="button"
              className="press press-main mt-5"
              disabled={stop.isPending}
              onClick={() => stop.mutate(undefined, { onSuccess: () => setStopped(true) })}
            >
              {t.news.stop}
            </button>
          )}
          <Wrong error={stop.error} />
        </>
      )}
    </main>
  );
}
