import type { Level } from "../capture/tap";
import { t } from "../texts";

const BARS = 24;

/** How loud it is: rain that rises in a gauge. From -60 dBFS to full. */
export function LevelGauge({ level, label }: { level: Level | null; label: string }) {
  const share =
    level && level.rms > 0 ? Math.max(0, Math.min(1, (20 * Math.log10(level.rms) + 60) / 54)) : 0;
  const lit = Math.round(share * BARS);
  return (
    <div
      role="meter"
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(share * 100)}
      aria-valuetext={lit < 3 ? t.capture.quiet : lit > 21 ? t.capture.loud : t.capture.good}
      className="flex h-8 items-end gap-[3px]"
    >
      {Array.from({ length: BARS }, (_, index) => (
        <span
          key={index}
          className={`w-[5px] ${index < lit ? (index > 21 ? "bg-clay" : "bg-slate") : "bg-rule"}`}
          style={{ height: `${30 + (70 * index) / BARS}%` }}
        />
      ))}
    </div>
  );
}
