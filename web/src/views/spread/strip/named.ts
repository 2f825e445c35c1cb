import type { Schemas } from "../../../api/client";

export interface Named {
  /** The voice of whoever is named. */
  voice: number;
  name: string;
  start: number;
}

const escaped = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, "\\$&");

/** Where somebody of the meeting is named by somebody else: by their name, or by the first part of it where nobody else here has that. */
export function namedIn(
  turns: readonly Schemas["TurnOut"][],
  voices: readonly Schemas["VoiceOut"][],
): Named[] {
  const whose = new Map<string, Schemas["VoiceOut"] | null>();
  for (const voice of voices.filter((one) => one.named))
    for (const name of new Set([voice.name, voice.name.split(" ")[0]!]))
      if (name.length > 2) whose.set(name, whose.has(name) ? null : voice);
  const names = [...whose].filter(([, voice]) => voice).map(([name]) => name);
  if (!names.length) return [];
  // The longest first, so that a whole name is not taken for its first part.
  const any = new RegExp(
    `(?<!\\p{L})(?:${names
      .sort((a, b) => b.length - a.length)
      .map(escaped)
      .join("|")})(?!\\p{L})`,
    "gu",
  );
  return turns.flatMap((turn) =>
    turn.lines.flatMap((line) =>
      [...new Set(line.text.match(any) ?? [])]
        .map((name) => whose.get(name)!)
        .filter((voice) => voice.id !== turn.voice)
        .map((voice) => ({ voice: voice.id, name: voice.name, start: line.start })),
    ),
  );
}
