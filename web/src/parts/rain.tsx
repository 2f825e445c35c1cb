import type { Schemas } from "../api/client";

/** The strip in small, for a row: one fine lane a voice, bar height = words a minute. */
export function SmallRain({ strip }: { strip: Schemas["LaneOut"][] }) {
  const most = Math.max(60, ...strip.flatMap((lane) => lane.bars));
  const lane = 9;
  const bins = strip[0]?.bars.length ?? 48;
  return (
    <svg
      viewBox={`0 0 ${bins * 3} ${Math.max(1, strip.length) * lane}`}
      preserveAspectRatio="none"
      aria-hidden
      className="h-9 w-full text-slate"
    >
      {strip.map(({ voice, bars }, row) => (
        <path
          key={voice}
          fill="currentColor"
          d={bars
            .map((bar, index) =>
              bar
                ? `M${index * 3} ${(row + 1) * lane - 1}h2v-${Math.max(0.8, (bar / most) * (lane - 1.5)).toFixed(1)}h-2z`
                : "",
            )
            .join("")}
        />
      ))}
    </svg>
  );
}
