"""For whoever runs the server: is it up, can it take people, and what it says of itself in its log. Nothing of what anybody keeps here."""

from __future__ import annotations

import json
import logging
from datetime import UTC, datetime

from django.conf import settings
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.db import DatabaseError, connection
from django.db.migrations.executor import MigrationExecutor
from django.http import HttpRequest, HttpResponse, JsonResponse

_PROBE = ".ready"


def healthy(request: HttpRequest) -> HttpResponse:
    """Is the server up, with its database?"""
    connection.ensure_connection()
    return HttpResponse("well", content_type="text/plain")


def ready(request: HttpRequest) -> HttpResponse:
    """May people be sent here: the database answers and has the tables that this version wants, and files can be kept. 503 where not.

    workers: how many were heard from lately; people can be sent here without one, and wait for their minutes then.
    """
    checks = {"database": False, "tables": False, "files": False}
    workers = 0
    try:
        with connection.cursor() as cursor:
            cursor.execute("select 1")
            checks["database"] = True
            executor = MigrationExecutor(connection)
            checks["tables"] = not executor.migration_plan(executor.loader.graph.leaf_nodes())
            cursor.execute("select count(*) from procrastinate_workers where last_heartbeat > now() - %s * interval '1 second'", [settings.WORKER_SILENCE * 2])
            [workers] = cursor.fetchone()
    except DatabaseError:
        pass
    try:
        default_storage.delete(default_storage.save(_PROBE, ContentFile(b"ready")))
        checks["files"] = True
    except OSError:
        pass
    return JsonResponse({**checks, "workers": workers}, status=200 if all(checks.values()) else 503, headers={"Cache-Control": "no-store"})


class JsonLines(logging.Formatter):
    """A line of JSON an event (AFTERSHOWER_LOG=json): when, how grave, where, what; of a failure its kind and place, without values."""

    def format(self, record: logging.LogRecord) -> str:
        """The line."""
        said = {"at": datetime.fromtimestamp(record.created, UTC).isoformat(), "level": record.levelname.lower(), "where": record.name, "what": record.getMessage()}
        if record.exc_info and record.exc_info[0]:
            trace = record.exc_info[2]
            while trace and trace.tb_next:
                trace = trace.tb_next
            said["failure"] = record.exc_info[0].__name__
            if trace:
                said["at_line"] = f"{trace.tb_frame.f_code.co_filename}:{trace.tb_lineno}"
        return json.dumps(said, ensure_ascii=False)
