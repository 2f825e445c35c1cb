import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { client, failed, the, type Schemas } from "../../api/client";
import { elsewhere, useRooms, useThread, useThreads, type Outside } from "../../api/elsewhere";
import { keys, useChange } from "../../api/hooks";
import { Choose } from "../../parts/choose";
import { Field } from "../../parts/field";
import { Glyph } from "../../parts/glyph";
import { useSay } from "../../parts/sayings";
import { Empty, Trouble, Wait, Wrong } from "../../parts/states";
import { showDate, showDay, showTime } from "../../parts/time";
import { t } from "../../texts";

type Span = keyof typeof t.connections.spans;
type Thread = Schemas["ThreadOut"];
const DAYS: Partial<Record<Span, number>> = { one: 1, two: 2, week: 7 };

/** Choose a room and from when on: what was written there is read as a meeting is. */
export function ReadThread({ one }: { one: Outside }) {
  const rooms = useRooms(one.id);
  const lately = (useThreads().data ?? []).filter((thread) => thread.connection === one.id);
  const [room, setRoom] = useState("");
  const [span, setSpan] = useState<Span>("unread");
  const [message, setMessage] = useState("");
  const go = useNavigate();
  const read = useChange(() => {
    const days = DAYS[span];
    const since = days ? new Date(Date.now() - days * 86_400_000).toISOString() : null;
    return the(
      client.POST("/api/connections/{connection_id}/threads", {
        params: { path: { connection_id: one.id } },
        body: {
          room,
          since,
          unread: span === "unread",
          first: span === "first" ? message.trim() : "",
          thread: "",
        },
      }),
    );
  }, elsewhere.threads);
  return (
    <section aria-labelledby="threads" className="sheet mt-6 p-6">
      <h2 id="threads" className="text-lg">
        {t.connections.threads}
      </h2>
      <p className="mb-3 text-sm text-faded">{t.connections.threadsHint}</p>
      {failed(rooms) ? (
        <Trouble error={rooms.error} again={() => void rooms.refetch()} />
      ) : rooms.data?.length === 0 ? (
        <Empty>{t.connections.noRooms}</Empty>
      ) : (
        <form
          className="flex flex-wrap items-end gap-4"
          onSubmit={(event) => {
            event.preventDefault();
            read.mutate(undefined, { onSuccess: (made) => void go(`/threads/${made.id}`) });
          }}
        >
          <Choose
            id="room"
            label={t.connections.room}
            value={room}
            change={setRoom}
            options={{
              "": t.connections.choose,
              ...Object.fromEntries((rooms.data ?? []).map((known) => [known.key, known.name])),
            }}
          />
          <Choose
            id="span"
            label={t.connections.since}
            value={span}
            change={setSpan}
            options={t.connections.spans}
          />
          {span === "first" && (
            <Field label={t.connections.first} hint={t.connections.firstHint} htmlFor="message">
              <input
                id="message"
                required
                maxLength={200}
                className="field"
                value={message}
                onChange={(event) => setMessage(event.target.value)}
              />
            </Field>
          )}
          <button type="submit" className="press" disabled={!room || read.isPending}>
            {t.connections.read}
          </button>
          <Wrong error={read.error} />
        </form>
      )}
      {lately.length > 0 && (
        <>
          <h3 className="mt-4 font-serif text-sm">{t.connections.lately}</h3>
          <ul className="text-sm">
            {lately.map((thread) => (
              <li key={thread.id} className="py-0.5">
                <Link className="cite" to={`/threads/${thread.id}`}>
                  {thread.room_name}
                </Link>{" "}
                <span className="text-faded">
                  {showDay(thread.made_at)}, {showTime(thread.made_at)}
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

/** A thread that was read: what came of it beside the messages, each leading to the other. */
export function ThreadPage() {
  const { id = "" } = useParams();
  const thread = useThread(id);
  if (failed(thread)) return <Trouble error={thread.error} />;
  if (!thread.data) return <Wait />;
  return <Page thread={thread.data} />;
}

const GROUPS = [
  ["in short", "inShort"],
  ["decision", "decisions"],
  ["action", "actions"],
  ["question", "questions"],
] as const;

function Page({ thread }: { thread: Thread }) {
  const [lit, setLit] = useState<number[]>([]);
  const say = useSay();
  const go = useNavigate();
  const at = { params: { path: { thread_id: thread.id } } };
  const keep = useChange(
    () => the(client.POST("/api/threads/{thread_id}/keep", at)),
    elsewhere.threads,
    keys.library,
  );
  const drop = useChange(
    () => the(client.DELETE("/api/threads/{thread_id}", at)),
    elsewhere.threads,
  );
  return (
    <div className="mx-auto w-full max-w-[78rem] px-4 py-8 sm:px-6">
      <Link to={`/connections/${thread.connection}`} className="plain">
        {thread.connection_name}
      </Link>
      <h1 className="mt-2 text-2xl">
        {t.connections.threadOf({ room: thread.room_name, n: thread.messages.length })}
      </h1>
      <p className="mb-4 text-sm text-faded">{t.connections.threadHint}</p>
      {thread.state === "waiting" && <p role="status">{t.connections.reading}</p>}
      {thread.state === "failed" && <p role="alert">{thread.said}</p>}
      {thread.state === "ready" && (
        <div className="grid items-start gap-6 lg:grid-cols-2">
          <div className="sheet p-6">
            {GROUPS.map(([kind, name]) => {
              const rows = thread.drawn.filter((one) => one.kind === kind);
              return (
                <section key={kind} aria-labelledby={`drawn-${name}`} className="mb-5">
                  <h2 id={`drawn-${name}`} className="mb-1 text-lg">
                    {t.connections[name]}
                  </h2>
                  {rows.length === 0 ? (
                    <Empty>{t.connections.nothing}</Empty>
                  ) : (
                    <ul>
                      {rows.map((one, index) => (
                        <li key={index} className="flex gap-2 py-1.5">
                          {kind !== "in short" && (
                            <span className="pt-0.5">
                              <Glyph kind={kind} size={18} />
                            </span>
                          )}
                          <span className="font-serif">
                            {one.text}{" "}
                            {(one.owner || one.due) && (
                              <span className="font-sans text-sm text-faded">
                                {[one.owner, one.due && showDate(one.due)]
                                  .filter(Boolean)
                                  .join(", ")}{" "}
                              </span>
                            )}
                            {one.messages.map((number) => (
                              <a
                                key={number}
                                href={`#message-${number}`}
                                className="cite mr-1"
                                onClick={() => setLit(one.messages)}
                              >
                                {thread.messages[number]?.who.split(" ")[0]},{" "}
                                {showTime(thread.messages[number]?.at ?? "")}
                              </a>
                            ))}
                          </span>
                        </li>
                      ))}
                    </ul>
                  )}
                </section>
              );
            })}
          </div>
          <section aria-labelledby="messages" className="sheet p-6">
            <h2 id="messages" className="mb-2 text-lg">
              {t.connections.messages}
            </h2>
            <ol>
              {thread.messages.map((message, number) => (
                <li
                  key={message.key}
                  id={`message-${number}`}
                  className={`scroll-mt-20 border-l-2 py-1.5 pl-3 ${lit.includes(number) ? "border-brass bg-wash" : "border-transparent"}`}
                >
                  <span className="text-sm text-faded">
                    {message.who},{" "}
                    <a className="cite" href={message.url}>
                      {showDay(message.at)}, {showTime(message.at)}
                    </a>
                  </span>
                  <p className="font-serif whitespace-pre-line">{message.text}</p>
                </li>
              ))}
            </ol>
          </section>
        </div>
      )}
      <Wrong error={keep.error ?? drop.error} />
      <p className="mt-5 flex flex-wrap gap-3">
        {thread.state === "ready" &&
          (thread.meeting ? (
            <Link className="press" to={`/meetings/${thread.meeting}`}>
              {t.connections.openKept}
            </Link>
          ) : (
            <button
              type="button"
              className="press press-main"
              disabled={keep.isPending}
              onClick={() =>
                keep.mutate(undefined, {
                  onSuccess: (kept) => void go(`/meetings/${kept.meeting}`),
                })
              }
            >
              {t.connections.keepThread}
            </button>
          ))}
        <button
          type="button"
          className="press"
          disabled={drop.isPending}
          onClick={() =>
            drop.mutate(undefined, {
              onSuccess: () => {
                say(t.connections.gone);
                void go(`/connections/${thread.connection}`);
              },
            })
          }
        >
          {t.connections.letGo}
        </button>
      </p>
    </div>
  );
}
