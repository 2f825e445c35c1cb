import { Popover } from "radix-ui";
import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import {
  keys,
  useChange,
  useChoices,
  useProposals,
  useRecord,
  useWorkspace,
} from "../../api/hooks";
import { t } from "../../texts";
import { may } from "../../api/rights";
import { Wrong } from "../../parts/states";

interface Props {
  meeting: Schemas["MeetingOut"];
  voice: Schemas["VoiceOut"];
  className?: string;
}

/** A voice's name; pressed, it asks who that is. The name then stands everywhere. */
export function VoiceName({ meeting, voice, className = "", tab }: Props & { tab?: number }) {
  const [open, setOpen] = useState(false);
  if (!may(meeting, "change")) return <span className={className}>{voice.name}</span>;
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <button
          type="button"
          tabIndex={tab}
          aria-label={t.spread.nameVoice({ name: voice.name })}
          className={`min-h-6 cursor-pointer text-left underline-offset-4 hover:underline ${voice.named ? "" : "border-b border-dashed border-clay"} ${className}`}
        >
          {voice.name}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="start" sideOffset={6} className="sheet z-40 w-80 p-4 shadow-lg">
          <Who meeting={meeting} voice={voice} close={() => setOpen(false)} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** Whose voice it is. By itself, as a name stands in every turn and few are pressed. */
function Who({ meeting, voice, close }: Props & { close: () => void }) {
  const [name, setName] = useState(voice.named ? voice.name : "");
  const choices = useChoices();
  const set = useChange(
    (given: string) =>
      the(
        client.POST("/api/meetings/{meeting_id}/voices/{voice_id}/name", {
          params: { path: { meeting_id: meeting.id, voice_id: voice.id } },
          body: { name: given },
        }),
      ),
    keys.meeting(meeting.id),
    keys.choices,
  );
  const proposals = useProposals(meeting.id, !voice.named);
  const record = useRecord(meeting.id);
  const rules = useWorkspace();
  const [agrees, setAgrees] = useState(false);
  const remember = useChange(
    () =>
      the(
        client.POST("/api/meetings/{meeting_id}/voices/{voice_id}/remember", {
          params: { path: { meeting_id: meeting.id, voice_id: voice.id } },
          body: { consent: agrees },
        }),
      ),
    keys.meeting(meeting.id),
    keys.knownVoices,
  );
  const sample = longest(record.data?.turns ?? [], voice.id);
  const maybe = proposals.data?.find((one) => one.voice === voice.id);
  const taken = new Set(meeting.voices.filter((one) => one.named).map((one) => one.name));
  const near = meeting.people
    .map((person) => person.name)
    .filter((one) => !taken.has(one) && one !== maybe?.name);
  const send = (given: string) => set.mutate(given, { onSuccess: close });
  return (
    <>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim()) send(name);
        }}
      >
        <p className="mb-2 flex items-baseline justify-between gap-2">
          <label htmlFor={`voice-${voice.id}`} className="font-serif">
            {t.spread.who}
          </label>
          {sample && meeting.recording?.playable && (
            <button
              type="button"
              className="plain text-sm whitespace-nowrap"
              onClick={() =>
                void new Audio(
                  `/api/meetings/${meeting.id}/sound#t=${sample.start},${Math.min(sample.end, sample.start + 6)}`,
                ).play()
              }
            >
              {t.voices.hear}
            </button>
          )}
        </p>
        {voice.recognised && (
          <p className="mb-2 text-sm">
            {t.voices.recognised}{" "}
            <button
              type="button"
              className="press px-2 py-0.5 text-sm"
              onClick={() => send(voice.name)}
            >
              {t.voices.yes}
            </button>
          </p>
        )}
        {maybe && (
          <div className="mb-3 border-l-4 border-brass pl-3 text-sm">
            <p>{t.voices.maybe({ name: maybe.name })}</p>
            <p className="my-1 font-serif text-faded italic">
              {t.voices.because({ text: maybe.because })}
            </p>
            <button
              type="button"
              className="press press-main px-2 py-0.5 text-sm"
              onClick={() => send(maybe.name)}
            >
              {t.voices.thatIs({ name: maybe.name })}
            </button>
          </div>
        )}
        {near.length > 0 && (
          <div className="mb-2 flex flex-wrap gap-1.5">
            {near.map((one) => (
              <button
                type="button"
                key={one}
                className="press px-2 py-0.5 text-sm"
                onClick={() => send(one)}
              >
                {one}
              </button>
            ))}
          </div>
        )}
        <input
          id={`voice-${voice.id}`}
          list="people-known"
          className="field"
          value={name}
          onChange={(event) => setName(event.target.value)}
          autoComplete="off"
        />
        <datalist id="people-known">
          {choices.data?.people.map((one) => (
            <option key={one} value={one} />
          ))}
        </datalist>
        <p className="mt-1 text-xs text-faded">{t.spread.everywhere}</p>
        <Wrong error={set.error} className="mt-1 text-sm" />
        <div className="mt-3 flex gap-2">
          <button
            type="submit"
            disabled={!name.trim() || set.isPending}
            className="press press-main"
          >
            {t.spread.setName}
          </button>
          {voice.named && (
            <button type="button" className="plain" onClick={() => send("")}>
              {t.spread.unname}
            </button>
          )}
        </div>
      </form>
      {voice.known && (
        <p className="mt-3 border-t border-rule pt-2 text-xs text-faded">{t.voices.known}</p>
      )}
      {voice.named && !voice.known && rules.data?.known_voices && (
        <div className="mt-3 border-t border-rule pt-2 text-sm">
          <label className="flex items-baseline gap-2">
            <input
              type="checkbox"
              className="accent-slate"
              checked={agrees}
              onChange={(event) => setAgrees(event.target.checked)}
            />
            {t.voices.consent({ name: voice.name })}
          </label>
          <button
            type="button"
            className="press mt-2 px-2 py-0.5 text-sm"
            disabled={!agrees || remember.isPending}
            onClick={() => remember.mutate(undefined)}
          >
            {t.voices.remember}
          </button>
          <Wrong error={remember.error} className="mt-1" />
        </div>
      )}
    </>
  );
}

/** The longest line of a voice, to hear it by. */
function longest(
  turns: Schemas["TurnOut"][],
  voice: number,
): { start: number; end: number } | null {
  let best: { start: number; end: number } | null = null;
  for (const turn of turns) {
    if (turn.voice === voice)
      for (const line of turn.lines)
        if (!best || line.end - line.start > best.end - best.start) best = line;
  }
  return best;
}
