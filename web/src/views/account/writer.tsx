import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange } from "../../api/hooks";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { Wrong } from "../../parts/states";
import { t } from "../../texts";

/** What words minutes here: the writer that is built in, or a model elsewhere that an admin names. */
export function Writer() {
  const writer = useQuery({
    queryKey: keys.writer,
    queryFn: () => the(client.GET("/api/workspace/writer")),
  });
  return writer.data ? <Form key={writer.data.address} writer={writer.data} /> : null;
}

function Form({ writer }: { writer: Schemas["WriterOut"] }) {
  const [address, setAddress] = useState(writer.address || (writer.allowed[0] ?? ""));
  const [model, setModel] = useState(writer.model);
  const [key, setKey] = useState("");
  const say = useSay();
  const save = useChange(
    () =>
      the(
        client.PUT("/api/workspace/writer", {
          body: { address, model, ...(key ? { key } : {}) },
        }),
      ),
    keys.writer,
  );
  const drop = useChange(() => the(client.DELETE("/api/workspace/writer")), keys.writer);
  const trial = useChange(() => the(client.POST("/api/workspace/writer/try")));
  const named = writer.address !== "";
  return (
    <section className="sheet mt-6 p-6">
      <h2 className="text-lg">{t.workspace.writer}</h2>
      <p className="mt-1 text-sm">
        {named
          ? t.workspace.writerNamed({ model: writer.model, address: writer.address })
          : writer.built_in
            ? t.workspace.writerBuiltIn
            : t.workspace.writerNone}
      </p>
      {named && !writer.works && (
        <p role="alert" className="mt-1 text-sm text-clay">
          {t.workspace.writerNotAllowed}
        </p>
      )}
      {writer.allowed.length === 0 ? (
        <p className="mt-3 text-sm text-faded">{t.workspace.writerAllowedNone}</p>
      ) : (
        <form
          className="mt-4 flex flex-col gap-4"
          onSubmit={(event) => {
            event.preventDefault();
            save.mutate(undefined, {
              onSuccess: () => {
                setKey("");
                say(t.settings.saved);
              },
            });
          }}
        >
          <p className="text-sm text-faded">{t.workspace.writerSends}</p>
          <Field
            label={t.workspace.writerAddress}
            hint={t.workspace.writerAllowed({ addresses: writer.allowed.join(", ") })}
            htmlFor="writer-address"
          >
            <input
              id="writer-address"
              type="url"
              required
              maxLength={300}
              className="field"
              value={address}
              onChange={(event) => setAddress(event.target.value)}
            />
          </Field>
          <div className="grid gap-4 sm:grid-cols-2">
            <Field label={t.workspace.writerModel} htmlFor="writer-model">
              <input
                id="writer-model"
                required
                maxLength={120}
                className="field"
                value={model}
                onChange={(event) => setModel(event.target.value)}
              />
            </Field>
            <Field
              label={t.workspace.writerKey}
              hint={writer.has_key ? t.workspace.writerKeyKept : t.workspace.writerKeyHint}
              htmlFor="writer-key"
            >
              <input
                id="writer-key"
                type="password"
                autoComplete="off"
                maxLength={400}
                className="field"
                value={key}
                onChange={(event) => setKey(event.target.value)}
              />
            </Field>
          </div>
          <p className="flex flex-wrap gap-3">
            <button type="submit" className="press press-main" disabled={save.isPending}>
              {t.account.keep}
            </button>
            {named && (
              <>
                <button
                  type="button"
                  className="press"
                  disabled={trial.isPending || !writer.works}
                  onClick={() => trial.mutate(undefined)}
                >
                  {trial.isPending ? t.workspace.writerTrying : t.workspace.writerTry}
                </button>
                <button
                  type="button"
                  className="plain"
                  disabled={drop.isPending}
                  onClick={() => drop.mutate(undefined)}
                >
                  {t.workspace.writerDrop}
                </button>
              </>
            )}
          </p>
          {trial.data && (
            <p role="status" className="text-sm">
              <span className="font-serif">“{trial.data.text}”</span>{" "}
              {trial.data.held ? t.workspace.writerHeld : t.workspace.writerUnheld}
            </p>
          )}
        </form>
      )}
      <Wrong error={save.error ?? drop.error ?? trial.error} />
    </section>
  );
}
