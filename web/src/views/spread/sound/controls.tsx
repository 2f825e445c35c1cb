import { useEffect, useState, type ReactNode } from "react";
import { clock } from "../../../parts/time";
import { t } from "../../../texts";
import { useSpread } from "../context";
import { SPEEDS, usePlaying, type Player } from "./player";

/** Play, speed, whether the record follows the sound and silences are passed over. */
export function Controls({ player, children }: { player: Player; children?: ReactNode }) {
  const { meeting, follow, setFollow } = useSpread();
  const playing = usePlaying(player, (one) => !one.audio.paused, false);
  const seconds = usePlaying(player, (one) => Math.floor(one.time), 0);
  const rate = usePlaying(player, (one) => one.audio.playbackRate, 1);
  const [skip, setSkip] = useState(() => localStorage.getItem("skip") === "1");
  useEffect(() => {
    player.skipping = skip;
    localStorage.setItem("skip", skip ? "1" : "0");
  }, [player, skip]);
  return (
    <div className="flex items-center gap-4 border-t border-rule bg-paper px-4 py-2 sm:px-6">
      <button
        type="button"
        className="press press-main min-w-20 justify-center"
        onClick={() => player.toggle()}
      >
        {playing ? t.spread.pause : t.spread.play}
      </button>
      <span className="text-sm">
        {clock(seconds)} <span className="text-faded">/ {clock(meeting.duration)}</span>
      </span>
      <label className="flex items-center gap-2 text-sm text-faded max-sm:hidden">
        {t.spread.speed}
        <select
          className="field w-auto py-0.5 text-ink"
          value={rate}
          onChange={(event) => {
            player.speed = Number(event.target.value);
          }}
        >
          {SPEEDS.map((speed) => (
            <option key={speed} value={speed}>
              {speed} ×
            </option>
          ))}
        </select>
      </label>
      <Tick label={t.spread.follow} on={follow} set={setFollow} />
      <span className="max-sm:hidden">
        <Tick label={t.passages.skip} on={skip} set={setSkip} />
      </span>
      {children}
    </div>
  );
}

export function Tick({
  label,
  on,
  set,
}: {
  label: string;
  on: boolean;
  set: (on: boolean) => void;
}) {
  return (
    <label className="flex items-center gap-2 text-sm">
      <input
        type="checkbox"
        checked={on}
        onChange={(event) => set(event.target.checked)}
        className="size-4 accent-slate"
      />
      {label}
    </label>
  );
}
