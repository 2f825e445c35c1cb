import { useState, type ComponentProps, type KeyboardEvent } from "react";
import { client, the, type Schemas } from "../../../api/client";
import { keys, useChange, useChoices } from "../../../api/hooks";
import { Field } from "../../../parts/field";
import { Foot, Leaf } from "../../../parts/leaf";
import { Menu, MenuItem, MenuLabel } from "../../../parts/menu";
import { useSay } from "../../../parts/sayings";
import { clock } from "../../../parts/time";
import { t } from "../../../texts";
import type { Turn } from "./lines";

interface Props {
  meeting: Schemas["MeetingOut"];
  turn: Turn;
  tab: number;
  voice: Schemas["VoiceOut"];
  last: boolean;
  chosen: number | null;
  edit: (line: number) => void;
}
function Handle({
  turn,
  voice,
  ...given
}: Pick<Props, "turn" | "voice"> & ComponentProps<"button">) {
  return (
    <button
      type="button"
      aria-label={t.record.turn({ name: voice.name, time: clock(turn.start) })}
      {...given}
      className="plain px-1 text-xs opacity-0 group-hover:opacity-100 focus-visible:opacity-100 data-[state=open]:opacity-100 max-md:opacity-100"
    >
      ⋯
    </button>
  );
}

/** What can be done with a turn: whose it is, where it begins and ends, its words. Built when first asked for: there is one in every turn. */
export function TurnMenu(props: Props) {
  const [asked, setAsked] = useState(false);
  if (asked) return <Actions {...props} />;
  const ask = (event: KeyboardEvent) => {
    if (event.key === "ArrowDown") {
      event.preventDefault();
      setAsked(true);
    }
  };
  return (
    <Handle
      turn={props.turn}
      voice={props.voice}
      tabIndex={props.tab}
      aria-haspopup="menu"
      aria-expanded={false}
      onClick={() => setAsked(true)}
      onKeyDown={ask}
    />
  );
}

function Actions({ meeting, turn, tab, voice, last, chosen, edit }: Props) {
  const say = useSay();
  const [asking, setAsking] = useState<"turn" | "all" | null>(null);
  const at = { params: { path: { meeting_id: meeting.id } } };
  const stale = [
    keys.record(meeting.id),
    keys.edits(meeting.id),
    keys.meeting(meeting.id),
  ] as const;
  const undo = useChange(
    () => the(client.POST("/api/meetings/{meeting_id}/edits/undo", at)),
    ...stale,
  );
  const back = () => undo.mutate(undefined);
  const give = useChange(
    (name: string) =>
      the(
        client.POST("/api/meetings/{meeting_id}/turns/give", {
          ...at,
          body: { turns: [turn.number], name },
        }),
      ),
    ...stale,
  );
  const merge = useChange(
    (into: Schemas["VoiceOut"]) =>
      the(
        client.POST("/api/meetings/{meeting_id}/voices/{voice_id}/merge", {
          params: { path: { meeting_id: meeting.id, voice_id: voice.id } },
          body: { into: into.id },
        }),
      ),
    ...stale,
  );
  const join = useChange(
    () =>
      the(
        client.POST("/api/meetings/{meeting_id}/turns/join", {
          ...at,
          body: { turn: turn.number },
        }),
      ),
    ...stale,
  );
  const split = useChange(
    (line: number) =>
      the(
        client.POST("/api/meetings/{meeting_id}/turns/split", {
          ...at,
          body: { line, word: 0, name: "" },
        }),
      ),
    ...stale,
  );
  const others = meeting.voices.filter((one) => one.id !== voice.id);
  const splits = chosen !== null && turn.lines.slice(1).some((line) => line.number === chosen);
  const send = (name: string) =>
    give.mutate(name, {
      onSuccess: () => {
        setAsking(null);
        say(t.record.given({ name }), back);
      },
    });
  const wrong = give.error ?? merge.error ?? join.error ?? split.error;
  return (
    <>
      <Menu align="start" defaultOpen trigger={<Handle turn={turn} voice={voice} tabIndex={tab} />}>
        <MenuItem onSelect={() => edit(turn.lines[0]!.number)}>{t.record.correct}</MenuItem>
        <MenuItem
          disabled={!splits}
          onSelect={() => split.mutate(chosen!, { onSuccess: () => say(t.record.splitted, back) })}
        >
          {t.record.split}
        </MenuItem>
        <MenuItem
          disabled={last}
          onSelect={() => join.mutate(undefined, { onSuccess: () => say(t.record.oneTurn, back) })}
        >
          {t.record.join}
        </MenuItem>
        <MenuLabel>{t.record.give}</MenuLabel>
        {others.map((one) => (
          <MenuItem key={one.id} onSelect={() => send(one.name)}>
            {one.name}
          </MenuItem>
        ))}
        <MenuItem onSelect={() => setAsking("turn")}>{t.record.other}</MenuItem>
        {others.length > 0 && (
          <>
            <MenuLabel>{t.record.allOf({ name: voice.name })}</MenuLabel>
            {others.map((one) => (
              <MenuItem
                key={one.id}
                onSelect={() =>
                  merge.mutate(one, {
                    onSuccess: () =>
                      say(t.record.merged({ from: voice.name, into: one.name }), back),
                  })
                }
              >
                {one.name}
              </MenuItem>
            ))}
          </>
        )}
      </Menu>
      {wrong && (
        <span role="alert" className="text-xs text-clay">
          {wrong.message}
        </span>
      )}
      {asking && <Whose meeting={meeting} send={send} close={() => setAsking(null)} />}
    </>
  );
}

function Whose({
  meeting,
  send,
  close,
}: {
  meeting: Schemas["MeetingOut"];
  send: (name: string) => void;
  close: () => void;
}) {
  const choices = useChoices();
  const [name, setName] = useState("");
  const known = [
    ...new Set([...meeting.people.map((one) => one.name), ...(choices.data?.people ?? [])]),
  ];
  return (
    <Leaf title={t.record.whose} close={close}>
      <form
        className="mt-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim()) send(name.trim());
        }}
      >
        <Field label={t.record.whose} htmlFor="whose-turn">
          <input
            id="whose-turn"
            list="whose-known"
            autoFocus
            className="field"
            value={name}
            onChange={(event) => setName(event.target.value)}
            autoComplete="off"
          />
        </Field>
        <datalist id="whose-known">
          {known.map((one) => (
            <option key={one} value={one} />
          ))}
        </datalist>
        <Foot className="mt-3 flex gap-3" act={t.record.said} off={!name.trim()} close={close} />
      </form>
    </Leaf>
  );
}
