"""A calendar server for one machine: Radicale, which speaks CalDAV (RFC 4791), with accounts and events that are made up.

`python -m standins.calendar --port N --folder DIR [--events FILE]`; FILE has the accounts and their events (`write_events`).
"""

from __future__ import annotations

import argparse
import json
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from base64 import b64encode
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from pathlib import Path
from types import FrameType
from zoneinfo import ZoneInfo

from icalendar import Calendar, Event, vCalAddress, vText

_NEW = """<?xml version="1.0" encoding="utf-8"?><mkcol xmlns="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav"><set><prop>
<resourcetype><collection/><C:calendar/></resourcetype><displayname>{name}</displayname>
<C:supported-calendar-component-set><C:comp name="VEVENT"/></C:supported-calendar-component-set></prop></set></mkcol>"""


@dataclass(frozen=True)
class Engagement:
    """An event of an account. start: ISO 8601 with its offset; zone: its time zone. people: (name, address, PARTSTAT), who called it first."""

    uid: str
    title: str
    start: str
    minutes: int
    zone: str = "Europe/London"
    rule: str = ""
    people: Sequence[tuple[str, str, str]] = ()
    place: str = ""
    text: str = ""
    conference: str = ""
    private: bool = False


def written(one: Engagement) -> bytes:
    """As iCalendar."""
    event, start = Event(), datetime.fromisoformat(one.start).astimezone(ZoneInfo(one.zone))
    event.add("uid", one.uid)
    event.add("dtstamp", datetime.now(UTC))
    event.add("summary", one.title)
    event.add("dtstart", start)
    event.add("dtend", datetime.fromtimestamp(start.timestamp() + 60 * one.minutes, ZoneInfo(one.zone)))
    if one.rule:
        event.add("rrule", dict(part.split("=") for part in one.rule.split(";")))
    for number, (name, address, answer) in enumerate(one.people):
        for role in ("organizer", "attendee")[number > 0 :]:
            person = vCalAddress(f"mailto:{address}")
            person.params["CN"], person.params["PARTSTAT"] = vText(name), vText(answer)
            event.add(role, person, encode=0)
    for name, value in (("location", one.place), ("description", one.text)):
        if value:
            event.add(name, value)
    if one.conference:
        event.add("conference", one.conference, parameters={"VALUE": "URI", "FEATURE": "AUDIO,VIDEO"})
    if one.private:
        event.add("class", "PRIVATE")
    calendar = Calendar()
    calendar.add("version", "2.0")
    calendar.add("prodid", "-//made up//")
    calendar.add_component(event)
    calendar.add_missing_timezones()
    return calendar.to_ical()


class Account:
    """An account of the server, for filling it."""

    def __init__(self, address: str, name: str, password: str):
        """address: of the server, such as "http://127.0.0.1:8641"."""
        self.home = f"{address}/{name}"
        self._key = b64encode(f"{name}:{password}".encode()).decode()

    def make(self, calendar: str, title: str) -> str:
        """A calendar, where there is none yet; its address."""
        if self._ask("MKCOL", f"{self.home}/{calendar}/", _NEW.format(name=title).encode()) not in (201, 405, 409):
            raise RuntimeError(f"no calendar {calendar} could be made")
        return f"{self.home}/{calendar}/"

    def put(self, calendar: str, uid: str, data: bytes) -> None:
        """An event, new or changed."""
        self._ask("PUT", f"{self.home}/{calendar}/{uid}.ics", data, "text/calendar")

    def delete(self, calendar: str, uid: str) -> None:
        """An event, gone."""
        self._ask("DELETE", f"{self.home}/{calendar}/{uid}.ics")

    def _ask(self, method: str, url: str, body: bytes | None = None, kind: str = "application/xml") -> int:
        headers = {"Authorization": f"Basic {self._key}", "Content-Type": f"{kind}; charset=utf-8"}
        request = urllib.request.Request(url, body, headers, method=method)
        try:
            with urllib.request.build_opener(urllib.request.ProxyHandler({})).open(request, timeout=10) as answer:
                return answer.status
        except urllib.error.HTTPError as error:
            return error.code


def start(port: int, folder: Path, accounts: Mapping[str, str]) -> subprocess.Popen:
    """Radicale on loopback, answering; accounts: name → password. Raises TimeoutError."""
    folder.mkdir(parents=True, exist_ok=True)
    users = folder / "users"
    users.touch(mode=0o600)
    users.write_text("".join(f"{name}:{password}\n" for name, password in accounts.items()))
    settings = {
        "server": {"hosts": f"127.0.0.1:{port}"},
        "auth": {"type": "htpasswd", "htpasswd_filename": str(users), "htpasswd_encryption": "plain", "delay": "0"},
        "storage": {"filesystem_folder": str(folder / "collections")},
        "logging": {"level": "error"},
    }
    config = folder / "config"
    config.write_text("\n".join(f"[{part}]\n" + "\n".join(f"{key} = {value}" for key, value in rows.items()) for part, rows in settings.items()) + "\n")
    running = subprocess.Popen([sys.executable, "-m", "radicale", "--config", str(config)], env={**os.environ, "RADICALE_CONFIG": ""})
    end = time.monotonic() + 20
    while time.monotonic() < end:
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/.web/", timeout=1).close()
            return running
        except urllib.error.HTTPError:
            return running
        except OSError:
            time.sleep(0.1)
    running.kill()
    raise TimeoutError("the calendar stand-in does not answer")


def write_events(path: Path, accounts: Mapping[str, str], events: Mapping[str, Mapping[str, Sequence[Engagement]]]) -> None:
    """What `--events` reads. events: account → title of a calendar → its events."""
    rows = {name: {title: [asdict(one) for one in wanted] for title, wanted in calendars.items()} for name, calendars in events.items()}
    path.parent.mkdir(parents=True, exist_ok=True)
    path.touch(mode=0o600)
    path.write_text(json.dumps({"accounts": dict(accounts), "events": rows}))


def fill(address: str, accounts: Mapping[str, str], events: Mapping[str, Mapping[str, Sequence[Engagement]]]) -> None:
    """Put events into accounts' calendars; those that are there already are written anew."""
    for name, calendars in events.items():
        account = Account(address, name, accounts[name])
        for title, wanted in calendars.items():
            slug = title.lower().replace(" ", "-")
            account.make(slug, title)
            for one in wanted:
                account.put(slug, one.uid, written(one))


def main() -> None:
    """Serve until told to stop."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--port", type=int, required=True)
    parser.add_argument("--folder", type=Path, required=True)
    parser.add_argument("--events", type=Path)
    asked = parser.parse_args()
    told = json.loads(asked.events.read_text()) if asked.events and asked.events.exists() else {"accounts": {}, "events": {}}
    running = start(asked.port, asked.folder, told["accounts"])

    def stop(number: int, frame: FrameType | None) -> None:
        running.terminate()

    signal.signal(signal.SIGTERM, stop)
    signal.signal(signal.SIGINT, stop)
    events = {name: {title: [Engagement(**one) for one in wanted] for title, wanted in rows.items()} for name, rows in told["events"].items()}
    fill(f"http://127.0.0.1:{asked.port}", told["accounts"], events)
    running.wait()


if __name__ == "__main__":
    main()
