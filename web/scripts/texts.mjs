// What the texts are to TypeScript: `npm run texts` writes it from the English messages, and a test holds it fresh.
import { readFileSync, readdirSync, writeFileSync } from "node:fs";
import { parse, TYPE } from "@formatjs/icu-messageformat-parser";

const folder = new URL("../src/texts/", import.meta.url);

/** All messages of a language as one tree. */
export function messages(language) {
  const at = new URL(`${language}/`, folder);
  return Object.assign(
    {},
    ...readdirSync(at)
      .filter((name) => name.endsWith(".json"))
      .sort()
      .map((name) => JSON.parse(readFileSync(new URL(name, at), "utf8"))),
  );
}

/** The arguments of an ICU message with their types, by name. */
export function wants(message, found = {}) {
  for (const part of typeof message === "string" ? parse(message) : message) {
    if (part.type === TYPE.literal || part.type === TYPE.pound) continue;
    if (part.type === TYPE.plural || part.type === TYPE.number) found[part.value] = "number";
    else found[part.value] ??= "string | number";
    for (const { value } of Object.values(part.options ?? {})) wants(value, found);
  }
  return found;
}

function type(node, depth) {
  if (Array.isArray(node)) return "readonly (readonly [string, string])[]";
  if (typeof node === "string") {
    const named = node.includes("{") ? Object.entries(wants(node)) : [];
    if (!named.length) return "string";
    return `Said<{ ${named.map(([name, kind]) => `${name}: ${kind}`).join("; ")} }>`;
  }
  const fields = Object.entries(node).map(
    ([name, value]) =>
      `${/^\w+$/.test(name) ? name : JSON.stringify(name)}: ${type(value, depth + 1)};`,
  );
  // A group of names for what the server sends is asked with whatever it sends; a newer server may send more.
  const open = depth > 1 && Object.values(node).every((one) => type(one, depth) === "string");
  return `{ ${fields.join("\n")} }${open ? " & Readonly<Record<string, string | undefined>>" : ""}`;
}

/** The declaration that goes with a tree of messages. */
export const declaration = (tree) => `// Written by \`npm run texts\` from en/*.json.
export type Said<Values> = (values: Values) => string;
export interface Texts ${type(tree, 0)}
`;

if (process.argv[1] === new URL(import.meta.url).pathname)
  writeFileSync(new URL("texts.d.ts", folder), declaration(messages("en")));
