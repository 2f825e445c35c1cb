/** Puts text where it can be pasted from. Where the browser has no way to (a page without HTTPS), a selection is copied instead. */
export async function copyText(text: string): Promise<void> {
  if (navigator.clipboard) return navigator.clipboard.writeText(text);
  const field = Object.assign(document.createElement("textarea"), { value: text });
  document.body.append(field);
  field.select();
  document.execCommand("copy");
  field.remove();
}
