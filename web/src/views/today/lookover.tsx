import { Link } from "react-router";
import { useLookOver } from "../../api/trust";
import { t } from "../../texts";

/** My meetings whose minutes wait to be looked over before they go out. */
export function LookOver() {
  const waiting = useLookOver(true).data ?? [];
  if (!waiting.length) return null;
  return (
    <section aria-labelledby="look-over">
      <h2 id="look-over" className="mb-2 text-base">
        {t.sending.lookOver}
      </h2>
      <ul className="sheet px-4">
        {waiting.map((one) => (
          <li key={one.meeting} className="border-b border-rule py-2.5 last:border-0">
            <Link
              to={`/meetings/${one.meeting}`}
              className="font-serif underline-offset-4 hover:underline"
            >
              {one.title}
            </Link>
            <span className="block text-sm text-faded">
              {t.sending.waitsFor({ names: one.names.join(", "), n: one.outside })}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
