import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { client, failed, the, type Schemas } from "../../api/client";
import {
  keys,
  useChange,
  useLibrary,
  useMe,
  useMembers,
  useNarrow,
  useShelf,
} from "../../api/hooks";
import { may } from "../../api/rights";
import { Choose } from "../../parts/choose";
import { MeetingRow } from "../../parts/row";
import { useSay } from "../../parts/sayings";
import { Empty, Trouble, Wait, Wrong } from "../../parts/states";
import { Sure } from "../../parts/sure";
import { t } from "../../texts";
import { ShelfForm } from "./shelves";

type Shelf = Schemas["ShelfOut"];

/** A shelf: what stands on it, who has a place at it, the series that come onto it. */
export function ShelfPage() {
  const id = Number(useParams().id) || 0;
  const known = useShelf(id);
  if (known.isPending) return <Wait />;
  if (failed(known)) return <Trouble error={known.error} again={() => void known.refetch()} />;
  return <Known shelf={known.data} />;
}

function Known({ shelf }: { shelf: Shelf }) {
  const at = { params: { path: { shelf_id: shelf.id } } };
  const stale = [keys.shelves, keys.narrow, keys.library] as const;
  const me = useMe().data;
  const say = useSay();
  const go = useNavigate();
  const [leaf, setLeaf] = useState<"change" | "down" | null>(null);
  const close = () => setLeaf(null);
  const join = useChange(() => the(client.POST("/api/shelves/{shelf_id}/join", at)), ...stale);
  const leave = useChange(() => the(client.POST("/api/shelves/{shelf_id}/leave", at)), ...stale);
  const change = useChange(
    (body: Schemas["ShelfIn"]) => the(client.PUT("/api/shelves/{shelf_id}", { ...at, body })),
    ...stale,
  );
  const down = useChange(() => the(client.DELETE("/api/shelves/{shelf_id}", at)), ...stale);
  return (
    <div className="mx-auto w-full max-w-[70rem] px-4 py-8 sm:px-6">
      <Link to="/shelves" className="plain">
        {t.shelves.all}
      </Link>
      <div className="mt-2 flex flex-wrap items-baseline gap-x-5 gap-y-1">
        <h1 className="text-2xl">{shelf.name}</h1>
        <p className="text-sm text-faded">
          {shelf.closed ? t.shelves.closed : t.shelves.open} ·{" "}
          {t.shelves.count({ n: shelf.meetings })}
        </p>
        <span className="grow" />
        <Link to={`/ask?shelf=${shelf.id}`} className="cite">
          {t.asking.link}
        </Link>
        {shelf.keeper && (
          <>
            <button type="button" className="cite" onClick={() => setLeaf("change")}>
              {t.shelves.change}
            </button>
            <button type="button" className="cite" onClick={() => setLeaf("down")}>
              {t.shelves.takeDown}
            </button>
          </>
        )}
        {!shelf.mine && me && may(me, "see shared") && (
          <button type="button" className="press" onClick={() => join.mutate(undefined)}>
            {t.shelves.join}
          </button>
        )}
        {shelf.mine && (
          <button
            type="button"
            className="cite"
            onClick={() =>
              leave.mutate(undefined, {
                onSuccess: () => {
                  say(t.shelves.left, shelf.closed ? undefined : () => join.mutate(undefined));
                  if (shelf.closed) void go("/shelves");
                },
              })
            }
          >
            {t.shelves.leave}
          </button>
        )}
      </div>
      {shelf.about && <p className="mt-2 max-w-prose font-serif">{shelf.about}</p>}
      <Wrong error={join.error ?? leave.error ?? down.error} className="mt-2" />
      <Standing shelf={shelf} />
      <div className="mt-6 grid items-start gap-6 lg:grid-cols-2">
        {shelf.people.length > 0 && <Places shelf={shelf} />}
        {(shelf.keeper || shelf.series.length > 0) && <ItsSeries shelf={shelf} />}
      </div>
      {leaf === "change" && (
        <ShelfForm
          title={t.shelves.change}
          was={shelf}
          error={change.error}
          keep={({ name, about, closed }) =>
            change.mutate({ name, about, closed }, { onSuccess: close })
          }
          close={close}
        />
      )}
      {leaf === "down" && (
        <Sure
          title={t.shelves.sure({ name: shelf.name })}
          hint={t.shelves.sureHint}
          yes={t.shelves.takeDown}
          no={t.shelves.keepIt}
          act={() => down.mutate(undefined, { onSuccess: () => void go("/shelves") })}
          close={close}
        />
      )}
    </div>
  );
}

/** The meetings on it that I see, the latest first. */
function Standing({ shelf }: { shelf: Shelf }) {
  const library = useLibrary({ shelf: shelf.id, holds: [] });
  const rows = library.data?.pages.flatMap((page) => page.rows) ?? [];
  return (
    <section aria-label={t.shelves.standing} className="mt-6">
      {failed(library) ? (
        <Trouble error={library.error} again={() => void library.refetch()} />
      ) : library.isPending ? (
        <Wait />
      ) : rows.length === 0 ? (
        <Empty>{t.shelves.empty}</Empty>
      ) : (
        <div className="sheet px-2">
          {rows.map((one) => (
            <MeetingRow key={one.id} meeting={one} />
          ))}
        </div>
      )}
      {library.hasNextPage && (
        <button type="button" className="press mt-3" onClick={() => void library.fetchNextPage()}>
          {t.library.more}
        </button>
      )}
    </section>
  );
}

/** Who has a place; keepers say who. */
function Places({ shelf }: { shelf: Shelf }) {
  const members = useMembers(shelf.keeper);
  const say = useSay();
  const seat = useChange(
    (places: Schemas["PlaceIn"][]) =>
      the(
        client.PUT("/api/shelves/{shelf_id}/places", {
          params: { path: { shelf_id: shelf.id } },
          body: { places },
        }),
      ),
    keys.shelves,
    keys.library,
  );
  const now = shelf.people.map(({ member, keeper }) => ({ member, keeper }));
  const put = (places: Schemas["PlaceIn"][]) =>
    seat.mutate(places, { onSuccess: () => say(t.shelves.seated, () => seat.mutate(now)) });
  const others = (members.data ?? []).filter(
    (one) => !shelf.people.some((there) => there.member === one.id),
  );
  const called = (one: { name: string; role: string }) =>
    one.role === "guest" ? t.seen.guest({ name: one.name }) : one.name;
  return (
    <section aria-labelledby="places" className="sheet px-5 py-4">
      <h2 id="places" className="mb-2 text-base">
        {t.shelves.who}
      </h2>
      <ul>
        {shelf.people.map((one) => (
          <li key={one.member} className="flex items-baseline gap-3 py-1">
            <span className="grow">{called(one)}</span>
            {shelf.keeper ? (
              <>
                <label className="flex items-center gap-1.5 text-sm">
                  <input
                    type="checkbox"
                    className="size-4 accent-slate"
                    checked={one.keeper}
                    onChange={(event) =>
                      put(
                        now.map((each) =>
                          each.member === one.member
                            ? { ...each, keeper: event.target.checked }
                            : each,
                        ),
                      )
                    }
                  />
                  {t.shelves.keeper}
                </label>
                <button
                  type="button"
                  className="plain px-1.5"
                  aria-label={t.shelves.unseat({ name: one.name })}
                  title={t.shelves.unseat({ name: one.name })}
                  onClick={() => put(now.filter((each) => each.member !== one.member))}
                >
                  ×
                </button>
              </>
            ) : (
              one.keeper && <span className="text-sm text-faded">{t.shelves.keeper}</span>
            )}
          </li>
        ))}
      </ul>
      {shelf.keeper && others.length > 0 && (
        <div className="mt-3">
          <Choose
            id="seat"
            label={t.shelves.seat}
            value=""
            change={(id) => {
              if (id) put([...now, { member: Number(id), keeper: false }]);
            }}
            options={{
              "": t.shelves.choose,
              ...Object.fromEntries(others.map((one) => [String(one.id), called(one)])),
            }}
          />
        </div>
      )}
      <Wrong error={seat.error} className="text-sm" />
    </section>
  );
}

/** The series that come onto it by themselves. */
function ItsSeries({ shelf }: { shelf: Shelf }) {
  const all = useNarrow().data?.series ?? [];
  const put = useChange(
    ({ series, on }: { series: number; on: boolean }) => {
      const at = { params: { path: { shelf_id: shelf.id, series_id: series } } };
      return the(
        on
          ? client.PUT("/api/shelves/{shelf_id}/series/{series_id}", at)
          : client.DELETE("/api/shelves/{shelf_id}/series/{series_id}", at),
      );
    },
    keys.shelves,
    keys.library,
  );
  const others = all.filter((one) => !shelf.series.some((there) => there.id === one.id));
  return (
    <section aria-labelledby="its-series" className="sheet px-5 py-4">
      <h2 id="its-series" className="mb-1 text-base">
        {t.shelves.series}
      </h2>
      <p className="mb-2 text-sm text-faded">{t.shelves.seriesHint}</p>
      <ul>
        {shelf.series.map((one) => (
          <li key={one.id} className="flex items-baseline gap-3 py-1">
            <Link to={`/series/${one.id}`} className="grow underline-offset-4 hover:underline">
              {one.name}
            </Link>
            {shelf.keeper && (
              <button
                type="button"
                className="plain px-1.5"
                aria-label={t.shelves.seriesOff({ name: one.name })}
                title={t.shelves.seriesOff({ name: one.name })}
                onClick={() => put.mutate({ series: one.id, on: false })}
              >
                ×
              </button>
            )}
          </li>
        ))}
      </ul>
      {shelf.keeper && others.length > 0 && (
        <Choose
          id="its-next-series"
          label={t.shelves.seriesOn}
          value=""
          change={(id) => {
            if (id) put.mutate({ series: Number(id), on: true });
          }}
          options={{
            "": t.shelves.choose,
            ...Object.fromEntries(others.map((one) => [String(one.id), one.name])),
          }}
        />
      )}
      <Wrong error={put.error} className="text-sm" />
    </section>
  );
}
