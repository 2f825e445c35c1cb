"""A library that grows: lists ask the database as often for many rows as for few, and what nearly every meeting holds is found without ranking it."""

from __future__ import annotations

import re
from datetime import timedelta

import pytest
from django.db import connection
from django.db.models import F
from django.test.utils import CaptureQueriesContext

from bench.library import MAKE, READINGS
from core.search.cells import cells, cells_of, nearest_cells
from server.library import search, senses
from server.library.models import SenseSigns
from server.meetings.models import Meeting, Series
from server.pipeline.ear import encoder
from server.record.models import Line
from server.sharing.visibility import listed_meetings

LISTS = (
    "/api/library",
    "/api/library?holds=decisions",
    "/api/search?q=lock",
    "/api/search?q=lcok",
    "/api/ledger",
    "/api/ledger?view=stands",
    "/api/ledger?view=changed",
    "/api/today",
    "/api/news",
    "/api/series/{series}",
    "/api/library/taken-out",
    "/api/rights/mine/file",
)


@pytest.fixture
def grow(maren, make_meeting):
    """grow(n): so many further meetings of one series, an hour apart."""
    series, made = Series.objects.create(workspace=maren.workspace, name="Palm house"), []

    def more(number: int) -> Series:
        for _ in range(number):
            made.append(make_meeting(maren, f"Locks {len(made)}"))
            Meeting.objects.filter(pk=made[-1].pk).update(series=series, started_at=F("started_at") + timedelta(hours=len(made)))
        return series

    return more


def test_no_list_asks_the_database_once_a_row(grow, maren, caller):
    call = caller(maren)

    def asked(path: str) -> int:
        with CaptureQueriesContext(connection) as queries:
            assert call("get", path).status_code == 200
        return len(queries)

    paths = [path.format(series=grow(2).pk) for path in LISTS]
    few = {path: asked(path) for path in paths}
    grow(3)
    assert {path: asked(path) for path in paths} == few


def test_what_is_found_comes_page_by_page_each_meeting_once(grow, maren, caller, monkeypatch):
    for module in ("search", "api"):
        monkeypatch.setattr(f"server.library.{module}.PAGE", 2)
    monkeypatch.setitem(search.search.__kwdefaults__, "page", 2)
    grow(5)
    seen, after = [], 0
    while after is not None:
        page = caller(maren)("get", f"/api/search?q=lock&after={after}").json()
        seen += [one["meeting"]["title"] for one in page["meetings"]]
        assert page["total"] == 5 and page["whole"] and page["places"] >= 15
        after = page["next"]
    assert sorted(seen) == [f"Locks {n}" for n in range(5)]


def test_what_nearly_every_meeting_holds_is_not_ranked_and_tells_no_number(grow, maren, member, caller, monkeypatch):
    grow(4)
    monkeypatch.setattr(search, "PAGE", 2)
    monkeypatch.setattr(search, "_FIRST", 3)
    monkeypatch.setattr(search, "_COMMON", 1)
    found = caller(maren)("get", "/api/search?q=works&order=newest").json()
    assert [one["meeting"]["title"] for one in found["meetings"]] == ["Locks 3", "Locks 2", "Locks 1"]
    oldest = caller(maren)("get", "/api/search?q=works&order=oldest").json()
    assert [one["meeting"]["title"] for one in oldest["meetings"]] == ["Locks 0", "Locks 1", "Locks 2"]
    assert found["places"] is None and not found["whole"] and all(one["count"] == 1 for one in found["meetings"])
    # A guest who sees one of them is told of that one, and that it is all.
    gwen = member("Gwen Castellow", "guest")
    Meeting.objects.filter(title="Locks 1").update(created_by=gwen.user)
    found = caller(gwen)("get", "/api/search?q=works").json()
    assert [one["meeting"]["title"] for one in found["meetings"]] == ["Locks 1"] and found["places"] == 1 and found["whole"]


def test_of_many_meetings_the_nearest_cells_alone_are_looked_at(grow, maren, monkeypatch):
    grow(1)
    said = Line.objects.get(number=3).text
    about = encoder().plain([said])[0]
    assert nearest_cells(about, 1.0)[0] == cells_of(about[None])[0] and sorted(nearest_cells(about, 1.0)) == list(range(cells()))
    everywhere = senses.nearest(listed_meetings(maren), about)
    assert len(everywhere) == SenseSigns.objects.count() > 1
    monkeypatch.setattr(senses, "_FEW", 1)
    near = senses.nearest(listed_meetings(maren), about, share=1 / cells())
    assert near[0] == everywhere[0] and near[0].alike == pytest.approx(1.0, abs=0.01)
    assert set(SenseSigns.objects.filter(cell=int(cells_of(about[None])[0])).values_list("pk", flat=True)) == {one.turn for one in near}


@pytest.mark.django_db
def test_the_bench_that_loads_ten_thousand_meetings_fills_every_column_that_wants_something():
    into = re.findall(r"insert into (\w+) \(([^)]*)\)", MAKE + READINGS)
    assert len(into) > 10
    with connection.cursor() as cursor:
        for table, columns in into:
            cursor.execute(
                "select column_name from information_schema.columns where table_name = %s and table_schema = 'public'"
                " and is_nullable = 'NO' and column_default is null and is_identity = 'NO' and is_generated = 'NEVER'",
                [table],
            )
            wanted = {name for (name,) in cursor.fetchall()}
            assert wanted and wanted - {one.strip().strip('"') for one in columns.split(",")} == set(), table
