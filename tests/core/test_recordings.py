"""Which planned meeting a recording is of. The names are made up, in forms that programs use."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest

from core.planning.recordings import match_recording, said_moment, title_in

PARIS = ZoneInfo("Europe/Paris")
TEN = datetime(2026, 11, 27, 10, tzinfo=UTC)


@pytest.mark.parametrize(
    ("name", "moment"),
    [
        ("Glazing call 2026-11-27 11-00-12.mp4", TEN + timedelta(seconds=12)),
        ("20261127_110000.m4a", TEN),
        ("recording-2026-11-27T10:00:00Z.webm", TEN),
        ("GMT20261127-110000_Recording.mp4", TEN),
        ("Aufnahme 27.11.2026 um 11.00.wav", TEN),
        ("call_27-11-2026_11h00.ogg", TEN),
        ("2026-07-01 11.00 summer.mp4", datetime(2026, 7, 1, 9, tzinfo=UTC)),
        ("Budget 2026.mp4", None),
        ("2026-13-45 99-99.mp4", None),
        ("call.mp4", None),
    ],
)
def test_the_moment_in_a_name(name, moment):
    assert said_moment(name, PARIS) == moment


@pytest.mark.parametrize(
    ("name", "title"),
    [
        ("Glazing call: palm house 2026-11-27 11-00-12.mp4", "Glazing palm house"),
        ("GMT20261127-110000_Recording (2).mp4", ""),
        ("palm_house-glazing.mp4", "palm house glazing"),
        ("Works meeting-20261127_110000-Meeting Recording.mp4", "Works"),
    ],
)
def test_what_else_a_name_says(name, title):
    assert title_in(name) == title


@dataclass
class Plan:
    title: str
    start: datetime
    end: datetime


def plan(title: str, minutes: int, length: int = 30) -> Plan:
    start = TEN + timedelta(minutes=minutes)
    return Plan(title, start, start + timedelta(minutes=length))


@pytest.mark.parametrize(
    ("name", "at", "planned", "found"),
    [
        ("x.mp4", TEN, [plan("Glazing", 0), plan("Heating", 60)], 0),
        ("x.mp4", TEN, [plan("Glazing", 10), plan("Heating", 90)], 0),
        ("x.mp4", TEN, [plan("Glazing", -40, 90)], 0),
        ("x.mp4", TEN, [plan("Open day", -300, 600)], None),
        ("heating.mp4", TEN, [plan("Glazing", 0), plan("Heating: flow temperatures", 5)], 1),
        ("x.mp4", TEN, [plan("Glazing", 0), plan("Heating", 5)], None),
        ("Heating flow temperatures.mp4", TEN, [plan("Glazing", 200), plan("Heating: flow temperatures", 300)], 1),
        ("Heating flow temperatures.mp4", TEN, [plan("Heating: flow temperatures", 60 * 24 * 3)], None),
        ("heating.mp4", None, [plan("Heating", 0)], None),
        ("heating.mp4", TEN, [], None),
    ],
)
def test_the_meeting_it_is_of(name, at, planned, found):
    match = match_recording(name, at, planned)
    assert match.at == found and match.why
