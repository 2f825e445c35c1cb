import { csrfToken } from "../api/client";
import { done, first, forget, waiting, type Letter } from "./keep";
import { Store } from "./store";

/** `took`: milliseconds from sending the last second of sound to knowing that it is kept. */
export interface Sending {
  waiting: number;
  lost: boolean;
  problem: string | null;
  took: number | null;
}

export const NOTHING_SENT: Sending = { waiting: 0, lost: false, problem: null, took: null };

/** Sends the outbox, oldest first; a letter is dropped only when the server has said that it has it. One tab at a time does this. */
export class Sender extends Store<Sending> {
  private running = false;
  private wake: (() => void) | undefined;

  constructor() {
    super(NOTHING_SENT);
  }

  /** There is something to send, or it is worth trying again. */
  poke() {
    if (!this.running) {
      this.running = true;
      void navigator.locks
        .request("aftershower-send", () => this.run())
        .finally(() => {
          this.running = false;
        });
    }
    this.wake?.();
  }

  private async run() {
    let pause = 500;
    for (;;) {
      const letter = await first();
      if (!letter) {
        this.set({ waiting: 0, lost: false, problem: null });
        // Keep the lock for a while: the next second is on its way.
        if (!(await this.rest(3000))) return;
        continue;
      }
      const began = performance.now();
      const outcome = await send(letter);
      if (outcome.sent) {
        await done(letter);
        pause = 500;
        this.set({
          waiting: await waiting(),
          lost: false,
          problem: null,
          ...(letter.kind === "chunk" ? { took: Math.round(performance.now() - began) } : {}),
        });
      } else if (outcome.gone) {
        await forget(letter.capture);
        this.set({ waiting: await waiting(), lost: false, problem: outcome.said });
      } else {
        this.set({ waiting: await waiting(), lost: outcome.said === null, problem: outcome.said });
        await this.rest(pause);
        pause = Math.min(pause * 2, 8000);
      }
    }
  }

  /** Wait; true when poked meanwhile. */
  private rest(milliseconds: number): Promise<boolean> {
    return new Promise((resolve) => {
      const later = setTimeout(() => resolve(false), milliseconds);
      this.wake = () => {
        clearTimeout(later);
        resolve(true);
      };
    });
  }
}

interface Outcome {
  sent: boolean;
  gone: boolean;
  said: string | null;
}

/** Send one letter and say what became of it: it is kept, its capture is gone, or it is to be tried again. */
export async function send(letter: Letter): Promise<Outcome> {
  try {
    const answer = await fetch(...(await asRequest(letter)));
    if (answer.ok) return { sent: true, gone: false, said: null };
    const said = await answer
      .json()
      .then((body: { detail?: string }) => body.detail ?? answer.statusText)
      .catch(() => answer.statusText);
    // A server that is being restarted, or one without room: the device keeps what it has.
    if (answer.status >= 500)
      return { sent: false, gone: false, said: answer.status === 507 ? said : null };
    // Of one moment the server keeps one still. Another of the same moment is dropped: no second of sound may wait behind a picture.
    if (letter.kind === "picture" && (answer.status === 409 || answer.status === 422))
      return { sent: true, gone: false, said: null };
    // The meeting was taken away, or the capture stopped for good elsewhere.
    return { sent: false, gone: answer.status === 404, said };
  } catch {
    return { sent: false, gone: false, said: null };
  }
}

async function asRequest(letter: Letter): Promise<[string, RequestInit]> {
  const at = `/api/captures/${letter.capture}`;
  const headers: Record<string, string> = {
    "X-CSRFToken": csrfToken(),
    "Content-Type": "application/json",
  };
  const json = (method: string, path: string, body: unknown): [string, RequestInit] => [
    at + path,
    { method, headers, body: JSON.stringify(body), signal: AbortSignal.timeout(20_000) },
  ];
  switch (letter.kind) {
    case "open":
      return json("PUT", `/stretches/${letter.stretch}`, {
        tracks: letter.tracks,
        begun_at: letter.begun,
      });
    case "end":
      return json("POST", `/stretches/${letter.stretch}/end`, {
        chunks: letter.chunks,
        reason: letter.reason,
      });
    case "strike":
      return json("POST", "/strike", { parts: letter.parts });
    case "stop":
      return json("POST", "/stop", {});
    case "chunk":
    case "picture": {
      const sha = new Uint8Array(await crypto.subtle.digest("SHA-256", letter.data));
      headers["Content-Digest"] = `sha-256=:${btoa(String.fromCharCode(...sha))}:`;
      headers["Content-Type"] = letter.kind === "chunk" ? "application/octet-stream" : "image/jpeg";
      const path = letter.kind === "chunk" ? `chunks/${letter.number}` : `pictures/${letter.at}`;
      return [
        `${at}/stretches/${letter.stretch}/${path}`,
        { method: "PUT", headers, body: letter.data, signal: AbortSignal.timeout(20_000) },
      ];
    }
  }
}
