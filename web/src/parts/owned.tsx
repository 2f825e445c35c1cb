import { useSay } from "./sayings";

/** What somebody can do with something of their own: share it or keep it to themselves, and take it away, which can be undone. */
export function Owned({
  shared,
  mayShare,
  change,
  words,
}: {
  shared: boolean;
  mayShare: boolean;
  change: (to: { shared?: boolean; removed?: boolean }, then?: { onSuccess?: () => void }) => void;
  words: { share: string; unshare: string; remove: string; removed: string };
}) {
  const say = useSay();
  return (
    <>
      {mayShare && (
        <button type="button" className="plain text-xs" onClick={() => change({ shared: !shared })}>
          {shared ? words.unshare : words.share}
        </button>
      )}
      <button
        type="button"
        className="plain text-xs"
        onClick={() =>
          change(
            { removed: true },
            { onSuccess: () => say(words.removed, () => change({ removed: false })) },
          )
        }
      >
        {words.remove}
      </button>
    </>
  );
}
