import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useLinks } from "../../api/hooks";
import { t } from "../../texts";
import { GiveLink } from "../links/give";
import { LinkList } from "../links/links";

/** The links that I gave to a meeting, and the way to another one. */
export function MeetingLinks({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  const [giving, setGiving] = useState(false);
  const links = useLinks(false).data?.filter((one) => one.meeting === meeting.id) ?? [];
  return (
    <section className="sheet mt-6 px-6 py-4">
      <h2 className="mb-1 text-lg">{t.links.title}</h2>
      <p className="mb-3 text-sm text-faded">{t.links.meetingHint}</p>
      {links.length > 0 && <LinkList links={links} />}
      <button type="button" className="press mt-3" onClick={() => setGiving(true)}>
        {t.links.give}
      </button>
      {giving && (
        <GiveLink
          of={meeting.id}
          scopes={["minutes", "record"]}
          heard={!!meeting.recording?.playable}
          close={() => setGiving(false)}
        />
      )}
    </section>
  );
}
