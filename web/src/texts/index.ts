import { compile, type Messages } from "./compile";
import { chosenLanguage, languageFor, type Language } from "./language";
import type { Texts } from "./texts";

const load: Record<Language, () => Promise<Messages>> = {
  en: async () => (await import("./en")).messages,
  es: async () => (await import("./es")).messages,
};

const found = languageFor(chosenLanguage(), globalThis.navigator?.languages ?? []);
/** The language of the texts. */
export const language = found.language;
/** The tag by which days, numbers and names of languages are written. */
export const locale = found.locale;
/** The texts of the language in use. */
export const t = compile(await load[language](), locale) as Texts;
