"""What the server says of itself."""

from __future__ import annotations

import json
import logging
import sys

from django.db import connection
from django.test import Client
from prometheus_client.parser import text_string_to_metric_families

from server.operation import JsonLines


def test_ready_when_tables_are_as_wanted_and_files_can_be_kept(db, settings, tmp_path):
    settings.MEDIA_ROOT = tmp_path / "media"
    answer = Client().get("/api/ready")
    assert answer.status_code == 200 and answer.json() == {"database": True, "tables": True, "files": True, "workers": 0}
    assert not [path for path in settings.MEDIA_ROOT.rglob("*") if path.is_file()]
    settings.MEDIA_ROOT = tmp_path / "a file"
    settings.MEDIA_ROOT.write_text("x")
    assert Client().get("/api/ready").status_code == 503 and not Client().get("/api/ready").json()["files"]


def test_not_ready_while_a_migration_is_missing(db, settings, tmp_path):
    settings.MEDIA_ROOT = tmp_path / "media"
    with connection.cursor() as cursor:
        cursor.execute("delete from django_migrations where app = 'keeping' and name = '0002_nights'")
    answer = Client().get("/api/ready")
    assert answer.status_code == 503 and answer.json()["tables"] is False and answer.json()["database"]


def test_a_line_of_json_an_event_and_no_values_of_what_failed():
    try:
        int("what Maren said")
    except ValueError:
        record = logging.LogRecord("server.x", logging.ERROR, __file__, 1, "stage %s failed", ("hear",), sys.exc_info())
    said = json.loads(JsonLines().format(record))
    assert (said["level"], said["what"], said["failure"]) == ("error", "stage hear failed", "ValueError")
    assert "Maren" not in str(said) and "test_operation.py:" in said["at_line"]


def test_what_is_counted_is_for_whoever_has_the_key_and_names_nothing(maren, make_meeting, caller, settings):
    """Read by Prometheus' own parser (prometheus_client), as whatever watches the server reads it."""
    client = Client()
    assert client.get("/api/metrics").status_code == 404
    settings.METRICS_KEY = "a key for the watch"
    assert client.get("/api/metrics", headers={"authorization": "Bearer guess"}).status_code == 404
    meeting = make_meeting(maren, "The bramble court", work=False)
    caller(maren)("get", f"/api/meetings/{meeting.pk}/record")
    caller(maren)("get", "/api/linked/nothing-of-the-kind")
    said = client.get("/api/metrics", headers={"authorization": "Bearer a key for the watch"}).content.decode()
    found = {(one.name, *one.labels.values()): one.value for family in text_string_to_metric_families(said) for one in family.samples}
    assert found["aftershower_request_seconds_count", "api/meetings/<meeting_id>/record", "GET", "2xx"] >= 1
    assert found["aftershower_request_seconds_count", "api/linked/<token>", "GET", "4xx"] >= 1
    assert found["aftershower_meetings",] == 1 and found["aftershower_jobs", "intake", "todo"] >= 1 and found["aftershower_job_wait_seconds", "intake"] >= 0
    assert [key for key in found if key[0] == "aftershower_stages" and key[2] == "waiting"]
    assert not [word for word in ("bramble", "Maren", "larkmoor", str(meeting.pk), "nothing-of-the-kind") if word in said]
