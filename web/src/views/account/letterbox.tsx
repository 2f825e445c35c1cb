import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange, useLetterbox } from "../../api/hooks";
import { may } from "../../api/rights";
import { copyText } from "../../parts/copy";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { Wrong } from "../../parts/states";
import { Sure } from "../../parts/sure";
import { showDay, showTime } from "../../parts/time";
import { t } from "../../texts";
import { Came } from "./watched";

/** The address that the clerk is invited by, and what I sent there. */
export function Letterbox({ me }: { me: Schemas["MeOut"] }) {
  const box = useLetterbox();
  const say = useSay();
  const [sure, setSure] = useState(false);
  const renew = useChange(() => the(client.POST("/api/letterbox/renew")), keys.letterbox);
  if (!box.data) return null;
  const { address, letters, senders } = box.data;
  return (
    <section aria-label={t.clerk.mailTitle} className="sheet mt-6 p-6">
      <h2 className="text-lg">{t.clerk.mailTitle}</h2>
      <p className="mb-3 text-sm text-faded">{address ? t.clerk.mailIntro : t.clerk.mailOff}</p>
      {address && (
        <>
          <p className="flex flex-wrap items-baseline gap-x-4 gap-y-2 border-b border-rule pb-2">
            <span className="grow font-serif break-all">{address}</span>
            <button
              type="button"
              className="press py-1 text-sm"
              onClick={() => void copyText(address).then(() => say(t.clerk.mailCopied))}
            >
              {t.clerk.mailCopy}
            </button>
            {may(me, "manage") && (
              <button
                type="button"
                className="plain text-sm"
                disabled={renew.isPending}
                onClick={() => setSure(true)}
              >
                {t.clerk.mailRenew}
              </button>
            )}
          </p>
          <Came
            all={letters.map((one) => ({
              key: one.at,
              title: one.title,
              meeting: null,
              remarks: `${showDay(one.at)}, ${showTime(one.at)} · ${one.words}`,
            }))}
            empty={t.clerk.mailEmpty}
            latest={t.clerk.mailLatest({ n: letters.length })}
            open={letters.some((one) => !one.goes)}
          />
          <Senders senders={senders} />
        </>
      )}
      <Wrong error={renew.error} />
      {sure && (
        <Sure
          title={t.clerk.mailSure}
          hint={t.clerk.mailSureHint}
          yes={t.clerk.mailRenewYes}
          no={t.clerk.mailRenewNo}
          act={() => renew.mutate(undefined)}
          close={() => setSure(false)}
        />
      )}
    </section>
  );
}

/** Addresses from which mail counts as mine. */
function Senders({ senders }: { senders: Schemas["SenderOut"][] }) {
  const [address, setAddress] = useState("");
  const add = useChange(
    () => the(client.POST("/api/letterbox/senders", { body: { address } })),
    keys.letterbox,
  );
  const drop = useChange(
    (id: number) =>
      the(
        client.DELETE("/api/letterbox/senders/{sender_id}", {
          params: { path: { sender_id: id } },
        }),
      ),
    keys.letterbox,
  );
  return (
    <details className="mt-3 text-sm" open={senders.length > 0}>
      <summary className="cursor-pointer">{t.clerk.mailSenders}</summary>
      <p className="text-faded">{t.clerk.mailSendersHint}</p>
      <ul>
        {senders.map((one) => (
          <li key={one.id} className="flex items-baseline gap-3 py-1">
            <span className="grow">{one.address}</span>
            <button
              type="button"
              className="plain"
              aria-label={t.clerk.mailDropSenderOf({ address: one.address })}
              disabled={drop.isPending}
              onClick={() => drop.mutate(one.id)}
            >
              {t.clerk.mailDropSender}
            </button>
          </li>
        ))}
      </ul>
      <form
        className="mt-2 flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate(undefined, { onSuccess: () => setAddress("") });
        }}
      >
        <Field label={t.clerk.mailSender} htmlFor="sender">
          <input
            id="sender"
            type="email"
            required
            maxLength={254}
            className="field"
            value={address}
            onChange={(event) => setAddress(event.target.value)}
          />
        </Field>
        <button type="submit" className="press" disabled={add.isPending}>
          {t.clerk.mailListSender}
        </button>
      </form>
      <Wrong error={add.error ?? drop.error} />
    </details>
  );
}
