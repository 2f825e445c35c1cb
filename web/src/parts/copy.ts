import { Problem } from "../api/client";

/** Puts text where it can be pasted from. Where the browser has no way to (a page without HTTPS), a selection is copied instead. */
export async function copyText(text: string): Promise<void> {
  if (navigator.clipboard) return navigator.clipboard.writeText(text);
  const field = Object.assign(document.createElement("textarea"), { value: text });
  document.body.append(field);
  field.select();
  document.execCommand("copy");
  field.remove();
}

/** The text of an address, to paste. Throws a Problem that says what is wrong. */
export async function copyFrom(address: string): Promise<void> {
  const answer = await fetch(address);
  if (!answer.ok)
    throw new Problem(answer.status, ((await answer.json()) as { detail: string }).detail);
  await copyText(await answer.text());
}
