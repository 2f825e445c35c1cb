import { IntlMessageFormat } from "intl-messageformat";

export type Messages = { readonly [name: string]: string | Messages | readonly unknown[] };

/** A tree of ICU messages as texts: those without arguments as they stand, those with some as functions of them.
 * A message is parsed when it is first said. */
export function compile(tree: Messages, locale: string): unknown {
  return Object.fromEntries(
    Object.entries(tree).map(([name, node]) => {
      if (typeof node === "string") return [name, node.includes("{") ? said(node, locale) : node];
      return [name, Array.isArray(node) ? node : compile(node as Messages, locale)];
    }),
  );
}

function said(message: string, locale: string) {
  let format: IntlMessageFormat | undefined;
  return (values: Record<string, string | number>) => {
    format ??= new IntlMessageFormat(message, locale, undefined, { ignoreTag: true });
    return String(format.format(values));
  };
}
