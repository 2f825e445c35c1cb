import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange, useFolders } from "../../api/hooks";
import { Choose } from "../../parts/choose";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { Empty, Wrong } from "../../parts/states";
import { showDay, showTime } from "../../parts/time";
import { t } from "../../texts";
import { Came, Watched } from "./watched";

/** By whom what comes in by itself is seen: it stands on no shelf yet. */
export function arriving(): Record<string, string> {
  const { mine, named, workspace } = t.folders.seenBy;
  return { mine, named, workspace };
}

/** Folders that recordings come into by themselves. */
export function Folders() {
  const folders = useFolders();
  if (!folders.data) return null;
  return (
    <section aria-label={t.folders.title} className="sheet mt-6 p-6">
      <h2 className="text-lg">{t.folders.title}</h2>
      <p className="mb-3 text-sm text-faded">{t.folders.intro}</p>
      {folders.data.length === 0 && <Empty>{t.folders.none}</Empty>}
      <ul>
        {folders.data.map((one) => (
          <Row key={one.id} folder={one} />
        ))}
      </ul>
      <Watch />
    </section>
  );
}

function Row({ folder }: { folder: Schemas["FolderOut"] }) {
  const say = useSay();
  const at = { params: { path: { folder_id: folder.id } } };
  const look = useChange(() => the(client.POST("/api/folders/{folder_id}/look", at)), keys.folders);
  const leave = useChange(() => the(client.DELETE("/api/folders/{folder_id}", at)), keys.folders);
  const { looked_at: looked } = folder;
  const whose = folder.username
    ? t.calendars.at({ name: folder.username, host: folder.host })
    : folder.host;
  return (
    <Watched
      name={folder.name}
      remarks={[
        whose,
        looked && t.folders.looked({ when: `${showDay(looked)}, ${showTime(looked)}` }),
        t.folders.seenBy[folder.visibility],
      ]}
      acts={[
        {
          label: t.folders.lookNow,
          of: t.folders.lookNowAt({ name: folder.name }),
          off: look.isPending,
          act: () => look.mutate(undefined, { onSuccess: () => say(t.folders.looking) }),
        },
        {
          label: t.folders.leave,
          of: t.folders.leaveOf({ name: folder.name }),
          off: leave.isPending,
          act: () => leave.mutate(undefined, { onSuccess: () => say(t.folders.left) }),
        },
      ]}
      trouble={folder.trouble}
      error={look.error ?? leave.error}
    >
      <Came
        all={folder.found.map((one) => ({
          key: `${one.name} ${one.found_at}`,
          title: one.name,
          meeting: one.meeting,
          remarks: [t.folders.states[one.state], one.words].filter(Boolean).join(": "),
        }))}
        empty={t.folders.empty}
        latest={t.folders.latest({ n: folder.found.length })}
        open={folder.found.some((one) => one.meeting === null)}
      />
    </Watched>
  );
}

const NOTHING: Schemas["FolderIn"] = {
  address: "",
  username: "",
  password: "",
  name: "",
  visibility: "mine",
};

function Watch() {
  const [given, setGiven] = useState(NOTHING);
  const say = useSay();
  const watch = useChange(() => the(client.POST("/api/folders", { body: given })), keys.folders);
  const set = (change: Partial<typeof given>) => setGiven({ ...given, ...change });
  return (
    <form
      className="mt-4 flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        watch.mutate(undefined, {
          onSuccess: (made) => {
            setGiven(NOTHING);
            say(t.folders.watched({ name: made.name }));
          },
        });
      }}
    >
      <Field label={t.folders.address} hint={t.folders.hint} htmlFor="folder-address">
        <input
          id="folder-address"
          required
          maxLength={2000}
          inputMode="url"
          autoComplete="off"
          placeholder="https://"
          className="field placeholder:text-faded"
          value={given.address}
          onChange={(event) => set({ address: event.target.value })}
        />
      </Field>
      <div className="grid gap-4 sm:grid-cols-3">
        <Field label={t.folders.username} htmlFor="folder-username">
          <input
            id="folder-username"
            maxLength={254}
            autoComplete="off"
            className="field"
            value={given.username}
            onChange={(event) => set({ username: event.target.value })}
          />
        </Field>
        <Field label={t.folders.password} htmlFor="folder-password">
          <input
            id="folder-password"
            type="password"
            maxLength={400}
            autoComplete="new-password"
            className="field"
            value={given.password}
            onChange={(event) => set({ password: event.target.value })}
          />
        </Field>
        <Field label={t.folders.name} htmlFor="folder-name">
          <input
            id="folder-name"
            maxLength={120}
            className="field"
            value={given.name}
            onChange={(event) => set({ name: event.target.value })}
          />
        </Field>
      </div>
      <Choose
        id="folder-seen"
        label={t.folders.seen}
        value={given.visibility}
        change={(visibility: Schemas["FolderIn"]["visibility"]) => set({ visibility })}
        options={arriving()}
      />
      <p>
        <button type="submit" className="press press-main" disabled={watch.isPending}>
          {watch.isPending ? t.folders.watching : t.folders.watch}
        </button>
      </p>
      <Wrong error={watch.error} />
    </form>
  );
}
