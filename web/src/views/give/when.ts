// A day and perhaps a time in a file's name: 2026-10-06 11.00, 20261006_110000, 2026-10-06T11-00 …
const NAMED =
  /(?<!\d)(20\d\d)[-_.]?(0[1-9]|1[0-2])[-_.]?(0[1-9]|[12]\d|3[01])(?:[-_.T ]*([01]\d|2[0-3])[-_.:h]?([0-5]\d))?(?!\d{3})/;

/** When a recording began, as well as its file tells: by its name; by what it says of itself; else its last change less its length. */
export function proposeStart(
  name: string,
  lastModified: number,
  recordedAt: string | null,
  lasts: number | null,
): Date {
  const named = NAMED.exec(name);
  if (named?.[4])
    return new Date(
      Number(named[1]),
      Number(named[2]) - 1,
      Number(named[3]),
      Number(named[4]),
      Number(named[5]),
    );
  const guess = recordedAt ? new Date(recordedAt) : new Date(lastModified - (lasts ?? 0) * 1000);
  if (named) guess.setFullYear(Number(named[1]), Number(named[2]) - 1, Number(named[3]));
  return guess;
}

/** A file's name as a title: without its ending, its date and the signs that stand for spaces. */
export function proposeTitle(name: string): string {
  const bare = name
    .replace(/\.\w+$/, "")
    .replace(NAMED, " ")
    .replace(/[_]+|(?<=\w)-(?=\w)/g, " ")
    .replace(/\s+/g, " ")
    .replace(/^[\s.,-]+|[\s.,-]+$/g, "");
  return bare || name.replace(/\.\w+$/, "");
}
