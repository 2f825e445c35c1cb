"""A library that grows: how long its pages take at 100, 1,000 and 10,000 meetings, for an owner, a member and a guest.

Meetings are made in the database itself, of the words of the labelled meetings, varied: three hundred lines each, in series, of some of
two hundred people, on shelves, some of them a few people's alone. What each turn is about is what its first line is about, by the encoder. Beside
it, in the same run, PostgreSQL's ILIKE over all lines, and its full text without the rule of who sees what.
"""

from __future__ import annotations

import json
import random
import re
import statistics
import time
from collections.abc import Callable, Iterator
from urllib.parse import quote

import numpy as np

from bench.hearing import MODELS
from bench.house import running
from bench.meetings import LABELLED
from bench.tables import table
from bench.views import paints
from core.reading import READING, Encoder
from core.record.model import Line, Turn
from core.search.cells import cells_of
from core.search.senses import packed, says_enough, signs
from core.search.slips import spelled
from tests.live import Client, House

_SIZES = (100, 1_000, 10_000)
_POOL = 12_000  # different lines
_TIMES, _WORDS, _READ = 25, 12, 300
_COMMON = ("week", "think", "order", "would")  # in nearly every meeting
_WHO = {"owner": "maren@larkmoor.example", "member": "idris@larkmoor.example", "guest": "guest@larkmoor.example"}

MAKE = """
create temp table fresh as
  select gen_random_uuid() as id, n, now() - n * interval '5 hours' as at, 1 + n %% 200 as first,
         case when n %% 10 < 7 then 'workspace' when n %% 10 < 9 then 'named' else 'mine' end as seen
  from generate_series(%(after)s + 1, %(until)s) n;
insert into meetings_meeting (id, workspace_id, title, started_at, time_zone, duration, language, terms, template, proposed_template, topics, place, series_id,
    visibility, created_by_id, created_at, ready_at, strip, counts)
  select f.id, %(workspace)s, initcap(p.text), f.at, 'Europe/London', 1800, 'en', '[]', '', '', '[]', (array['room', 'online', 'file'])[1 + f.n %% 3],
    (select id from meetings_series where workspace_id = %(workspace)s order by id offset f.n %% 100 limit 1), f.seen,
    (select id from accounts_user order by id offset f.n %% 3 limit 1), f.at, f.at, '{}', '{}'
  from fresh f join titles p on p.n = 1 + f.n %% 2000;
insert into meetings_attendee (meeting_id, person_id)
  select f.id, p.id from fresh f cross join generate_series(0, 4) k join numbered p on p.n = 1 + (f.first + k * 37) %% 200;
insert into meetings_reader (meeting_id, user_id, at)
  select f.id, (select id from accounts_user where email = 'guest@larkmoor.example'), now() from fresh f where f.seen = 'named' and f.n %% 3 = 0;
insert into record_voice (meeting_id, label, person_id, recognised)
  select a.meeting_id, 'V' || row_number() over (partition by a.meeting_id order by a.id), a.person_id, false from meetings_attendee a join fresh f on f.id = a.meeting_id;
create temp table voices as
  select id, meeting_id, row_number() over (partition by meeting_id order by id) as n from record_voice where meeting_id in (select id from fresh);
create index on voices (meeting_id, n);
insert into record_turn (meeting_id, number, voice_id, start, "end", language, english, written)
  select f.id, k, v.id, k * 12 - 12, k * 12, '', '', false from fresh f cross join generate_series(1, 150) k join voices v on v.meeting_id = f.id and v.n = 1 + k %% 5;
insert into record_line (meeting_id, turn_id, number, start, "end", text, words, checked)
  select t.meeting_id, t.id, 2 * t.number - 1 + k, t.start + 6 * k, t.start + 6 * k + 5, p.text, '[]', false
  from record_turn t join fresh f on f.id = t.meeting_id cross join generate_series(0, 1) k
  join pool p on p.n = 1 + abs(hashint8(t.id * 2 + k)::bigint) %% %(pool)s;
insert into library_sense (turn_id, digest, vector)
  select t.id, '', p.vector from record_turn t join fresh f on f.id = t.meeting_id join record_line l on l.turn_id = t.id and l.number = 2 * t.number - 1
  join pool p on p.n = 1 + abs(hashint8(t.id * 2)::bigint) %% %(pool)s;
insert into library_sensesigns (sense_id, meeting_id, bits, cell)
  select t.id, t.meeting_id, p.bits, p.cell from record_turn t join fresh f on f.id = t.meeting_id
  join pool p on p.n = 1 + abs(hashint8(t.id * 2)::bigint) %% %(pool)s where p.enough;
insert into meetings_shelved (shelf_id, meeting_id, by_id, at)
  select (select id from meetings_shelf order by id offset f.n %% 20 limit 1), f.id, null, now() from fresh f where f.n %% 4 = 0;
insert into minutes_finding (meeting_id, kind, text, written, status, confidence, owner_id, owner_name, due, owner_by_hand, due_by_hand, given_up, start, "end", done_at)
  select f.id, (array['decision', 'action', 'action', 'question'])[1 + k %% 4], p.text, 'rules', 'standing', 0.8,
    case when k %% 4 in (1, 2) then w.id end, case when k %% 4 in (1, 2) then w.name else '' end,
    case when k %% 4 in (1, 2) then (f.at + interval '9 days')::date end, false, false, false, k * 60, k * 60 + 9, case when f.n > 60 and k %% 3 > 0 then f.at end
  from fresh f cross join generate_series(0, 7) k join pool p on p.n = 1 + abs(hashint8(f.n * 8 + k)::bigint) %% %(pool)s
  join numbered w on w.n = 1 + (f.first + k) %% 200;
insert into minutes_minutesline (meeting_id, section, position, text, hand_initials, drawn, finding_id, changed_at, confirmed_initials, moved)
  select meeting_id, kind || 's', id %% 100, text, '', true, id, now(), '', false from minutes_finding where meeting_id in (select id from fresh);
create temp table settled as
  select g.id, g.meeting_id, g.kind, nextval('ledger_matter_id_seq') as matter from minutes_finding g where g.meeting_id in (select id from fresh) and g.kind in ('decision', 'action');
insert into ledger_matter (id, workspace_id, kind, followed) select matter, %(workspace)s, kind, false from settled;
insert into ledger_step (matter_id, meeting_id, kind, state, finding_id, confidence) select matter, meeting_id, 'made', 'read', id, 0.8 from settled;
drop table fresh, voices, settled;
"""


def _texts() -> tuple[list[str], list[str]]:
    """What people said, and words to put into it."""
    said = [turn["text"] for path in sorted(LABELLED.glob("*.json")) for turn in json.loads(path.read_text(encoding="utf-8"))["turns"]]
    return said, sorted({word for text in said for word in re.findall(r"[a-z]{5,}", text.lower())})


def _varied(draw: random.Random, said: list[str], words: list[str]) -> Iterator[str]:
    while True:
        parts = draw.choice(said).split()
        yield " ".join(draw.choice(words) if len(part) > 4 and draw.random() < 0.25 else part for part in parts)


def _begin(house: House) -> tuple[int, list[str]]:
    """People, series and what is said; the workspace, and words that are in it."""
    house.load_people()
    house.python(
        "from server.accounts.models import *; from server.meetings.models import *\n"
        "w = Workspace.objects.get()\n"
        "u = User.objects.create_user('guest@larkmoor.example', 'wet slate and lichen', name='Gwen Castellow'); Membership.objects.create(user=u, workspace=w, role='guest')\n"
        "Series.objects.bulk_create([Series(workspace=w, name=f'Series {n}') for n in range(100)])\n"
        "Person.objects.bulk_create([Person(workspace=w, name=f'Person {n}', folded=f'person {n}') for n in range(200)])\n"
        "shelves = Shelf.objects.bulk_create([Shelf(workspace=w, name=f'Shelf {n}', closed=n % 2 == 0) for n in range(20)])\n"
        "ShelfPlace.objects.bulk_create([ShelfPlace(shelf=one, membership=m) for m in Membership.objects.exclude(role='owner') for one in shelves[:: 2 if m.role == 'member' else 5]])"
    )
    draw = random.Random(4)
    said, words = _texts()
    lines = _varied(draw, said, words)
    house.write("create table titles (n serial primary key, text text)")
    house.write("insert into titles (text) select * from unnest(%s::text[])", [[" ".join(draw.sample(words, 3)) for _ in range(2_000)]])
    _pool([next(lines) for _ in range(_POOL)], house)
    house.write("create table numbered as select id, name, row_number() over (order by id) as n from meetings_person")
    [(workspace,)] = house.rows("select id from accounts_workspace")
    return workspace, draw.sample([word for word in words if len(word) > 6], _WORDS)


def _pool(texts: list[str], house: House) -> None:
    """What is said, with what it is about; and what the encoder says of turns, for those that are asked about."""
    encoder = Encoder(MODELS / READING)
    senses = encoder.plain(texts)
    house.write("create table pool (n serial primary key, text text, vector bytea, bits bit(384), enough bool, cell int)")
    house.write(
        "insert into pool (text, vector, bits, enough, cell) select t, v, b::bit(384), e, c"
        " from unnest(%s::text[], %s::bytea[], %s::text[], %s::bool[], %s::int[]) as x (t, v, b, e, c)",
        [texts, packed(senses), [signs(sense) for sense in senses], [says_enough(text) for text in texts], [int(cell) for cell in cells_of(senses)]],
    )
    house.write("insert into library_heldword (word) select unnest(%s::text[])", [sorted(set().union(*map(spelled, texts)))])
    turns = encoder.turns([Turn(n, "A", (Line(text, n, n + 1),)) for n, text in enumerate(texts[:_READ], 1)])
    house.write("create table readings (n serial primary key, likely jsonb, vector bytea)")
    likely = [json.dumps([round(float(value), 4) for value in row]) for row in turns.likely]
    vectors = [row.astype(np.float16).tobytes() for row in turns.vectors]
    house.write("insert into readings (likely, vector) select l::jsonb, v from unnest(%s::text[], %s::bytea[]) as x (l, v)", [likely, vectors])


READINGS = """
insert into minutes_turnreading (turn_id, likely, vector)
  select t.id, r.likely, r.vector from record_turn t join readings r on r.n = 1 + t.id %% %(read)s
  where t.meeting_id = any(%(meetings)s::uuid[]) on conflict do nothing
"""


def _questions(house: House, client: Client, email: str, words: list[str]) -> list[int]:
    """Questions put to the library; the meetings that will be weighed for their answers have been read, as all have in a real one."""
    texts = [f"What was said about the {one} and the {other}?" for one, other in zip(words, words[1:], strict=False)]
    code = (
        "from server.accounts.models import Membership; from server.library.asking import likely; from server.sharing.visibility import listed_meetings\n"
        f"m = Membership.objects.get(user__email={email!r})\n"
        f"for text in {texts!r}:\n    print(*likely(listed_meetings(m).filter(ready_at__isnull=False), text), sep='\\n')"
    )
    house.write(READINGS, {"read": _READ, "meetings": house.python(code).split()})
    return [client.call("POST", "/api/inquiries", {"text": text, "wanted": {}}).json()["id"] for text in texts]


def _asks(words: list[str], series: int, person: int, questions: list[int]) -> dict[str, Callable[[int], str]]:
    """What is asked for, by what it is called."""
    slip = [word[:3] + word[4] + word[3] + word[5:] for word in words]
    return {
        "list": lambda n: "/api/library",
        "list, narrowed": lambda n: f"/api/library?person={person}&holds=decisions",
        "search, a word": lambda n: f"/api/search?q={words[n % len(words)]}",
        "search, a common word": lambda n: f"/api/search?q={_COMMON[n % len(_COMMON)]}",
        "search, a phrase": lambda n: f"/api/search?q={quote(chr(34) + 'a bit of' + chr(34))}",
        "search, by meaning": lambda n: f"/api/search?q={quote(f'{words[n % len(words)]} and what comes of the {words[n % 5]}')}",
        "search, a slip": lambda n: f"/api/search?q={slip[n % len(slip)]}",
        "ledger, open": lambda n: "/api/ledger",
        "ledger, what stands": lambda n: "/api/ledger?view=stands",
        "ledger, forgotten": lambda n: "/api/ledger?view=forgotten",
        "series": lambda n: f"/api/series/{series}",
        "Today": lambda n: "/api/today",
        "what is new": lambda n: "/api/news",
        "ask": lambda n: f"/api/inquiries/{questions[n % len(questions)]}/answer",
    }


def _timed(do: Callable[[int], object]) -> tuple[float, float]:
    """p50 and p95 in milliseconds, after one that does not count."""
    do(0)
    times = []
    for n in range(_TIMES):
        began = time.perf_counter()
        do(n)
        times.append(1000 * (time.perf_counter() - began))
    times.sort()
    return round(statistics.median(times), 1), round(times[round(0.95 * (len(times) - 1))], 1)


def run() -> None:
    """Print the tables."""
    found: dict[tuple[str, str], list[float]] = {}
    grown: list[list[object]] = []
    with running("library") as house:
        workspace, words = _begin(house)
        clients = {who: Client(house, email) for who, email in _WHO.items()}
        after = 0
        for size in _SIZES:
            began = time.perf_counter()
            house.write(MAKE, {"after": after, "until": size, "workspace": workspace, "pool": _POOL})
            house.settle()
            [(lines, disk)] = house.rows("select (select count(*) from record_line), pg_size_pretty(pg_database_size(current_database()))")
            grown.append([size, lines, round(time.perf_counter() - began, 1), disk])
            after = size
            [(series,)] = house.rows("select min(id) from meetings_series")
            [(person,)] = house.rows("select min(id) from numbered")
            for who, client in clients.items():
                questions = _questions(house, client, _WHO[who], words)
                for what, path in _asks(words, series, person, questions).items():
                    seen = client.call("GET", path(0)).status
                    if seen == 200:
                        found.setdefault((what, who), []).extend(_timed(lambda n, path=path, client=client: client.call("GET", path(n))))
            plain = {
                "ILIKE over all lines": "select meeting_id, count(*) from record_line where text ilike '%%' || %s || '%%' group by 1 order by 2 desc limit 20",
                "full text, without the rule": "select meeting_id, count(*) from record_line where search @@ plainto_tsquery('english', %s) group by 1 order by 2 desc limit 20",
            }
            for what, query in plain.items():
                found.setdefault((what, "nobody"), []).extend(_timed(lambda n, query=query: house.rows(query, words[n % len(words)])))
        shown = {"Today": "/", "Library": "/library", "search": f"/library?q={words[0]}", "Ledger": "/ledger", "a series": f"/series/{series}", "an answer": "/ask"}
        paints(house, shown)
        print()
    print(table(["meetings", "lines", "seconds to load", "on disk"], grown))
    print()
    heads = [f"{size:,}: {part}" for size in _SIZES for part in ("p50", "p95")]
    rows = [[what, who, *times] for (what, who), times in found.items()]
    print(table(["milliseconds", "for", *heads], [row for row in rows if len(row) == 2 + len(heads)]))
