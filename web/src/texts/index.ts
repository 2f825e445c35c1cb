import { en } from "./en";

/** The texts of the language in use. */
export const t = en;
