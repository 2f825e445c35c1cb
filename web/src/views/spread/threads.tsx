import { useLayoutEffect, useRef, useState, type RefObject } from "react";

/** The gutter's threads: from each lit line of the minutes to the lit lines of the record that are in sight. */
export function Threads({
  minutesIds,
  lines,
  pages,
}: {
  minutesIds: readonly number[];
  lines: readonly number[];
  pages: RefObject<HTMLDivElement | null>;
}) {
  const gutter = useRef<SVGSVGElement>(null);
  const [paths, setPaths] = useState<string[]>([]);
  useLayoutEffect(() => {
    const root = pages.current;
    const svg = gutter.current;
    if (!root || !svg || !minutesIds.length || !lines.length) return setPaths([]);
    const draw = () => {
      const box = svg.getBoundingClientRect();
      const height = (selector: string) => {
        const found = root.querySelector(selector)?.getBoundingClientRect();
        return found && found.top >= box.top - 4 && found.top <= box.bottom - 8
          ? found.top - box.top + Math.min(found.height / 2, 12)
          : null;
      };
      setPaths(
        minutesIds.flatMap((id) =>
          lines.flatMap((line) => {
            const [from, to] = [height(`[data-minutes="${id}"]`), height(`[data-line="${line}"]`)];
            return from === null || to === null
              ? []
              : [
                  `M0 ${from}C${box.width * 0.6} ${from} ${box.width * 0.4} ${to} ${box.width} ${to}`,
                ];
          }),
        ),
      );
    };
    draw();
    root.addEventListener("scroll", draw, true);
    return () => root.removeEventListener("scroll", draw, true);
  }, [minutesIds, lines, pages]);
  return (
    <svg ref={gutter} aria-hidden className="h-full w-full text-brass">
      {paths.map((path) => (
        <path key={path} d={path} fill="none" stroke="currentColor" strokeWidth="1.5" />
      ))}
    </svg>
  );
}
