import { memo, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Schemas } from "../../../api/client";
import { useNotes } from "../../../api/hooks";
import { Glyph, type Kind } from "../../../parts/glyph";
import { clock, showDay } from "../../../parts/time";
import { t } from "../../../texts";
import { LOW, TWO_PAGES, useMedia } from "../../../parts/media";
import { useSpread, type Shared } from "../context";
import { usePlaying, type Player } from "../sound/player";
import type { Picture } from "../sound/screen";
import { VoiceName } from "../voice";
import type { Named } from "./named";

const LANE = 24; // as high as a target for the finger has to be
const MANY = 6; // voices from which the strip would take the page from the record
const FEW = 2; // the same where the screen is low
const APART = 1 / 110; // of the axis: glyphs nearer than this to each other hide one another
const SHORT = 1 / 60; // of the axis: in a chapter shorter than this no title can be read

interface Props {
  named: readonly Named[];
  pictures: readonly Picture[];
  minutes: Schemas["MinutesOut"] | undefined;
  hits: { number: number; start: number }[];
  struck: Schemas["StruckSpanOut"][];
}

function glyphOf(finding: Schemas["FindingOut"]): Kind {
  return finding.kind === "action" && finding.done ? "done" : finding.kind;
}

/** Things along the axis, those that would hide one another put together: each lot at the place of its first. */
export function lots<One extends { kind: string; start: number }>(
  all: readonly One[],
  whole: number,
): One[][] {
  const found: One[][] = [];
  const last = new Map<string, One[]>();
  for (const one of all) {
    const lot = last.get(one.kind);
    if (lot && one.start - lot[0]!.start < APART * whole) lot.push(one);
    else {
      const begun = [one];
      found.push(begun);
      last.set(one.kind, begun);
    }
  }
  return found;
}

/** The rain strip: the meeting's time axis as a hyetograph, one fine lane a voice, with findings, chapters and the wiper. Where it would take
 * the page from the record it is a third as high and without its words, and opens over the pages while one is at it, so that nothing moves. */
export function RainStrip(props: Props) {
  const { meeting, player, go } = useSpread();
  // How high the folded strip is, while the whole one lies over it; null: it is folded.
  const [kept, setKept] = useState<number | null>(null);
  const twoPages = useMedia(TWO_PAGES);
  const low = useMedia(LOW);
  const folds = twoPages && meeting.strip.length > (low ? FEW : MANY);
  const lanes = (folded: boolean) => <Lanes {...props} {...{ meeting, player, go, folded }} />;
  if (!folds) return <div className="mt-3">{lanes(false)}</div>;
  const open = ({ currentTarget }: { currentTarget: HTMLElement }) =>
    setKept((old) => old ?? currentTarget.offsetHeight);
  return (
    <div
      className="relative mt-2"
      style={{ height: kept ?? undefined }}
      onPointerEnter={open}
      onPointerLeave={() => setKept(null)}
      onFocus={open}
      onBlur={() => setKept(null)}
    >
      <div
        className={
          kept === null
            ? ""
            : "absolute -inset-x-3 -top-2 z-30 rounded-sm border border-rule bg-paper px-3 pt-2 pb-1 shadow-lg"
        }
      >
        {lanes(kept === null)}
      </div>
    </div>
  );
}

const Lanes = memo(function Lanes({
  named,
  pictures,
  meeting,
  minutes,
  hits,
  struck,
  player,
  go,
  folded,
}: Props & Pick<Shared, "meeting" | "player" | "go"> & { folded: boolean }) {
  const lane = folded ? LANE / 3 : LANE;
  const whole = Math.max(meeting.duration, 1);
  const voices = new Map(meeting.voices.map((voice) => [voice.id, voice]));
  const most = Math.max(120, ...meeting.strip.flatMap((lane) => lane.bars));
  const share = (seconds: number) => `${Math.min(100, (100 * seconds) / whole)}%`;
  const chapters = useMemo(
    () =>
      (minutes?.chapters ?? []).filter(
        (chapter, index, all) => (all[index + 1]?.start ?? whole) - chapter.start > SHORT * whole,
      ),
    [minutes, whole],
  );
  const marks = useNotes(meeting.id).data?.marks ?? [];
  const shown = useMemo(
    () =>
      lots(
        (minutes?.findings ?? [])
          .filter((finding) => ["decision", "action", "question"].includes(finding.kind))
          .map((finding) => ({
            ...finding,
            kind: glyphOf(finding),
          })),
        whole,
      ),
    [minutes, whole],
  );
  return (
    <section
      aria-label={t.spread.strip}
      className="grid grid-cols-[1fr] gap-x-3 sm:grid-cols-[8.5rem_1fr]"
    >
      <span className="max-sm:hidden" />
      <div
        className={`relative flex text-xs text-faded italic font-serif max-sm:hidden ${folded ? "invisible h-1" : "h-6"}`}
      >
        {chapters.map((chapter, index) => (
          // For the pointer: by keyboard the chapters are walked in the minutes.
          <button
            key={chapter.start}
            type="button"
            tabIndex={-1}
            title={chapter.title}
            onClick={() => go(chapter.start)}
            className="absolute inset-y-0 min-w-6 truncate border-l border-edge pl-1 text-left hover:text-ink"
            style={{
              left: share(chapter.start),
              width: `calc(${share((chapters[index + 1]?.start ?? whole) - chapter.start)} - 2px)`,
            }}
          >
            {chapter.title}
          </button>
        ))}
      </div>
      <ul className={`max-sm:hidden ${folded ? "invisible" : ""}`}>
        {meeting.strip.map(({ voice }) => (
          <li
            key={voice}
            className="truncate text-right text-xs"
            style={{ height: lane, lineHeight: `${lane}px` }}
          >
            <VoiceName meeting={meeting} voice={voices.get(voice)!} />
          </li>
        ))}
      </ul>
      <Axis meeting={meeting} player={player} go={go} whole={whole}>
        <svg
          viewBox={`0 0 ${(meeting.strip[0]?.bars.length ?? 1) * 4} ${Math.max(1, meeting.strip.length) * LANE}`}
          preserveAspectRatio="none"
          className="block w-full text-slate"
          style={{ height: Math.max(1, meeting.strip.length) * lane }}
          aria-hidden
        >
          {meeting.strip.map(({ voice, bars }, row) => (
            <g key={voice}>
              <path
                d={`M0 ${(row + 1) * LANE - 0.5}H${bars.length * 4}`}
                className="stroke-rule"
                strokeWidth="1"
              />
              <path
                fill="currentColor"
                d={bars
                  .map((bar, index) =>
                    bar
                      ? `M${index * 4} ${(row + 1) * LANE - 1}h3v-${Math.max(1, (bar / most) * (LANE - 3)).toFixed(1)}h-3z`
                      : "",
                  )
                  .join("")}
              />
            </g>
          ))}
        </svg>
        {/* Somebody is named by another: a ring in their own lane. */}
        {meeting.strip.flatMap(({ voice }, row) =>
          named
            .filter((one) => one.voice === voice)
            .map((one) => (
              <span
                key={`${voice} ${one.start}`}
                aria-hidden
                title={t.spread.namedAt({ name: one.name, time: clock(one.start) })}
                className="absolute size-1.5 -translate-x-1/2 rounded-full border border-puddle bg-paper"
                style={{ left: share(one.start), top: row * lane + (folded ? 0 : 3) }}
              />
            )),
        )}
        {/* What the screen shows from there on. */}
        {pictures.map((one) => (
          <span
            key={one.id}
            aria-hidden
            title={t.spread.screenFrom({ title: one.title, time: clock(one.start) })}
            className="absolute -top-1.5 h-1.5 w-2.5 border border-edge bg-sheet"
            style={{ left: share(one.start) }}
          />
        ))}
        {/* Off the record: a gap in the rain, hatched like a page torn out. */}
        {meeting.gaps
          .filter((gap) => gap.length !== null && gap.at > 0 && gap.at < whole)
          .map((gap) => (
            <span
              key={gap.at}
              title={
                gap.reason === "sleep"
                  ? t.live.sleepGap({ time: clock(gap.length!) })
                  : t.live.gap({ time: clock(gap.length!) })
              }
              className="hatched absolute inset-y-0 w-1.5 -translate-x-1/2"
              style={{ left: share(gap.at) }}
            />
          ))}
        {struck.map((gap) => (
          <span
            key={gap.start}
            title={t.passages.gap({
              time: clock(gap.end - gap.start),
              by: gap.by ?? "–",
              day: showDay(gap.at),
            })}
            className="hatched absolute inset-y-0 min-w-1"
            style={{ left: share(gap.start), width: share(Math.min(whole, gap.end) - gap.start) }}
          />
        ))}
        {/* Where what is looked for is said. By keyboard the hits are walked in the record. */}
        {hits.map((line) => (
          <span
            key={line.number}
            aria-hidden
            className="absolute -top-1 bottom-0 w-px bg-brass"
            style={{ left: share(line.start) }}
          />
        ))}
        {/* How loud it is, under what is said: sound without bars above it is noise, not talk. */}
        {meeting.recording && meeting.recording.peaks.length > 0 && (
          <svg
            viewBox={`0 0 ${meeting.recording.peaks.length} 1`}
            preserveAspectRatio="none"
            className="block h-2 w-full text-edge"
            aria-hidden
          >
            <path
              fill="currentColor"
              d={meeting.recording.peaks
                .map(
                  (peak, index) =>
                    `M${index} ${(0.5 - peak / 2).toFixed(3)}h1v${Math.max(0.02, peak).toFixed(3)}h-1z`,
                )
                .join("")}
            />
          </svg>
        )}
      </Axis>
      <span className="max-sm:hidden" />
      <div className="relative h-5">
        {marks.map((mark) => (
          // For the pointer only, as the findings are: by keyboard a mark is reached among the notes.
          <span
            key={mark.id}
            aria-hidden
            title={`${t.notes.mark}: ${mark.kind} (${clock(mark.start)})`}
            onClick={() => go(mark.start)}
            className="absolute top-0 h-5 min-w-1.5 cursor-pointer bg-brass/25 hover:bg-brass/50"
            style={{ left: share(mark.start), width: share(mark.end - mark.start) }}
          />
        ))}
        {shown.map((lot) => (
          // For the pointer only: by keyboard the same findings are reached in the minutes.
          <span
            key={lot[0]!.id}
            aria-hidden
            title={lot
              .map(
                (finding) =>
                  `${t.spread.kinds[finding.kind]}: ${finding.text} (${clock(finding.start)})`,
              )
              .join("\n")}
            onClick={() => go(lot[0]!.start)}
            className="absolute top-0.5 -translate-x-1/2 cursor-pointer"
            style={{ left: share(lot[0]!.start) }}
          >
            <Glyph kind={lot[0]!.kind} size={14} />
          </span>
        ))}
      </div>
    </section>
  );
});

function Axis({
  meeting,
  player,
  go,
  whole,
  children,
}: {
  meeting: Schemas["MeetingOut"];
  player: Player | null;
  go: (seconds: number) => void;
  whole: number;
  children: React.ReactNode;
}) {
  const time = usePlaying(player, (one) => one.time, 0);
  const box = useRef<HTMLDivElement>(null);
  const at = (event: PointerEvent) => {
    const { left, width } = box.current!.getBoundingClientRect();
    return Math.min(1, Math.max(0, (event.clientX - left) / width)) * whole;
  };
  const press = (event: KeyboardEvent) => {
    const step = { ArrowLeft: -5, ArrowRight: 5, PageDown: -30, PageUp: 30 }[event.key];
    const target =
      step !== undefined
        ? time + step
        : event.key === "Home"
          ? 0
          : event.key === "End"
            ? whole - 1
            : null;
    if (target !== null) {
      event.preventDefault();
      go(Math.min(whole, Math.max(0, target)));
    }
  };
  return (
    <div
      ref={box}
      role="slider"
      tabIndex={0}
      aria-label={t.spread.position}
      aria-valuemin={0}
      aria-valuemax={Math.round(meeting.duration)}
      aria-valuenow={Math.round(time)}
      aria-valuetext={clock(time)}
      className="relative cursor-pointer touch-none"
      onKeyDown={press}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        go(at(event));
      }}
      onPointerMove={(event) => {
        if (event.currentTarget.hasPointerCapture(event.pointerId)) go(at(event));
      }}
    >
      {children}
      {/* The wiper: it hangs from the foot of the strip and leans a little, as on a windscreen. */}
      {player && (
        <span
          aria-hidden
          className="pointer-events-none absolute -top-1 -bottom-1 w-0.5 origin-bottom -rotate-3 bg-brass"
          style={{ left: `${(100 * time) / whole}%` }}
        >
          <span className="absolute -bottom-1 -left-1 size-2.5 rounded-full bg-brass" />
        </span>
      )}
    </div>
  );
}
