"""Minutes and records as files in a tree of folders: what a folder over WebDAV and a store of objects share. What somebody has changed there is left, and ours laid beside it."""

from __future__ import annotations

import re
from abc import abstractmethod
from pathlib import PurePosixPath
from typing import Any, ClassVar, Literal
from zoneinfo import ZoneInfo

from pydantic import Field, field_validator

from core.text import one_line
from server.connections.kinds.base import Denied, Kind, Line, Missing, Parcel, Receipt, Settings, Touched
from server.connections.models import Subject

MOST_BESIDE = 50
_PLACES = ("year", "month", "date", "series", "title", "what")
_BAD = re.compile(r'[\x00-\x1f<>:"/\\|?*]+')
"""What one of the usual file systems does not have in names (common practice)."""


class FilesSettings(Settings):
    """How files are called there, and of what form they are."""

    path: Line = Field(
        "{year}/{series}/{date} {title} – {what}",
        title="Folders and name",
        min_length=1,
        description="Of {year}, {month}, {date}, {series}, {title}, {what}, with / between folders. The ending comes by itself.",
    )
    minutes_as: Literal["docx", "pdf", "md", "txt", "html"] = Field("docx", title="Minutes as")
    record_as: Literal["docx", "pdf", "md", "txt", "vtt", "json"] = Field("docx", title="Record as")

    @field_validator("path")
    @classmethod
    def _known(cls, path: str) -> str:
        unknown = [name for name in re.findall(r"{([^{}]*)}", path) if name not in _PLACES]
        if unknown or path.count("{") != path.count("}"):
            raise ValueError(f"only {', '.join(_PLACES)} can stand in braces")
        if ".." in PurePosixPath(path).parts:
            raise ValueError("a folder cannot be “..”")
        return path


class Files(Kind):
    """Where the bytes go is its kinds' affair: they put, look, and take away."""

    takes = frozenset({Subject.MINUTES, Subject.RECORD})
    recalls: ClassVar[bool] = True
    settings: Any

    @abstractmethod
    def state(self, path: str) -> str | None:
        """By what the file there is told from another; None where there is none. Raises Trouble, Denied."""

    @abstractmethod
    def put(self, path: str, data: bytes, *, only: str | None) -> str:
        """Lay a file there; only: where what lies there is in that state, "" where nothing does, None in any case. Its state then. Raises Touched."""

    @abstractmethod
    def remove(self, path: str, state: str) -> None:
        """Take it away, where it is in that state. Raises Touched, Missing."""

    def deliver(self, parcel: Parcel) -> Receipt:
        """Where it lies already and nobody has changed it, in its place; else beside."""
        form = self.settings.minutes_as if parcel.subject == Subject.MINUTES else self.settings.record_as
        data = parcel.file(parcel.subject, form)
        there = parcel.there
        if there and there.mark:
            try:
                if self.state(there.remote) == there.mark:
                    return Receipt(there.remote, self.shown(there.remote), self.put(there.remote, data, only=there.mark))
            except Touched:
                pass  # somebody was quicker
            return self._beside(there.remote, data, parcel)
        if there:  # an earlier try of which no answer came has laid it there, or was about to
            return Receipt(there.remote, self.shown(there.remote), self.put(there.remote, data, only=None))
        return self._beside(f"{path_of(self.settings.path, parcel)}.{form}", data, parcel, first=True)

    def withdraw(self, key: str, there: Receipt) -> None:
        """Take it away. What somebody has changed there is theirs."""
        found = self.state(there.remote)
        if found is None:
            raise Missing("The file is not there any more.")
        if there.mark and found != there.mark:
            raise Denied(f"Somebody has changed “{PurePosixPath(there.remote).name}” there since. It was left; take it away there.")
        self.remove(there.remote, found)

    def shown(self, path: str) -> str:
        """Its address for people, "" where it has none."""
        return ""

    def _beside(self, path: str, data: bytes, parcel: Parcel, first: bool = False) -> Receipt:
        """At the first name that is free."""
        for number in range(1 if first else 2, MOST_BESIDE):
            name = path if number == 1 else _numbered(path, number)
            if self.state(name) is not None:
                continue
            parcel.reserve(Receipt(name))
            try:
                return Receipt(name, self.shown(name), self.put(name, data, only=""))
            except Touched:
                continue
        raise Denied(f"More than {MOST_BESIDE} files of this name lie there.")


def path_of(pattern: str, parcel: Parcel) -> str:
    """Where a file goes, without its ending. What a name cannot hold is left out of it; an empty folder falls away."""
    meeting = parcel.contents.meeting
    when = meeting.started_at.astimezone(ZoneInfo(meeting.time_zone))
    said = {"year": f"{when:%Y}", "month": f"{when:%m}", "date": f"{when:%Y-%m-%d}", "series": meeting.series or "", "title": meeting.title, "what": parcel.subject.label}
    parts = []
    for part in pattern.split("/"):
        name = _BAD.sub(" ", one_line(part.format_map({name: _BAD.sub(" ", value) for name, value in said.items()})))
        name = re.sub(r"\s+", " ", name).strip(" .–-")[:120].strip(" .")
        if name:
            parts.append(name)
    return "/".join(parts) or "Minutes"


def _numbered(path: str, number: int) -> str:
    place = PurePosixPath(re.sub(r" \((\d+)\)(?=\.\w+$)", "", path))
    return str(place.with_name(f"{place.stem} ({number}){place.suffix}"))
