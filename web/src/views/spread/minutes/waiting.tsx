import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { may } from "../../../api/rights";
import { useReceivers } from "../../../api/trust";
import { namesOf } from "../../../parts/getting";
import { t } from "../../../texts";
import { SendMinutes } from "../../links/send";

/** Minutes that wait to be looked over: for whom, and the press that sends them. */
export function Waiting({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  const way = useReceivers(meeting.id, may(meeting, "send")).data;
  const [sending, setSending] = useState(false);
  if (!way?.waiting || meeting.work.state !== "ready") return null;
  const left = way.receivers.filter((one) => one.reached && !one.sent_at);
  return (
    <p className="mb-4 flex flex-wrap items-baseline gap-x-4 gap-y-1 border-l-4 border-l-brass bg-wash px-3 py-2 text-sm">
      <span className="grow">{t.sending.waits({ names: namesOf(left) })}</span>
      <button type="button" className="press py-0.5" onClick={() => setSending(true)}>
        {t.sending.send}
      </button>
      {sending && <SendMinutes meeting={meeting} way={way} close={() => setSending(false)} />}
    </p>
  );
}
