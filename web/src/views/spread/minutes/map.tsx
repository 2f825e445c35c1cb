import { useQuery } from "@tanstack/react-query";
import { client, the, type Schemas } from "../../../api/client";
import { keys } from "../../../api/hooks";
import { Leaf } from "../../../parts/leaf";
import { Trouble, Wait } from "../../../parts/states";
import { clock } from "../../../parts/time";
import { useWalked } from "../../../parts/walked";
import { t } from "../../../texts";
import { useSpread } from "../context";

/** What is beside the drawing on a narrow screen: the leaf's own margins. */
const BESIDE = 72;
const WIDEST = 860;
/** Pixels a point: words are as large as elsewhere on the screen, and a line can be hit with a thumb. */
const SCALE = 1.5;
const NARROWEST = 240;
const FACES: Record<string, string> = {
  serif: "font-serif",
  "serif-bold": "font-serif font-bold",
  sans: "font-sans",
};

/** The map of the talk: every title and every finding leads to where it was said. */
export function TalkMap({ meeting, close }: { meeting: Schemas["MeetingOut"]; close: () => void }) {
  const room = Math.min(WIDEST, window.innerWidth - BESIDE) / SCALE;
  const width = Math.max(NARROWEST, Math.floor(room));
  const map = useQuery({
    queryKey: [...keys.minutes(meeting.id), "map", width],
    queryFn: () =>
      the(
        client.GET("/api/meetings/{meeting_id}/map", {
          params: { path: { meeting_id: meeting.id }, query: { width } },
        }),
      ),
  });
  return (
    <Leaf title={t.minutes.mapTitle} hint={t.minutes.mapHint} wide close={close}>
      {map.isPending && <Wait />}
      {map.error && <Trouble error={map.error} />}
      {map.data && <Drawn map={map.data} close={close} />}
      <p className="mt-4 flex flex-wrap items-center gap-3">
        {["svg", "png"].map((form) => (
          <a key={form} className="press" href={`/api/meetings/${meeting.id}/map.${form}`} download>
            {form.toUpperCase()}
          </a>
        ))}
        <button type="button" className="plain" onClick={close}>
          {t.minutes.close}
        </button>
      </p>
    </Leaf>
  );
}

function Drawn({ map, close }: { map: Schemas["MapOut"]; close: () => void }) {
  const { go } = useSpread();
  const names = map.words.flatMap((one, n) => (leads(one) ? [String(n)] : []));
  const walked = useWalked(names);
  const turnTo = (at: number) => {
    close();
    go(at);
  };
  return (
    <svg
      {...walked.list}
      width={map.width * SCALE}
      viewBox={`0 0 ${map.width} ${map.height}`}
      role="group"
      aria-label={t.minutes.mapTitle}
      className="mt-3 h-auto max-w-full"
    >
      {map.strokes.map((one, n) => (
        <polyline
          key={n}
          points={one.points.map((point) => point.join(",")).join(" ")}
          fill={one.width ? "none" : `var(--${one.colour})`}
          stroke={one.width ? `var(--${one.colour})` : "none"}
          strokeWidth={one.width}
          strokeDasharray={one.dashed ? "3 3" : undefined}
          strokeLinejoin="round"
          aria-hidden
        />
      ))}
      {map.words.map((one, n) => (
        <text
          key={n}
          x={one.x}
          y={one.y}
          fontSize={one.size}
          fill={`var(--${one.colour})`}
          className={`${FACES[one.face]} ${leads(one) ? "cursor-pointer hover:underline" : ""}`}
          {...(leads(one)
            ? {
                ...walked.item(String(n)),
                role: "button",
                "aria-label": t.minutes.mapAt({ text: one.text, time: clock(one.at) }),
                onClick: () => turnTo(one.at),
                onKeyDown: (event) => {
                  if (event.key !== "Enter" && event.key !== " ") return;
                  event.preventDefault();
                  turnTo(one.at);
                },
              }
            : {})}
        >
          {one.text}
        </text>
      ))}
    </svg>
  );
}

type Leading = Schemas["MapWordsOut"] & { at: number };
const leads = (one: Schemas["MapWordsOut"]): one is Leading =>
  one.at !== null && one.face !== "sans";
