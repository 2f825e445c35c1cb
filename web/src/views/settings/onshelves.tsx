import { Link } from "react-router";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange } from "../../api/hooks";
import { Wrong } from "../../parts/states";
import { t } from "../../texts";

/** On which of my shelves a meeting stands, so that those of the shelf see it; changed at once. */
export function OnShelves({
  meeting,
  shelves,
}: {
  meeting: Schemas["MeetingOut"];
  shelves: Schemas["OfMeetingOut"][];
}) {
  const put = useChange(
    ({ shelf, on }: { shelf: number; on: boolean }) => {
      const at = { params: { path: { shelf_id: shelf, meeting_id: meeting.id } } };
      return the(
        on
          ? client.PUT("/api/shelves/{shelf_id}/meetings/{meeting_id}", at)
          : client.DELETE("/api/shelves/{shelf_id}/meetings/{meeting_id}", at),
      );
    },
    keys.meeting(meeting.id),
    keys.shelves,
    keys.library,
  );
  return (
    <section className="sheet mt-6 px-6 py-4" aria-labelledby="on-shelves">
      <h2 id="on-shelves" className="mb-1 text-lg">
        {t.shelves.title}
      </h2>
      <p className="mb-2 text-sm text-faded">
        {meeting.visibility === "mine" ? t.shelves.notWhileMine : t.shelves.onHint}
      </p>
      <ul>
        {shelves.map((one) => (
          <li key={one.id} className="flex items-baseline gap-3 py-1">
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                className="size-4 accent-slate"
                checked={one.there}
                disabled={!one.may || put.isPending}
                onChange={(event) => put.mutate({ shelf: one.id, on: event.target.checked })}
              />
              {one.name}
            </label>
            <Link to={`/shelves/${one.id}`} className="cite">
              {one.closed ? t.shelves.closed : t.shelves.open}
            </Link>
          </li>
        ))}
      </ul>
      <Wrong error={put.error} className="text-sm" />
    </section>
  );
}
