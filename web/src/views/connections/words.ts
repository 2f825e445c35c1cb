import type { OutsideKind, Subject } from "../../api/elsewhere";
import { t } from "../../texts";

const known = (words: object, key: string): string | undefined =>
  (words as Partial<Record<string, string>>)[key];

/** How a kind is called: in the reader's language where that has words for it, else as the server calls it. */
export const kindName = (kind: Pick<OutsideKind, "name" | "title">) =>
  known(t.connections.kinds, kind.name) ?? kind.title;
export const kindAbout = (kind: OutsideKind) =>
  known(t.connections.abouts, kind.name) ?? kind.about;
export const fieldName = (name: string, title: string) =>
  known(t.connections.labels, name) ?? title;
export const subjectName = (subject: Subject) => t.connections.one[subject];
export const subjectsNamed = (subjects: Subject[]) =>
  subjects.map((one) => t.connections.subjects[one]).join(", ");
