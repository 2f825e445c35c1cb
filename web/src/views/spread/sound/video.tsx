import { useEffect, useRef, useState } from "react";
import { t } from "../../../texts";
import type { Player } from "./player";

const DRIFT = 0.25; // seconds by which picture and sound may differ before the picture is put right
const HEIGHTS = ["max-h-32", "max-h-52", "max-h-80", "max-h-[28rem]"];

/** The recording's picture, in step with the sound one listens to; black where something was struck. */
export function Video({
  meeting,
  player,
  struck,
  away,
}: {
  meeting: string;
  player: Player;
  struck: { start: number; end: number }[];
  away: () => void;
}) {
  const video = useRef<HTMLVideoElement>(null);
  const [size, setSize] = useState(() => Number(localStorage.getItem("picture") ?? 1));
  const resize = (to: number) => {
    setSize(to);
    localStorage.setItem("picture", String(to));
  };
  useEffect(() => {
    const follow = () => {
      const picture = video.current;
      if (!picture) return;
      picture.playbackRate = player.audio.playbackRate;
      if (Math.abs(picture.currentTime - player.time) > DRIFT) picture.currentTime = player.time;
      if (player.audio.paused !== picture.paused)
        void (player.audio.paused ? picture.pause() : picture.play().catch(() => undefined));
      picture.style.visibility = struck.some(
        (gap) => gap.start <= player.time && player.time < gap.end,
      )
        ? "hidden"
        : "visible";
    };
    const leave = player.subscribe(follow);
    follow();
    return () => {
      leave();
    };
  }, [player, struck]);
  return (
    <figure
      aria-label={t.passages.videoOf}
      className="flex shrink-0 items-end gap-4 border-b border-rule px-5 py-3 sm:px-7"
    >
      <video
        ref={video}
        src={`/api/meetings/${meeting}/video`}
        muted
        playsInline
        preload="metadata"
        aria-label={t.passages.videoOf}
        className={`min-w-0 grow bg-black object-contain ${HEIGHTS[size] ?? HEIGHTS[1]}`}
        onLoadedMetadata={() => {
          if (video.current) video.current.currentTime = player.time;
        }}
      />
      <figcaption className="flex shrink-0 flex-col items-end gap-1 text-sm">
        <button
          type="button"
          className="plain text-sm"
          disabled={size >= HEIGHTS.length - 1}
          onClick={() => resize(size + 1)}
        >
          {t.passages.larger}
        </button>
        <button
          type="button"
          className="plain text-sm"
          disabled={size <= 0}
          onClick={() => resize(size - 1)}
        >
          {t.passages.smaller}
        </button>
        <button type="button" className="plain text-sm" onClick={away}>
          {t.passages.away}
        </button>
      </figcaption>
    </figure>
  );
}

export const placeKey = (meeting: string) => `place-${meeting}`;

/** Where one was in a recording, kept on this device; nothing of what is said is. */
export function usePlace(meeting: string, player: Player | null): void {
  useEffect(() => {
    if (!player) return;
    const keep = () => {
      if (player.time > 3) localStorage.setItem(placeKey(meeting), player.time.toFixed(1));
    };
    const now = setInterval(() => {
      if (!player.audio.paused) keep();
    }, 4000);
    window.addEventListener("pagehide", keep);
    return () => {
      clearInterval(now);
      window.removeEventListener("pagehide", keep);
      keep();
    };
  }, [meeting, player]);
}

/** The second at which one left off; null where one was at the beginning or the end. */
export function keptPlace(meeting: string, duration: number): number | null {
  const kept = Number(localStorage.getItem(placeKey(meeting)));
  return kept > 3 && kept < duration - 5 ? kept : null;
}
