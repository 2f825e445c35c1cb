import { readdirSync, readFileSync } from "node:fs";
import { format } from "prettier";
import { describe, expect, it } from "vitest";
import { compile } from "../src/texts/compile";
import { languageFor, LANGUAGES } from "../src/texts/language";
import { declaration, messages, wants } from "./texts.mjs";

/** Every message of a tree with where it stands. */
function* leaves(node, at = "") {
  if (typeof node === "string") yield [at, node];
  else for (const [name, one] of Object.entries(node)) yield* leaves(one, `${at}/${name}`);
}

const others = Object.keys(LANGUAGES).filter((code) => code !== "en");

/** What is the same in both by right. */
const SAME = new Set([
  "Aftershower",
  "Formal",
  "{n, number} min",
  "{n, number} %",
  "{kind}, {who}",
  "{form}: {n, number} %",
]);

describe("texts", () => {
  it("are to TypeScript what the English messages are", async () => {
    const file = new URL("../src/texts/texts.d.ts", import.meta.url);
    const written = await format(declaration(messages("en")), {
      parser: "typescript",
      printWidth: 100,
    });
    expect(readFileSync(file, "utf8")).toBe(written);
  });

  it.each(others)("say in %s what they say in English, with the same arguments", (code) => {
    const [english, there] = ["en", code].map((one) => new Map(leaves(messages(one))));
    expect([...there.keys()].sort()).toEqual([...english.keys()].sort());
    const asked = (text) => Object.keys(text.includes("{") ? wants(text) : {}).sort();
    for (const [at, text] of there) expect([at, asked(text)]).toEqual([at, asked(english.get(at))]);
  });

  it.each(others)("are translated to %s, but for names of formats and signs", (code) => {
    const english = new Map(leaves(messages("en")));
    const same = [...leaves(messages(code))].filter(
      ([at, text]) => /\p{L}{3}/u.test(text) && text === english.get(at),
    );
    expect(same.filter(([at, text]) => !/[fF]orms\//.test(at) && !SAME.has(text))).toEqual([]);
  });

  it("speak Spanish to somebody as to a friend, everywhere", () => {
    expect([...leaves(messages("es"))].filter(([, text]) => /\busted(es)?\b/i.test(text))).toEqual(
      [],
    );
  });

  it("count as each language counts", () => {
    // The plural categories are those of CLDR, by the browser's own Intl.PluralRules.
    const [en, es] = ["en", "es"].map((code) => compile(messages(code), code));
    expect([0, 1, 2].map((n) => en.ask.times({ n }))).toEqual(["Not once.", "Once.", "2 times."]);
    expect([1, 1204].map((n) => en.library.count({ n }))).toEqual(["1 place", "1,204 places"]);
    expect(es.library.count({ n: 12_040 })).toBe("12.040 lugares");
    expect(es.record.hits({ at: 2, of: 5 })).toBe("2 de 5");
  });

  it("are those of the first language somebody reads that there is", () => {
    expect(languageFor(null, ["gl-ES", "es-MX", "en"])).toEqual({
      language: "es",
      locale: "es-MX",
    });
    expect(languageFor("es", ["en-GB"])).toEqual({ language: "es", locale: "es" });
    expect(languageFor(null, ["en-GB", "es"]).locale).toBe("en-GB");
    expect(languageFor(null, [])).toEqual({ language: "en", locale: "en" });
  });

  it("stand in files that the page reads, each of them", () => {
    for (const code of Object.keys(LANGUAGES)) {
      const folder = new URL(`../src/texts/${code}/`, import.meta.url);
      const index = readFileSync(new URL("index.ts", folder), "utf8");
      for (const name of readdirSync(folder).filter((one) => one.endsWith(".json")))
        expect(index).toContain(`"./${name}"`);
    }
  });
});
