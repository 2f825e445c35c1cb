"""A file of customers (`docs/outside.md`): minutes are noted with the organisation whose people were there, and its fields filled by what was said."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any, ClassVar
from urllib.parse import quote, urlencode, urljoin

from pydantic import Field

from core.planning.free_mail import domain_of
from core.problems import InputProblem
from core.search.value import FieldType
from core.text import one_line
from server.connections.kinds.base import Address, FieldThere, Missing, Parcel, Receipt, Secret, Settings, Target, Touched
from server.connections.kinds.spoken import Spoken, rows_in
from server.connections.models import Subject
from server.connections.subjects.answer import AnswerContents
from server.connections.subjects.minutes import MinutesContents

_FIELD = "field "
"""Begins the key of what lies there of a field: "field ORGANISATION FIELD"."""


class CustomersSettings(Settings):
    """Where it is."""

    address: Address = Field(title="Address", description="Of the file's interface.")
    token: Secret = Field(title="Token", description="Made there for this connection: it reads people and organisations, and writes what was done and fields.")


class Customers(Spoken):
    """Who was there says where something goes: by their address, else by its domain."""

    name: ClassVar[str] = "customers"
    title: ClassVar[str] = "A file of customers"
    about: ClassVar[str] = "Minutes are noted with the organisation whose people were there; fields are filled by what was said, once somebody has looked at it."
    asks = CustomersSettings
    takes = frozenset({Subject.MINUTES, Subject.ANSWER})
    keyed = True
    recalls = True
    places = True
    fills = True
    strange: ClassVar[str] = "What the file answers is not what a file of customers answers."
    nameless: ClassVar[str] = "The file has answered without saying what it noted."
    settings: CustomersSettings

    def check(self) -> str:
        """How much is there?"""
        return f"The file is there, with {self.ask('GET', 'me').get('organisations', 'some')} organisations."

    def place(self, address: str) -> Sequence[Target]:
        """The organisations of the people of an address; where nobody has it, those of its domain."""
        people = rows_in(self.ask("GET", f"people?{urlencode({'address': address})}"), "people")
        keys = list(dict.fromkeys(str(one["organisation"]) for one in people if one.get("organisation")))
        if keys:
            return [self._target(self.ask("GET", f"organisations/{quote(key)}")) for key in keys]
        if not (domain := domain_of(address)):
            return []
        return [self._target(one) for one in rows_in(self.ask("GET", f"organisations?{urlencode({'domain': domain})}"), "organisations")]

    def targets(self) -> Sequence[Target]:
        """All organisations."""
        return [self._target(one) for one in rows_in(self.ask("GET", "organisations"), "organisations")]

    def fields(self) -> Sequence[FieldThere]:
        """Those of an organisation; of a type that is not known here none."""
        rows = rows_in(self.ask("GET", "fields"), "fields")
        return [FieldThere(one["id"], one_line(str(one.get("title") or one["id"]))[:200], str(one["type"]), tuple(map(str, one.get("choices") or ()))) for one in rows if one.get("type") in list(FieldType)]

    def deliver(self, parcel: Parcel) -> Receipt:
        """A note of what was done; or the value of a field."""
        if isinstance(parcel.contents, AnswerContents):
            return self._fill(parcel.target, parcel.contents.field, _typed(parcel.contents), parcel.there, parcel.reserve)
        said = self._noted(parcel)
        if parcel.there:
            return self.receipt(self.ask("PATCH", f"log/{quote(parcel.there.remote)}", said=said, key=parcel.key_of_words))
        return self.receipt(self.ask("POST", f"organisations/{quote(parcel.target)}/log", said=said, key=parcel.key))

    def find(self, key: str) -> Receipt | None:
        """The note that a request of this key made."""
        found = rows_in(self.ask("GET", f"log?{urlencode({'key': key})}"), "log")
        return self.receipt(found[0]) if found else None

    def withdraw(self, key: str, there: Receipt) -> None:
        """Take a note out; of a field, its value, where it is still the one that we wrote."""
        if not there.remote.startswith(_FIELD):
            self.speaker().ask("DELETE", f"log/{quote(there.remote)}", key=key)
            return
        _, organisation, field = there.remote.split(" ", 2)
        self._fill(organisation, field, None, there)

    def _fill(self, organisation: str, field: str, value: Any, there: Receipt | None, reserve: Callable[[Receipt], None] = lambda receipt: None) -> Receipt:
        """What somebody has written there since is theirs."""
        now = self.ask("GET", f"organisations/{quote(organisation)}")
        held = (now.get("fields") or {}).get(field)
        ours = there.mark if there else ""
        if held not in (None, "") and str(held) != ours and held != value:
            raise _Written(f"“{now.get('name', organisation)}” has “{one_line(str(held))[:80]}” there already, which is not from here. It was left.")
        address = urljoin(self.settings.address, str(now.get("url", ""))) if now.get("url") else ""
        filled = Receipt(f"{_FIELD}{organisation} {field}", address, "" if value is None else str(value))
        reserve(filled)
        headers = {"If-Match": f'"{now["version"]}"'} if "version" in now else {}
        try:
            self.ask("PATCH", f"organisations/{quote(organisation)}", said={"fields": {field: value}}, headers=headers)
        except Touched:
            self.ask("PATCH", f"organisations/{quote(organisation)}", said={"fields": {field: value}})
        return filled

    def _noted(self, parcel: Parcel) -> dict[str, Any]:
        contents = parcel.contents
        assert isinstance(contents, MinutesContents)
        text = "\n".join(line for section in contents.sections for line in (section.heading, *(f"– {one.text}" for one in section.lines), ""))
        people = [one["id"] for address in parcel.at_desk for one in rows_in(self.ask("GET", f"people?{urlencode({'address': address})}"), "people") if str(one.get("organisation")) == parcel.target]
        return {"title": contents.meeting.title, "text": text.strip(), "at": contents.meeting.started_at.isoformat(), "link": contents.meeting.link, "people": people}

    def _target(self, one: dict[str, Any]) -> Target:
        if not isinstance(one.get("id"), str):
            raise Missing("An organisation is not there any more.")
        return Target(one["id"], one_line(str(one.get("name", "")))[:200], "organisation")


class _Written(InputProblem):
    """Somebody has written something else there."""


def _typed(answer: AnswerContents) -> Any:
    if answer.type == FieldType.NUMBER:
        value = float(answer.value)
        return int(value) if math.isclose(value, round(value)) else value
    return answer.value
