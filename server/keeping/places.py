"""What is kept where: sizes, places, ages, engines, outside services."""

from __future__ import annotations

import json
from collections import Counter
from dataclasses import dataclass
from datetime import timedelta
from pathlib import PurePath

from django.conf import settings
from django.core.files.storage import default_storage
from django.db import connection
from django.db.models import Count, Max, Min, Q, Sum
from django.utils import timezone

from server.accounts.models import Workspace
from server.calendars.models import Calendar
from server.folders.models import Folder
from server.meetings.models import Hold, Meeting
from server.minutes.models import OwnWriter
from server.pipeline.files import sizes_in
from server.telephone.models import Dialer

_SOUND, _PICTURE = frozenset({".wav", ".webm", ".flac", ".mp3", ".ogg", ".opus", ".m4a", ".aac"}), frozenset({".jpg", ".jpeg", ".png"})


@dataclass(frozen=True)
class Outside:
    """A service elsewhere. what: a word of the interface's. host: where; how many use it."""

    what: str
    host: str
    count: int


def meetings_kept(workspace: Workspace) -> dict:
    """How many, of when, how long; by age."""
    now = timezone.now()
    found = Meeting.objects.filter(workspace=workspace, going_at=None)
    ages = {f"age_{days}": Count("pk", filter=Q(started_at__gt=now - timedelta(days=days))) for days in (30, 365)}
    told = found.aggregate(count=Count("pk"), seconds=Sum("duration"), oldest=Min("started_at"), newest=Max("started_at"), **ages)
    told["taken_out"] = found.exclude(removed_at=None).count()
    told["held"] = Hold.objects.filter(meeting__workspace=workspace).count()
    return told


def media_kept(workspace: Workspace) -> dict[str, tuple[int, int]]:
    """What kind of file → how many, and bytes. Every file is looked at: a second for ten thousand meetings in a folder."""
    files: Counter[str] = Counter()
    sizes: Counter[str] = Counter()
    for key in Meeting.objects.filter(workspace=workspace).values_list("pk", flat=True):
        for name, size in sizes_in(default_storage, str(key)):
            kind = _kind(PurePath(name))
            files[kind] += 1
            sizes[kind] += size
    return {kind: (count, sizes[kind]) for kind, count in sorted(files.items())}


def _kind(name: PurePath) -> str:
    if "screen" in name.parts[:-1] or name.suffix.lower() in _PICTURE:
        return "picture"
    if "laid" in name.parts[:-1]:
        return "laid"
    if "excerpt" in name.name or "excerpts" in name.parts[:-1]:
        return "excerpt"
    return "sound" if name.suffix.lower() in _SOUND else "original"


def database_bytes() -> int:
    """Of the whole installation: PostgreSQL does not know how much of it is whose."""
    with connection.cursor() as cursor:
        cursor.execute("select pg_database_size(current_database())")
        return int(cursor.fetchone()[0])


def engines() -> list[str]:
    """What hears and reads here, in the words of the list of models; all of it on this machine."""
    lock = settings.ROOT / "house" / "models.lock.json"
    return [one["what"] for one in json.loads(lock.read_text())["models"]]


def outside_of(workspace: Workspace) -> list[Outside]:
    """The services elsewhere that this workspace uses now."""
    of = {"membership__workspace": workspace}
    found = [Outside("mail", settings.EMAIL_HOST, 1)]
    for what, rows in (
        ("calendar", Calendar.objects.filter(**of).exclude(host="")),
        ("folder", Folder.objects.filter(**of)),
    ):
        found += [Outside(what, host, count) for host, count in rows.values_list("host").annotate(count=Count("pk")).order_by("host")]
    if dialers := Dialer.objects.filter(**of).count():
        found.append(Outside("telephone", "", dialers))
    found += [Outside("writer", one.address, 1) for one in OwnWriter.objects.filter(workspace=workspace)]
    found += [Outside("conference", one.partition("=")[2], 1) for one in settings.CONFERENCES]
    if not settings.MEDIA_ROOT:
        found.append(Outside("media", getattr(default_storage, "endpoint_url", None) or "s3", 1))
    if settings.MAIL_DOMAIN:
        found.append(Outside("letters", settings.MAIL_DOMAIN, 1))
    return found
