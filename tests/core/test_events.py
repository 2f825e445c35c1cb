"""Events of calendars. Recurrence is held against the examples that RFC 5545 publishes (3.8.5.3), and against dateutil."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from dateutil.rrule import rrulestr
from hypothesis import given
from hypothesis import strategies as st

from core.planning.events import MOST_BYTES, Answer, Status, read_events
from core.planning.links import link_in
from core.problems import InputProblem

NEW_YORK = ZoneInfo("America/New_York")


def calendar(*events: str, more: str = "") -> bytes:
    """A calendar of events, each the lines between BEGIN:VEVENT and END:VEVENT."""
    parts = "".join(f"BEGIN:VEVENT\n{event.strip()}\nEND:VEVENT\n" for event in events)
    return f"BEGIN:VCALENDAR\nVERSION:2.0\nPRODID:-//test//\n{more}{parts}END:VCALENDAR\n".replace("\n", "\r\n").encode()


def starts(data: bytes, since: str, until: str, zone: str = "America/New_York") -> list[str]:
    """"0902T09" for each instance, in New York."""
    span = [datetime.fromisoformat(one).replace(tzinfo=NEW_YORK) for one in (since, until)]
    return [event.start.astimezone(NEW_YORK).strftime("%m%dT%H") for event in read_events(data, *span, zone).events]


def days(month: int, *numbers: int) -> list[str]:
    return [f"{month:02}{day:02}T09" for day in numbers]


PUBLISHED = [
    # RFC 5545, 3.8.5.3: the rule, the span that is looked at, and the days it names there.
    ("FREQ=DAILY;COUNT=10", "1997-09-01", "1998-01-01", days(9, *range(2, 12))),
    ("FREQ=DAILY;UNTIL=19971224T000000Z", "1997-12-20", "1998-02-01", days(12, 20, 21, 22, 23)),
    ("FREQ=DAILY;INTERVAL=2", "1997-09-01", "1997-09-12", days(9, 2, 4, 6, 8, 10)),
    ("FREQ=DAILY;INTERVAL=10;COUNT=5", "1997-09-01", "1998-01-01", days(9, 2, 12, 22) + days(10, 2, 12)),
    ("FREQ=WEEKLY;COUNT=10", "1997-10-20", "1998-01-01", days(10, 21, 28) + days(11, 4)),
    ("FREQ=WEEKLY;UNTIL=19971007T000000Z;WKST=SU;BYDAY=TU,TH", "1997-09-01", "1998-01-01", days(9, 2, 4, 9, 11, 16, 18, 23, 25, 30) + days(10, 2)),
    ("FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH", "1997-09-01", "1998-01-01", days(9, 2, 4, 16, 18, 30) + days(10, 2, 14, 16)),
    ("FREQ=MONTHLY;BYMONTHDAY=-3", "1997-09-01", "1997-12-31", days(9, 28) + days(10, 29) + days(11, 28) + days(12, 29)),
    ("FREQ=MONTHLY;COUNT=10;BYMONTHDAY=2,15", "1997-09-01", "1997-11-01", days(9, 2, 15) + days(10, 2, 15)),
    ("FREQ=MONTHLY;INTERVAL=2;BYDAY=TU", "1997-09-01", "1997-11-30", days(9, 2, 9, 16, 23, 30) + days(11, 4, 11, 18, 25)),
    ("FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13", "1997-09-03", "1998-04-01", ["0213T09", "0313T09"]),
    ("FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3", "1997-09-01", "1998-01-01", days(9, 4) + days(10, 7) + days(11, 6)),
    ("FREQ=YEARLY;BYDAY=20MO", "1998-01-01", "1998-12-31", ["0518T09"]),
]


@pytest.mark.parametrize(("rule", "since", "until", "named"), PUBLISHED, ids=[rule for rule, *_ in PUBLISHED])
def test_the_examples_that_rfc_5545_publishes(rule, since, until, named):
    event = f"UID:a\nDTSTART;TZID=America/New_York:19970902T090000\nDURATION:PT1H\nRRULE:{rule}"
    found = starts(calendar(event), since, until)
    # The first start counts also where the rule does not name it.
    assert found == named or found == ["0902T09", *named]


@given(
    frequency=st.sampled_from(["DAILY", "WEEKLY", "MONTHLY", "YEARLY"]),
    interval=st.integers(1, 5),
    first=st.datetimes(datetime(2024, 1, 1), datetime(2026, 12, 28)),
    ends=st.one_of(st.just(""), st.integers(1, 40).map(lambda count: f";COUNT={count}")),
    more=st.sampled_from(["", ";BYDAY=MO,WE", ";BYMONTHDAY=-1", ";BYMONTH=3,10"]),
)
def test_recurrence_is_as_dateutil_has_it(frequency, interval, first, ends, more):
    first = first.replace(microsecond=0, second=0)
    if frequency == "WEEKLY" and "BYMONTHDAY" in more:
        more = ""
    rule = f"FREQ={frequency};INTERVAL={interval}{more}{ends}"
    since, until = datetime(2026, 2, 1), datetime(2026, 6, 1)
    wanted = {moment for moment in rrulestr(rule, dtstart=first).between(since, until - timedelta(seconds=1), inc=True)} | ({first} if since <= first < until else set())
    event = f"UID:a\nDTSTART:{first:%Y%m%dT%H%M%S}\nDURATION:PT1H\nRRULE:{rule}"
    found = read_events(calendar(event), since.replace(tzinfo=UTC), until.replace(tzinfo=UTC)).events
    got = {one.start.replace(tzinfo=None) for one in found if one.start >= since.replace(tzinfo=UTC)}
    assert got - {first} == wanted - {first}  # where a rule does not name its own start, libraries differ on whether that counts


MARCH = datetime(2026, 3, 1, tzinfo=UTC), datetime(2026, 4, 15, tzinfo=UTC)
WEEKLY = "UID:works\nSUMMARY:Works meeting\nDTSTART;TZID=Europe/Paris:20260302T090000\nDTEND;TZID=Europe/Paris:20260302T100000\nRRULE:FREQ=WEEKLY"


def test_moved_called_off_and_left_out():
    moved = "UID:works\nSUMMARY:Works meeting, later\nRECURRENCE-ID;TZID=Europe/Paris:20260309T090000\nDTSTART;TZID=Europe/Paris:20260310T150000\nDTEND;TZID=Europe/Paris:20260310T160000"
    off = "UID:works\nSUMMARY:Works meeting\nSTATUS:CANCELLED\nRECURRENCE-ID;TZID=Europe/Paris:20260316T090000\nDTSTART;TZID=Europe/Paris:20260316T090000\nDTEND;TZID=Europe/Paris:20260316T100000"
    out = WEEKLY + "\nEXDATE;TZID=Europe/Paris:20260323T090000\nRDATE;TZID=Europe/Paris:20260325T110000"
    found = read_events(calendar(out, moved, off), *MARCH).events
    assert [(f"{event.start:%d.%m. %H:%M}", event.status) for event in found] == [
        ("02.03. 08:00", Status.CONFIRMED),
        ("10.03. 14:00", Status.CONFIRMED),
        ("16.03. 08:00", Status.CANCELLED),
        ("25.03. 10:00", Status.CONFIRMED),
        ("30.03. 07:00", Status.CONFIRMED),  # summer time has begun the day before
        ("06.04. 07:00", Status.CONFIRMED),
        ("13.04. 07:00", Status.CONFIRMED),
    ]
    assert [event.instance for event in found][:2] == ["20260302T080000Z", "20260309T080000Z"]
    assert found[1].title == "Works meeting, later" and {event.uid for event in found} == {"works"} and all(event.recurs for event in found)


def test_zones():
    odd = "BEGIN:VTIMEZONE\nTZID:Shed\nBEGIN:STANDARD\nDTSTART:19700101T000000\nTZOFFSETFROM:+0330\nTZOFFSETTO:+0330\nEND:STANDARD\nEND:VTIMEZONE\n"
    at = "DTSTART{}:20260303T100000\nDURATION:PT1H\nSUMMARY:{}\nUID:{}"
    names = {"": "floating", ";TZID=Mars/Olympus": "nowhere", ";TZID=Shed": "shed", ";TZID=W. Europe Standard Time": "older", ";TZID=Asia/Kathmandu": "far"}
    data = calendar(*(at.format(zone, name, name) for zone, name in names.items()), more=odd)
    found = {event.title: (f"{event.start:%H:%M}", event.zone) for event in read_events(data, *MARCH, "America/New_York").events}
    assert found["floating"][0] == found["nowhere"][0] == "15:00"
    assert found["shed"][0] == "06:30" and found["older"][0] == "09:00" and found["far"] == ("04:15", "Asia/Kathmandu")
    own = calendar(at.format("", "floating", "f"), more="X-WR-TIMEZONE:Europe/Madrid\n")
    assert f"{read_events(own, *MARCH, 'America/New_York').events[0].start:%H:%M}" == "09:00"


def test_whole_days_people_and_secrets():
    whole = "UID:w\nDTSTART;VALUE=DATE:20260304\nSUMMARY:Open day"
    one = (
        "UID:o\nDTSTART:20260305T090000Z\nDTEND:20260305T093000Z\nSUMMARY:One to one\nCLASS:PRIVATE\nSTATUS:TENTATIVE\n"
        'ORGANIZER;CN="Maren, Ops":mailto:Maren@Larkmoor.example\nATTENDEE;CN=Teo;PARTSTAT=DECLINED:mailto:teo@larkmoor.example\n'
        "ATTENDEE;PARTSTAT=ACCEPTED;EMAIL=ines@vidrios.example:urn:uuid:1\nATTENDEE;CN=Shed;CUTYPE=ROOM:urn:shed\nLOCATION:Potting shed"
    )
    first, second = read_events(calendar(whole, one), *MARCH, "Europe/Paris").events
    assert first.all_day and (first.end - first.start) == timedelta(days=1) and f"{first.start:%d %H}" == "03 23" and not first.recurs
    assert second.private and second.status == Status.TENTATIVE and second.place == "Potting shed"
    assert (second.organiser.name, second.organiser.address) == ("Maren, Ops", "maren@larkmoor.example")
    assert [(who.name, who.address, who.answer) for who in second.invited] == [
        ("Teo", "teo@larkmoor.example", Answer.DECLINED),
        ("ines", "ines@vidrios.example", Answer.ACCEPTED),
        ("Shed", "", Answer.NONE),
    ]


def test_one_that_says_the_same_again_and_later_counts():
    old = "UID:d\nSEQUENCE:1\nSUMMARY:Old\nDTSTART:20260305T090000Z\nDTEND:20260305T100000Z"
    new = "UID:d\nSEQUENCE:3\nSUMMARY:New\nDTSTART:20260305T090000Z\nDTEND:20260305T100000Z"
    for order in ((old, new), (new, old)):
        assert [event.title for event in read_events(calendar(*order), *MARCH).events] == ["New"]


def test_what_cannot_be_read_takes_nothing_else_with_it():
    often = "UID:s\nSUMMARY:Ticker\nDTSTART:20260301T000000Z\nRRULE:FREQ=SECONDLY"
    many = "UID:h\nSUMMARY:Chimes\nDTSTART:20200101T000000Z\nDURATION:PT1M\nRRULE:FREQ=HOURLY"
    broken = "UID:b\nSUMMARY:Broken\nDTSTART:2026-bad"
    rule = "UID:r\nSUMMARY:Ruled\nDTSTART:20260305T090000Z\nRRULE:FREQ=WHENEVER"
    found = read_events(calendar(often, many, broken, rule, WEEKLY), *MARCH)
    assert {event.uid for event in found.events} >= {"works"} and {event.uid for event in found.events} <= {"works", "r", "h"}
    for name in ("Ticker", "Chimes", "Broken"):
        assert any(f"“{name}”" in trouble for trouble in found.troubles), name


def test_an_event_without_an_end_is_as_long_as_rfc_5545_says():
    """3.6.1: a whole day where it has a day, no time at all where it has a time, or its DURATION."""
    events = "UID:d\nDTSTART;VALUE=DATE:20260302", "UID:t\nDTSTART:20260302T090000Z", "UID:l\nDTSTART:20260302T090000Z\nDURATION:PT30M"
    lasts = {event.uid: event.end - event.start for event in read_events(calendar(*events), *MARCH).events}
    assert lasts == {"d": timedelta(days=1), "t": timedelta(), "l": timedelta(minutes=30)}


def test_more_events_than_anybody_has_are_refused(monkeypatch):
    monkeypatch.setattr("core.planning.events.MOST_EVENTS", 2)
    with pytest.raises(InputProblem, match="more than 2 events"):
        read_events(calendar(*(f"UID:{one}\nDTSTART:20260302T090000Z" for one in "abc")), *MARCH)


@pytest.mark.parametrize("data", [b"", b"<html>sign in</html>", b"hello", b"\xff\xfe\x00", calendar(WEEKLY)[:-20]])
def test_what_is_no_calendar_is_said(data):
    with pytest.raises(InputProblem, match="calendar"):
        read_events(data, *MARCH)


def test_what_is_too_large_is_said():
    with pytest.raises(InputProblem, match="MB"):
        read_events(calendar(WEEKLY, more="X-LONG:" + "x" * MOST_BYTES + "\n"), *MARCH)


def test_where_a_link_stands():
    event = WEEKLY + (
        "\nCONFERENCE;VALUE=URI;FEATURE=PHONE:tel:+4400000\nCONFERENCE;VALUE=URI;FEATURE=AUDIO,VIDEO:https://calls.example/rooms/a"
        "\nX-ALT-DESC;FMTTYPE=text/html:<a href=\"https://calls.example/rooms/b\">Join</a>\nDESCRIPTION:Join https://calls.example/rooms/c\\nPasscode: 12\\,34"
    )
    [first, *_] = read_events(calendar(event), *MARCH).events
    assert link_in(first.sources).address == "https://calls.example/rooms/a"
    quoted = WEEKLY + '\nCONFERENCE;VALUE=URI;FEATURE="AUDIO,VIDEO":https://calls.example/rooms/q'
    assert link_in(read_events(calendar(quoted), *MARCH).events[0].sources).address == "https://calls.example/rooms/q"
    own = WEEKLY + "\nX-WHERE-TO-CALL:https://calls.example/rooms/x"
    assert link_in(read_events(calendar(own), *MARCH).events[0].sources).address == "https://calls.example/rooms/x"
