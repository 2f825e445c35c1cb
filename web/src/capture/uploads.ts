import * as tus from "tus-js-client";
import { client, csrfToken, type Schemas } from "../api/client";
import { t } from "../texts";
import { Store, useStore } from "./store";
import { proposeTitle } from "../views/give/when";

export const LARGEST = 4 * 1024 ** 3;
const PIECE = 2 * 1024 ** 2;
const AT_ONCE = 2;

/** A file on its way. `id` once it has arrived; `about` what the server then knows of it; `lasts` its length as the browser reads it. */
export interface Arriving {
  key: number;
  file: File;
  percent: number;
  id: string | null;
  state: "waiting" | "sending" | "paused" | "failed" | "arrived";
  error: string | null;
  about: Schemas["AboutOut"] | null;
  lasts: number | null;
  /** What somebody has said of it so far; kept while they are on another page. */
  said: Said;
}

/** What a file is. `when` and the title are proposed until somebody says otherwise. */
export interface Said {
  title: string;
  when: string | null;
  people: string[];
  series: string;
  language: string;
  second: string;
  voices: string;
  terms: string;
  /** null: as is usual. */
  seen: Schemas["Visibility"] | null;
}

/** The files on their way to the server, a few at a time; they go on while one is on another page. */
export class Uploads extends Store<{ all: readonly Arriving[] }> {
  private sending = new Map<number, tus.Upload>();
  private last = 0;

  constructor() {
    super({ all: [] });
  }

  add(files: Iterable<File>) {
    for (const file of files) {
      const wrong = file.size === 0 ? t.give.empty : file.size > LARGEST ? t.give.tooLarge : null;
      const key = ++this.last;
      this.set({
        all: [
          ...this.state.all,
          {
            key,
            file,
            percent: 0,
            id: null,
            state: wrong ? "failed" : "waiting",
            error: wrong,
            about: null,
            lasts: null,
            said: {
              title: proposeTitle(file.name),
              when: null,
              people: [],
              series: "",
              language: "",
              second: "",
              voices: "",
              terms: "",
              seen: null,
            },
          },
        ],
      });
      void lengthOf(file).then((lasts) => this.change(key, { lasts }));
    }
    this.next();
  }

  pause(key: number) {
    void this.sending.get(key)?.abort();
    this.change(key, { state: "paused" });
    this.next();
  }

  resume(key: number) {
    this.change(key, { state: "waiting", error: null });
    this.next();
  }

  /** More of what a file is. */
  say(key: number, more: Partial<Said>) {
    const one = this.state.all.find((each) => each.key === key);
    if (one) this.change(key, { said: { ...one.said, ...more } });
  }

  /** Off the list; what has arrived of it and was not taken is given up. */
  drop(key: number, taken = false) {
    if (!taken)
      void this.sending
        .get(key)
        ?.abort(true)
        .catch(() => undefined);
    this.sending.delete(key);
    this.set({ all: this.state.all.filter((one) => one.key !== key) });
    this.next();
  }

  private next() {
    const busy = this.state.all.filter((one) => one.state === "sending").length;
    for (const one of this.state.all
      .filter((each) => each.state === "waiting")
      .slice(0, AT_ONCE - busy))
      this.start(one);
  }

  private start({ key, file }: Arriving) {
    this.change(key, { state: "sending" });
    const known = this.sending.get(key);
    if (known) return known.start();
    const sending = new tus.Upload(file, {
      endpoint: "/api/uploads",
      chunkSize: PIECE,
      metadata: { filename: file.name },
      retryDelays: [500, 1000, 2000, 4000, 8000, 15000, 30000, 60000],
      removeFingerprintOnSuccess: true,
      onBeforeRequest: (request) => {
        request.setHeader("X-CSRFToken", csrfToken());
      },
      onProgress: (sent, whole) =>
        this.change(key, { percent: Math.min(99, Math.floor((100 * sent) / whole)), error: null }),
      onShouldRetry: (error) => {
        const status = error.originalResponse?.getStatus() ?? 0;
        if (status === 0) this.change(key, { error: t.give.lost });
        return status === 0 || (status >= 500 && status !== 507);
      },
      onSuccess: () => {
        const id = sending.url!.split("/").pop()!;
        this.change(key, { percent: 100, id, state: "arrived", error: null });
        void client
          .GET("/api/uploads/{upload_id}/about", { params: { path: { upload_id: id } } })
          .then(({ data }) => {
            if (data) this.change(key, { about: data });
          });
        this.next();
      },
      onError: (error) => {
        this.change(key, { error: said(error), state: "failed" });
        this.next();
      },
    });
    this.sending.set(key, sending);
    void sending.findPreviousUploads().then((before) => {
      if (before[0]) sending.resumeFromPreviousUpload(before[0]);
      sending.start();
    });
  }

  private change(key: number, fields: Partial<Arriving>) {
    this.set({ all: this.state.all.map((one) => (one.key === key ? { ...one, ...fields } : one)) });
  }
}

export const uploads = new Uploads();
export const useUploads = () => useStore(uploads).all;

/** Seconds a recording lasts, as far as the browser can read it. */
function lengthOf(file: File): Promise<number | null> {
  if (!/^(audio|video)\//.test(file.type)) return Promise.resolve(null);
  return new Promise((resolve) => {
    const player = document.createElement("video");
    const over = (seconds: number | null) => {
      URL.revokeObjectURL(player.src);
      resolve(seconds);
    };
    player.preload = "metadata";
    player.onloadedmetadata = () => over(Number.isFinite(player.duration) ? player.duration : null);
    player.onerror = () => over(null);
    player.src = URL.createObjectURL(file);
  });
}

function said(error: Error | tus.DetailedError): string {
  const body = "originalResponse" in error ? error.originalResponse?.getBody() : undefined;
  try {
    return (JSON.parse(body ?? "") as { detail: string }).detail;
  } catch {
    return t.give.lost;
  }
}
