import type { Schemas } from "../../../api/client";
import type { Line, Turn } from "./lines";

/** What is shown of the record: "all"; a kind of finding; "voice:7"; "named:Idris Quaye". */
export type Lens = string;
export const KINDS = ["decision", "action", "question", "date", "figure"] as const;

/** The numbers of the lines that a lens leaves; null for all of them. */
export function through(
  lens: Lens,
  turns: Turn[],
  findings: Schemas["FindingOut"][],
): ReadonlySet<number> | null {
  if (lens === "all") return null;
  const lines = (keep: (line: Line, turn: Turn) => boolean) =>
    new Set(
      turns.flatMap((turn) =>
        turn.lines.filter((line) => keep(line, turn)).map((line) => line.number),
      ),
    );
  if (lens.startsWith("voice:")) return lines((_, turn) => turn.voice === Number(lens.slice(6)));
  if (lens.startsWith("named:")) {
    const called = callings(lens.slice(6));
    return lines((line) => called.test(line.text));
  }
  return new Set(
    findings.filter((finding) => finding.kind === lens).flatMap((finding) => finding.lines),
  );
}

/** A person is named by their whole name or by their first or last one, as a word. */
function callings(name: string): RegExp {
  const parts = name.split(/\s+/u);
  const forms = [name, parts[0]!, parts.at(-1)!]
    .filter((form) => form.length > 1)
    .map((form) => form.replace(/[.*+?^${}()|[\]\\]/gu, "\\$&"));
  return new RegExp(`(?<![\\p{L}\\p{N}])(?:${forms.join("|")})(?:['’]s)?(?![\\p{L}\\p{N}])`, "iu");
}

/** The turns with only the lines that a lens leaves. */
export function lensed(turns: Turn[], left: ReadonlySet<number> | null): Turn[] {
  if (!left) return turns;
  return turns
    .map((turn) => ({ ...turn, lines: turn.lines.filter((line) => left.has(line.number)) }))
    .filter((turn) => turn.lines.length > 0);
}
