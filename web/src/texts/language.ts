/** The languages of the interface: what each calls itself. To add one: a folder of messages beside `en`, a line here and one in `load`. */
export const LANGUAGES = { en: "English", es: "Español" } as const;
export type Language = keyof typeof LANGUAGES;
/** A cookie, so that the server says what it has to say in the same language. */
const KEY = "language";

const known = (code: string | null | undefined): code is Language =>
  !!code && Object.hasOwn(LANGUAGES, code);

/** What somebody chose on this device; null: as the device. */
export function chosenLanguage(): Language | null {
  const kept = new RegExp(`(?:^|; )${KEY}=([a-z]+)`).exec(globalThis.document?.cookie ?? "")?.[1];
  return known(kept) ? kept : null;
}

/** Another language from the next page on: texts are read once, before anything is drawn. */
export function chooseLanguage(language: Language | null): void {
  const kept = language ? `${language}; max-age=31536000` : "; max-age=0";
  document.cookie = `${KEY}=${kept}; path=/; samesite=lax`;
  location.reload();
}

/** The first of somebody's languages, in their order, that there is; English if there is none. */
export function languageFor(
  chosen: Language | null,
  wanted: readonly string[],
): { language: Language; locale: string } {
  const codes = chosen ? [chosen] : wanted.map((tag) => tag.slice(0, 2).toLowerCase());
  const language = codes.find(known) ?? "en";
  // Days and numbers as in somebody's own country, where the country speaks the language.
  const locale = wanted.find((tag) => tag.slice(0, 2).toLowerCase() === language) ?? language;
  return { language, locale };
}
