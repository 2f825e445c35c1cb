import { useCallback, useRef, useState } from "react";
import * as tus from "tus-js-client";
import { csrfToken } from "../../api/client";
import { t } from "../../texts";

export const LARGEST = 4 * 1024 ** 3;
const PIECE = 8 * 1024 ** 2;

export interface Arriving { file: File; percent: number; id: string | null; paused: boolean; error: string | null }

/** Sends a file by the tus protocol: a piece at a time, going on by itself after a lost connection. */
export function useUpload() {
  const [arriving, setArriving] = useState<Arriving | null>(null);
  const upload = useRef<tus.Upload | null>(null);
  const change = (fields: Partial<Arriving>) => setArriving((now) => (now ? { ...now, ...fields } : now));

  const start = useCallback((file: File) => {
    void upload.current?.abort();
    if (file.size > LARGEST || file.size === 0) {
      setArriving({ file, percent: 0, id: null, paused: false, error: file.size ? t.give.tooLarge : t.give.empty });
      return;
    }
    setArriving({ file, percent: 0, id: null, paused: false, error: null });
    const sending = new tus.Upload(file, {
      endpoint: "/api/uploads", chunkSize: PIECE, metadata: { filename: file.name }, retryDelays: [500, 1000, 2000, 4000, 8000, 15000, 30000, 60000],
      removeFingerprintOnSuccess: true,
      onBeforeRequest: (request) => { request.setHeader("X-CSRFToken", csrfToken()); },
      onProgress: (sent, whole) => change({ percent: Math.min(99, Math.floor((100 * sent) / whole)), error: null }),
      onShouldRetry: (error) => {
        const status = error.originalResponse?.getStatus() ?? 0;
        if (status === 0) change({ error: t.give.lost });
        return status === 0 || status >= 500 && status !== 507;
      },
      onSuccess: () => change({ percent: 100, id: sending.url!.split("/").pop()!, error: null }),
      onError: (error) => change({ error: said(error) }),
    });
    upload.current = sending;
    void sending.findPreviousUploads().then((before) => {
      if (before[0]) sending.resumeFromPreviousUpload(before[0]);
      sending.start();
    });
  }, []);
  const pause = () => { void upload.current?.abort(); change({ paused: true }); };
  const resume = () => { upload.current?.start(); change({ paused: false, error: null }); };
  const clear = () => { void upload.current?.abort(true).catch(() => undefined); upload.current = null; setArriving(null); };
  return { arriving, start, pause, resume, clear };
}

function said(error: Error | tus.DetailedError): string {
  const body = "originalResponse" in error ? error.originalResponse?.getBody() : undefined;
  try {
    return (JSON.parse(body ?? "") as { detail: string }).detail;
  } catch {
    return t.give.lost;
  }
}
