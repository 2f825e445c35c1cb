import { client, failed, the } from "../../api/client";
import { keys, useChange, useReminders } from "../../api/hooks";
import { copyText } from "../../parts/copy";
import { Leaf } from "../../parts/leaf";
import { useSay } from "../../parts/sayings";
import { Trouble, Wait, Wrong } from "../../parts/states";
import { t } from "../../texts";

/** What one is reminded of by mail, and the address at which one's calendar follows what is open. */
export function RemindersLeaf({ close }: { close: () => void }) {
  const say = useSay();
  const known = useReminders();
  const wish = useChange(
    (body: { before: boolean; after: boolean }) => the(client.PUT("/api/reminders", { body })),
    keys.reminders,
  );
  const begin = useChange(() => the(client.POST("/api/reminders/feed")), keys.reminders);
  const end = useChange(() => the(client.DELETE("/api/reminders/feed")), keys.reminders);
  const inside = () => {
    if (failed(known)) return <Trouble error={known.error} again={() => void known.refetch()} />;
    if (known.isPending) return <Wait />;
    const { before, after, feed } = known.data;
    return (
      <>
        <ul className="mt-1">
          {(["before", "after"] as const).map((when) => (
            <li key={when}>
              <label className="flex items-center gap-2 py-1.5">
                <input
                  type="checkbox"
                  className="size-4 accent-slate"
                  checked={known.data[when]}
                  onChange={(event) => wish.mutate({ before, after, [when]: event.target.checked })}
                />
                {t.ledger[when]}
              </label>
            </li>
          ))}
        </ul>
        <h3 className="mt-4 text-base">{t.ledger.feedTitle}</h3>
        <p className="mt-1 text-sm text-faded">{t.ledger.feedHint}</p>
        {feed && (
          <p className="mt-2 flex items-center gap-3">
            <input
              readOnly
              aria-label={t.ledger.feedTitle}
              className="field min-w-0 grow"
              value={feed}
            />
            <button
              type="button"
              className="press"
              onClick={() => void copyText(feed).then(() => say(t.ledger.copied))}
            >
              {t.ledger.copy}
            </button>
          </p>
        )}
        <p className="mt-3 flex gap-3">
          <button type="button" className="press" onClick={() => begin.mutate(undefined)}>
            {feed ? t.ledger.newFeed : t.ledger.openFeed}
          </button>
          {feed && (
            <button
              type="button"
              className="plain"
              onClick={() => end.mutate(undefined, { onSuccess: () => say(t.ledger.feedClosed) })}
            >
              {t.ledger.closeFeed}
            </button>
          )}
        </p>
        <Wrong error={wish.error ?? begin.error ?? end.error} />
      </>
    );
  };
  return (
    <Leaf title={t.ledger.remindTitle} hint={t.ledger.remindHint} close={close}>
      {inside()}
    </Leaf>
  );
}
