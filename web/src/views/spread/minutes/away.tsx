import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { copyFrom } from "../../../parts/copy";
import { Leaf } from "../../../parts/leaf";
import { useSay } from "../../../parts/sayings";
import { t } from "../../../texts";

/** The minutes as text to paste, or as a file. */
export function Away({ meeting, close }: { meeting: Schemas["MeetingOut"]; close: () => void }) {
  const [error, setError] = useState("");
  const say = useSay();
  const address = (form: string) => `/api/meetings/${meeting.id}/minutes.${form}`;
  async function copy(form: string) {
    try {
      await copyFrom(address(form));
      say(t.minutes.copied);
    } catch (wrong) {
      setError(wrong instanceof Error ? wrong.message : String(wrong));
    }
  }
  return (
    <Leaf title={t.minutes.awayTitle} close={close}>
      <p className="mt-4 flex flex-wrap gap-2">
        <button type="button" className="press press-main" onClick={() => void copy("txt")}>
          {t.minutes.copyText}
        </button>
        <button type="button" className="press" onClick={() => void copy("md")}>
          {t.minutes.copyMarkdown}
        </button>
      </p>
      <p className="mt-3 flex flex-wrap gap-2">
        {Object.entries(t.minutes.forms).map(([form, label]) => (
          <a key={form} className="press" href={address(form)} download>
            {label}
          </a>
        ))}
      </p>
      {error && (
        <p role="alert" className="mt-3 text-clay">
          {error}
        </p>
      )}
      <button type="button" className="plain mt-4" onClick={close}>
        {t.minutes.close}
      </button>
    </Leaf>
  );
}
