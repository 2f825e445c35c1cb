/** What somebody is typing into a line, kept on the device until the server has it: a reload or a lost connection costs nothing. */
export interface Draft {
  text: string;
  before: string;
}

const key = (meeting: string, line: number) => `line-${meeting}-${line}`;

export function keepDraft(meeting: string, line: number, draft: Draft): void {
  localStorage.setItem(key(meeting, line), JSON.stringify(draft));
}

export function dropDraft(meeting: string, line: number): void {
  localStorage.removeItem(key(meeting, line));
}

/** The draft of a line, or null where there is none. */
export function draftOf(meeting: string, line: number): Draft | null {
  const kept = localStorage.getItem(key(meeting, line));
  return kept ? (JSON.parse(kept) as Draft) : null;
}

/** Lines of a meeting that have a draft, in order. */
export function drafted(meeting: string): number[] {
  const start = `line-${meeting}-`;
  return Object.keys(localStorage)
    .filter((one) => one.startsWith(start))
    .map((one) => Number(one.slice(start.length)))
    .sort((a, b) => a - b);
}
