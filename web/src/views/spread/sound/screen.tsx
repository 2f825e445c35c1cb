import type { Schemas } from "../../../api/client";
import { clock } from "../../../parts/time";
import { t } from "../../../texts";
import { usePlaying, type Player } from "./player";

export type Picture = Schemas["PictureOut"];

/** The index of the picture shown at a second, -1 before the first. */
export const pictureAt = (pictures: Picture[], seconds: number) =>
  pictures.findLastIndex((one) => one.start <= seconds + 0.05);

/** What the shared screen showed, in step with the sound; one steps through it as through slides. */
export function Screen({
  meeting,
  pictures,
  player,
  go,
}: {
  meeting: string;
  pictures: Picture[];
  player: Player | null;
  go: (seconds: number) => void;
}) {
  const index = usePlaying(player, (one) => Math.max(0, pictureAt(pictures, one.time)), 0);
  const shown = pictures[index];
  if (!shown) return null;
  const address = `/api/meetings/${meeting}/pictures/${shown.id}.jpg`;
  return (
    <figure
      aria-label={t.spread.screen}
      className="flex shrink-0 items-end gap-4 border-b border-rule px-5 py-3 sm:px-7"
    >
      <a
        href={address}
        target="_blank"
        rel="noreferrer"
        title={t.spread.screenWhole}
        className="block min-w-0 grow"
      >
        <img
          src={address}
          alt={[t.spread.screenAt({ time: clock(shown.start) }), shown.text]
            .filter(Boolean)
            .join(": ")}
          className="max-h-52 max-w-full border border-rule object-contain"
        />
      </a>
      <figcaption className="shrink-0 text-right text-sm text-faded">
        <p>
          {t.spread.screenOf({ n: index + 1, of: pictures.length })}
          <br />
          {clock(shown.start)}
        </p>
        {shown.title && <p className="mt-1 max-w-48 font-serif text-ink">{shown.title}</p>}
        <p className="mt-1 flex flex-col items-end gap-1">
          <button
            type="button"
            disabled={index === 0}
            className="plain text-sm"
            onClick={() => go(pictures[index - 1]!.start)}
          >
            {t.spread.screenBefore}
          </button>
          <button
            type="button"
            disabled={index === pictures.length - 1}
            className="plain text-sm"
            onClick={() => go(pictures[index + 1]!.start)}
          >
            {t.spread.screenNext}
          </button>
        </p>
      </figcaption>
    </figure>
  );
}
