"""Looking into a folder: what is new and lies still is taken, once, as the meeting that it is of."""

from __future__ import annotations

import logging
import re
from collections.abc import Mapping, Sequence
from contextlib import suppress
from datetime import datetime, timedelta
from pathlib import PurePath
from zoneinfo import ZoneInfo

from django.utils import timezone

from core.formats import READERS
from core.formats.chat import read_chat
from core.media import probe
from core.planning.recordings import match_recording, said_moment, title_in
from core.problems import InputProblem
from core.text import one_line, prose
from server.bounds import EARLIEST, LATEST
from server.calendars.actions.hold import hold
from server.calendars.models import Planned
from server.calendars.queries import names_by_address
from server.capture.actions.take_upload import Given, take_upload
from server.capture.models import Recording, Upload
from server.capture.uploads import LARGEST, has_room, path_of
from server.folders.lying import Lying, Place
from server.folders.models import Folder, Found, FoundState
from server.folders.places import place_at
from server.meetings.models import Attendee
from server.meetings.models import Place as Where
from server.meetings.people import find_people
from server.outward import later
from server.problems import Refused
from server.sealing import unseal

logger = logging.getLogger("server.folders")

EVERY = timedelta(minutes=2)
STILL = timedelta(seconds=60)
"""A file is whole when it has not changed for so long, as far as looking twice can tell."""
MEDIA = frozenset(".mp4 .m4a .m4v .mov .mkv .webm .mp3 .wav .flac .ogg .opus .oga .aac .wma .avi .mpg .mpeg .3gp .amr .mka".split())
_UNFINISHED = frozenset(".part .crdownload .tmp .download .partial .filepart".split())
_CHAT, _LARGEST_CHAT = ".txt", 4_000_000
_AROUND = timedelta(hours=16)


def look(folder: Folder) -> None:
    """Look in, and take what is ready. What cannot be had is said in `trouble`, and tried again, later each time."""
    place = place_at(unseal(folder.address), folder.username, unseal(folder.secret))
    try:
        lying = place.files()
    except InputProblem as problem:
        fails = folder.fails + 1
        Folder.objects.filter(pk=folder.pk).update(trouble=str(problem), fails=fails, next_at=later(EVERY, fails))
        return
    ready = note(folder, lying, timezone.now())
    Folder.objects.filter(pk=folder.pk).update(trouble="", fails=0, looked_at=timezone.now(), next_at=timezone.now() + EVERY)
    for row, one in ready:
        _take(folder, place, row, one, _chat_of(one, lying))


def note(folder: Folder, lying: Sequence[Lying], now: datetime) -> list[tuple[Found, Lying]]:
    """Note what lies there, and say which files are ready to be taken. The first time everything is left as it lies."""
    known = {row.href: row for row in folder.found.all()}
    there = {one.href for one in lying}
    first = folder.looked_at is None
    ready = []
    for one in lying:
        row = known.get(one.href)
        if row is None:
            row = _renamed(known, there, one) or Found(folder=folder, href=one.href)
            if row.pk:
                known.pop(row.href)
                row.href, row.name = one.href, one.name
            elif first:
                row.state, row.words = FoundState.LEFT, "it lay there before the folder was watched"
        same = row.pk is not None and (row.size, row.mark) == (one.size, one.mark)
        row.name, row.size, row.mark, row.modified = one.name, one.size, one.mark, one.modified
        if row.state == FoundState.GROWING or row.state in (FoundState.REFUSED, FoundState.BESIDE) and not same:
            row.state, row.words, useful = _state_of(one, lying)
            chat = _chat_of(one, lying)
            changed = max(one.modified or row.found_at, (chat.modified if chat else None) or EARLIEST)
            if useful and same and now - changed > STILL:
                ready.append((row, one))
        row.save()
    folder.found.exclude(href__in=there).filter(state=FoundState.GROWING).delete()
    return ready


def _renamed(known: Mapping[str, Found], there: set[str], one: Lying) -> Found | None:
    """A file that was taken, or left, under another name that is there no more."""
    return next((row for href, row in known.items() if href not in there and one.size and (row.size, row.mark) == (one.size, one.mark) and row.state != FoundState.GROWING), None)


def _state_of(one: Lying, lying: Sequence[Lying]) -> tuple[str, str, bool]:
    """Its state, why, and whether it is to be taken once it lies still."""
    suffix, stem = PurePath(one.name).suffix.lower(), _stem(one.name)
    if one.name.startswith(".") or suffix in _UNFINISHED:
        return FoundState.GROWING, "it is still being written", False
    if suffix in MEDIA:
        if one.size > LARGEST:
            return FoundState.REFUSED, f"it is larger than {LARGEST // 2**30} GB", False
        return FoundState.GROWING, "it is taken when it lies still" if one.size else "it is empty", one.size > 0
    if suffix == _CHAT and (whose := next((other for other in lying if _chat_of(other, [one])), None)):
        return FoundState.BESIDE, f"it is the chat of {whose.name}, and is taken with it", False
    if suffix == _CHAT and "chat" in stem:
        return FoundState.GROWING, "it is a chat: it is taken with the recording that it lies beside", False
    if suffix not in READERS:
        return FoundState.REFUSED, "it is neither sound nor picture nor a transcript", False
    if beside := next((other.name for other in lying if PurePath(other.name).suffix.lower() in MEDIA and stem.startswith(_stem(other.name))), None):
        return FoundState.BESIDE, f"it belongs to {beside}, which is heard itself", False
    return FoundState.GROWING, "it is taken when it lies still" if one.size else "it is empty", one.size > 0


def _chat_of(one: Lying, lying: Sequence[Lying]) -> Lying | None:
    """The chat that lies beside a recording: called as it is, with "chat" before, within or behind."""
    if PurePath(one.name).suffix.lower() not in MEDIA:
        return None
    texts = (other for other in lying if PurePath(other.name).suffix.lower() == _CHAT and "chat" in _stem(other.name))
    return next((other for other in texts if other.size and _bare(other.name) == _bare(one.name)), None)


def _bare(name: str) -> str:
    return re.sub(r"[\W_]+", " ", _stem(name).replace("chat", " ")).strip()


def _stem(name: str) -> str:
    return PurePath(name).stem.lower()


def _take(folder: Folder, place: Place, row: Found, one: Lying, chat: Lying | None) -> None:
    """Fetch a file, and make a meeting of it, with the chat that lies beside it."""
    membership = folder.membership
    upload = Upload.objects.create(user=membership.user, name=one.name, size=one.size)
    try:
        if not has_room(one.size):
            raise InputProblem("There is no room for it on this machine just now. It is taken when there is.")
        place.fetch(one, path_of(upload))
    except InputProblem as problem:
        Found.objects.filter(pk=row.pk).update(words=str(problem)[:400])
        _let_go(upload)
        return
    Upload.objects.filter(pk=upload.pk).update(offset=one.size)
    zone = ZoneInfo(membership.user.time_zone or "UTC")
    start, event, why = _of(folder, one, upload, zone)
    written, remark = _written(place, chat, upload, start.astimezone(zone))
    try:
        meeting = take_upload(membership, upload.pk, _given(folder, one, start, event, zone))
    except Refused as refused:
        Found.objects.filter(pk=row.pk).update(state=FoundState.REFUSED, words=refused.detail[:400])
        _let_go(upload)
        return
    if written:
        Recording.objects.filter(meeting=meeting).update(written=written)
        # They were there; what a file says lets nobody see anything.
        for person in find_people(membership.workspace, sorted({name for _, name, _ in written})):
            Attendee.objects.get_or_create(meeting=meeting, person=person)
    if event:
        hold(membership, meeting, event)
    words = (f"it is “{event.title}”: {why}" if event else f"it goes by its own name: {why}") + remark
    Found.objects.filter(pk=row.pk).update(state=FoundState.TAKEN, words=words[:400], meeting=meeting)
    logger.info("a file of folder %s became meeting %s", folder.pk, meeting.pk)


def _written(place: Place, chat: Lying | None, upload: Upload, start: datetime) -> tuple[list[tuple[float, str, str]], str]:
    """What is in the chat, and a remark where it cannot be read: the recording is taken all the same."""
    if chat is None:
        return [], ""
    path = path_of(upload).with_suffix(".chat")
    try:
        if chat.size > _LARGEST_CHAT:
            raise InputProblem("it is too large")
        place.fetch(chat, path)
        return read_chat(prose(path.read_bytes().decode("utf-8-sig", errors="replace")), start, probe(path_of(upload)).duration or 0.0), ""
    except InputProblem as problem:
        return [], f"; of its chat nothing was taken: {problem}"
    finally:
        path.unlink(missing_ok=True)


def _of(folder: Folder, one: Lying, upload: Upload, zone: ZoneInfo) -> tuple[datetime, Planned | None, str]:
    """When it began, the planned meeting that it is of, and why that one or none."""
    recorded, length = None, 0.0
    with suppress(InputProblem):
        facts = probe(path_of(upload))
        recorded, length = facts.recorded_at, facts.duration or 0.0
    ended = one.modified - timedelta(seconds=length) if one.modified and length else None
    start = said_moment(one.name, zone) or recorded or ended
    if start is not None and not EARLIEST <= start < LATEST:
        start = None
    around = start or timezone.now()
    planned = list(Planned.objects.filter(calendar__membership=folder.membership, all_day=False, start__lt=around + _AROUND, end__gt=around - _AROUND).exclude(status="cancelled"))
    planned = list({(row.uid, row.instance): row for row in planned}.values())
    match = match_recording(one.name, start, planned)
    return start or one.modified or timezone.now(), planned[match.at] if match.at is not None else None, match.why


def _given(folder: Folder, one: Lying, start: datetime, event: Planned | None, zone: ZoneInfo) -> Given:
    if event is None:
        return Given(title_in(one.name) or one_line(PurePath(one.name).stem), start, zone.key, place=Where.FILE, visibility=folder.visibility)
    names = names_by_address(folder.membership, [event])
    people = [names.get(who["address"], who["name"]) for who in event.people if who["answer"] != "declined"]
    return Given(event.title or title_in(one.name) or one.name, start, event.zone or zone.key, people, place=Where.ONLINE if event.link else Where.FILE, visibility=folder.visibility)


def _let_go(upload: Upload) -> None:
    path_of(upload).unlink(missing_ok=True)
    Upload.objects.filter(pk=upload.pk).delete()


