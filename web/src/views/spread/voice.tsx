import { Popover } from "radix-ui";
import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange, useChoices } from "../../api/hooks";
import { t } from "../../texts";

/** A voice's name; pressed, it asks who that is. The name then stands everywhere. */
export function VoiceName({ meeting, voice, className = "" }: { meeting: Schemas["MeetingOut"]; voice: Schemas["VoiceOut"]; className?: string }) {
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const choices = useChoices();
  const set = useChange((given: string) => the(client.POST("/api/meetings/{meeting_id}/voices/{voice_id}/name", {
    params: { path: { meeting_id: meeting.id, voice_id: voice.id } }, body: { name: given },
  })), keys.meeting(meeting.id), keys.choices);
  if (!meeting.changeable) return <span className={className}>{voice.name}</span>;
  const taken = new Set(meeting.voices.filter((one) => one.named).map((one) => one.name));
  const near = meeting.people.map((person) => person.name).filter((one) => !taken.has(one));
  const send = (given: string) => set.mutate(given, { onSuccess: () => setOpen(false) });
  return (
    <Popover.Root open={open} onOpenChange={(now) => { setOpen(now); setName(voice.named ? voice.name : ""); set.reset(); }}>
      <Popover.Trigger asChild>
        <button type="button" aria-label={t.spread.nameVoice(voice.name)} className={`min-h-6 cursor-pointer text-left underline-offset-4 hover:underline ${voice.named ? "" : "border-b border-dashed border-clay"} ${className}`}>{voice.name}</button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="start" sideOffset={6} className="sheet z-40 w-72 p-4 shadow-lg">
          <form onSubmit={(event) => { event.preventDefault(); if (name.trim()) send(name); }}>
            <label htmlFor={`voice-${voice.id}`} className="mb-2 block font-serif">{t.spread.who}</label>
            {near.length > 0 && <div className="mb-2 flex flex-wrap gap-1.5">{near.map((one) => <button type="button" key={one} className="press px-2 py-0.5 text-sm" onClick={() => send(one)}>{one}</button>)}</div>}
            <input id={`voice-${voice.id}`} list="people-known" className="field" value={name} onChange={(event) => setName(event.target.value)} autoComplete="off" />
            <datalist id="people-known">{choices.data?.people.map((one) => <option key={one} value={one} />)}</datalist>
            <p className="mt-1 text-xs text-faded">{t.spread.everywhere}</p>
            {set.error && <p role="alert" className="mt-1 text-sm text-clay">{set.error.message}</p>}
            <div className="mt-3 flex gap-2">
              <button type="submit" disabled={!name.trim() || set.isPending} className="press press-main">{t.spread.setName}</button>
              {voice.named && <button type="button" className="plain" onClick={() => send("")}>{t.spread.unname}</button>}
            </div>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
