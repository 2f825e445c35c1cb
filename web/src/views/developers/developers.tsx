import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { failed } from "../../api/client";
import { Field } from "../../parts/field";
import { Empty, Trouble, Wait } from "../../parts/states";
import { t } from "../../texts";

/** Of an OpenAPI 3.1 document, what is shown here. */
interface Schema {
  $ref?: string;
  type?: string;
  title?: string;
  description?: string;
  enum?: unknown[];
  const?: unknown;
  format?: string;
  items?: Schema;
  anyOf?: Schema[];
  allOf?: Schema[];
  properties?: Record<string, Schema>;
  required?: string[];
  additionalProperties?: Schema | boolean;
}
interface Operation {
  summary?: string;
  description?: string;
  tags?: string[];
  parameters?: { name: string; in: string; required?: boolean; schema?: Schema }[];
  requestBody?: { content: Record<string, { schema: Schema }> };
  responses: Record<
    string,
    { description?: string; content?: Record<string, { schema?: Schema }> }
  >;
  security?: Record<string, string[]>[];
}
interface Document {
  paths: Record<string, Record<string, Operation>>;
  webhooks: Record<string, { post: Operation }>;
  components: { schemas: Record<string, Schema> };
}
interface Entry {
  method: string;
  path: string;
  operation: Operation;
}

const named = (ref: string) => ref.split("/").at(-1) ?? ref;

/** How something looks, in a word or a few. */
function shape(schema: Schema | undefined): string {
  if (!schema) return "";
  if (schema.$ref) return named(schema.$ref);
  if (schema.const !== undefined) return JSON.stringify(schema.const);
  if (schema.enum) return schema.enum.map((one) => JSON.stringify(one)).join(" | ");
  const several = schema.anyOf ?? schema.allOf;
  if (several) return [...new Set(several.map(shape))].join(" | ");
  if (schema.type === "array") return `${shape(schema.items)}[]`;
  return [schema.type, schema.format].filter(Boolean).join(", ");
}

const scopesOf = (operation: Operation) =>
  (operation.security ?? []).flatMap((one) => one.token ?? []);

/** What a program can ask and is told: the API document, readable. */
export function Developers() {
  const document = useQuery({
    queryKey: ["api document"],
    staleTime: Infinity,
    queryFn: async () => {
      const answer = await fetch("/api/openapi.json");
      if (!answer.ok) throw new Error(t.problem.network);
      return (await answer.json()) as Document;
    },
  });
  const [find, setFind] = useState("");
  if (failed(document)) return <Trouble error={document.error} />;
  if (!document.data) return <Wait />;
  const { paths, webhooks, components } = document.data;
  const wanted = find.trim().toLowerCase();
  const all: Entry[] = Object.entries(paths).flatMap(([path, verbs]) =>
    Object.entries(verbs).map(([method, operation]) => ({ method, path, operation })),
  );
  const found = all.filter(({ method, path, operation }) =>
    `${method} ${path} ${operation.summary ?? ""} ${operation.description ?? ""}`
      .toLowerCase()
      .includes(wanted),
  );
  const tags = [...new Set(found.map((one) => one.operation.tags?.[0] ?? ""))].sort();
  return (
    <main className="mx-auto w-full max-w-[60rem] px-4 py-8 sm:px-6">
      <h1 className="text-2xl">{t.api.title}</h1>
      <p className="mt-3 max-w-prose">{t.api.intro({ document: "/api/openapi.json" })}</p>
      <p className="my-2 max-w-prose text-faded">{t.api.how}</p>
      <div className="my-4 max-w-md">
        <Field label={t.api.find} htmlFor="find">
          <input
            id="find"
            type="search"
            className="field"
            value={find}
            onChange={(event) => setFind(event.target.value)}
          />
        </Field>
      </div>
      {found.length === 0 && <Empty>{t.api.none}</Empty>}
      {tags.map((tag) => (
        <section key={tag} aria-labelledby={`tag-${tag}`} className="mb-6">
          <h2 id={`tag-${tag}`} className="mb-1 text-lg">
            {tag}
          </h2>
          <ul className="sheet px-4">
            {found
              .filter((one) => (one.operation.tags?.[0] ?? "") === tag)
              .map((one) => (
                <OperationRow key={`${one.method} ${one.path}`} one={one} />
              ))}
          </ul>
        </section>
      ))}
      <section aria-labelledby="events" className="mb-6">
        <h2 id="events" className="text-lg">
          {t.api.events}
        </h2>
        <p className="mb-2 max-w-prose text-sm text-faded">{t.api.eventsHint}</p>
        <ul className="sheet px-4">
          {Object.entries(webhooks).map(([name, { post }]) => (
            <OperationRow key={name} one={{ method: "", path: name, operation: post }} />
          ))}
        </ul>
      </section>
      <section aria-labelledby="schemas">
        <h2 id="schemas" className="mb-1 text-lg">
          {t.api.schemas}
        </h2>
        <ul className="sheet px-4">
          {Object.entries(components.schemas)
            .filter(([name]) => name.toLowerCase().includes(wanted) || !wanted)
            .map(([name, schema]) => (
              <li
                key={name}
                id={`schema-${name}`}
                className="scroll-mt-16 border-b border-rule last:border-0"
              >
                <details>
                  <summary className="cursor-pointer py-1.5 font-mono text-sm">{name}</summary>
                  <Properties schema={schema} />
                </details>
              </li>
            ))}
        </ul>
      </section>
    </main>
  );
}

function Shape({ schema }: { schema: Schema | undefined }) {
  const inner = schema?.items ?? schema;
  const name = inner?.$ref && named(inner.$ref);
  if (!name) return <code className="text-sm">{shape(schema)}</code>;
  return (
    <a
      className="cite font-mono text-sm"
      href={`#schema-${name}`}
      onClick={() => {
        const row = globalThis.document.getElementById(`schema-${name}`);
        row?.querySelector("details")?.setAttribute("open", "");
      }}
    >
      {shape(schema)}
    </a>
  );
}

function Properties({ schema }: { schema: Schema }) {
  return (
    <div className="pb-3 pl-4 text-sm">
      {schema.description && <p className="max-w-prose text-faded">{schema.description}</p>}
      {schema.properties ? (
        <dl className="grid gap-x-4 sm:grid-cols-[14rem_1fr]">
          {Object.entries(schema.properties).map(([name, one]) => (
            <div key={name} className="contents">
              <dt className="font-mono">
                {name}
                {schema.required?.includes(name) && (
                  <span className="font-sans text-faded"> {t.api.required}</span>
                )}
              </dt>
              <dd>
                <Shape schema={one} />
              </dd>
            </div>
          ))}
        </dl>
      ) : (
        <code>{shape(schema)}</code>
      )}
    </div>
  );
}

function OperationRow({ one: { method, path, operation } }: { one: Entry }) {
  const scopes = scopesOf(operation);
  const body = Object.entries(operation.requestBody?.content ?? {});
  const answers = Object.entries(operation.responses).filter(([status]) => status.startsWith("2"));
  return (
    <li className="border-b border-rule last:border-0">
      <details>
        <summary className="flex cursor-pointer flex-wrap items-baseline gap-x-3 py-2">
          <code className="text-sm">
            {method && <b>{method.toUpperCase()} </b>}
            {path}
          </code>
          <span className="text-sm text-faded">{operation.description ?? operation.summary}</span>
        </summary>
        <div className="pb-3 pl-4 text-sm">
          {method && (
            <p>
              {t.api.scope}:{" "}
              {scopes.length
                ? scopes.map((scope) => <code key={scope}>{scope} </code>)
                : t.api.noToken}
            </p>
          )}
          {(operation.parameters?.length ?? 0) > 0 && (
            <>
              <h3 className="mt-2 font-serif">{t.api.parameters}</h3>
              <ul>
                {operation.parameters!.map((parameter) => (
                  <li key={`${parameter.in} ${parameter.name}`}>
                    <code>{parameter.name}</code>{" "}
                    <span className="text-faded">
                      {parameter.in}, {shape(parameter.schema)}
                      {parameter.required && `, ${t.api.required}`}
                    </span>
                  </li>
                ))}
              </ul>
            </>
          )}
          {body.map(([type, content]) => (
            <p key={type} className="mt-2">
              <span className="font-serif">{t.api.body}</span> ({type}):{" "}
              {content.schema.properties ? (
                <Properties schema={content.schema} />
              ) : (
                <Shape schema={content.schema} />
              )}
            </p>
          ))}
          {answers.map(([status, answer]) => (
            <p key={status} className="mt-2">
              <span className="font-serif">{t.api.answer}</span> {status}
              {Object.values(answer.content ?? {}).map((content, index) => (
                <span key={index}>
                  {" "}
                  <Shape schema={content.schema} />
                </span>
              ))}
            </p>
          ))}
        </div>
      </details>
    </li>
  );
}
