"""What the server counts, for whoever watches it (Prometheus' text form): how much, how long, how late. Nothing of what anybody keeps here.

Requests are counted where they are answered: in each web process, and together where PROMETHEUS_MULTIPROC_DIR names a folder that they share
(`./aftershower up` does). What waits and what failed is read from the database as it is asked for, so it is the same wherever one asks.
"""

from __future__ import annotations

import os
import secrets
import time
from collections.abc import Callable, Iterator
from typing import Any

from asgiref.sync import iscoroutinefunction
from django.conf import settings
from django.db import connection
from django.http import HttpRequest, HttpResponse
from django.utils.decorators import sync_and_async_middleware
from prometheus_client import CONTENT_TYPE_LATEST, REGISTRY, CollectorRegistry, Histogram, generate_latest
from prometheus_client.core import GaugeMetricFamily, Metric
from prometheus_client.multiprocess import MultiProcessCollector
from prometheus_client.registry import Collector

from server.problems import problem

_REQUESTS = Histogram(
    "aftershower_request_seconds",
    "Until an answer begins, by address (as in the API's document), method and kind of answer.",
    ["address", "method", "status"],
    buckets=(0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30),
)
_METHODS = ("GET", "HEAD", "POST", "PUT", "PATCH", "DELETE", "OPTIONS")
_STATE = {
    "aftershower_jobs": (
        "Work that is kept, by queue and state.",
        ("queue", "state"),
        "select queue_name, status::text, count(*) from procrastinate_jobs where status in ('todo', 'doing', 'failed') group by 1, 2",
    ),
    "aftershower_job_wait_seconds": (
        "How long the oldest work that is due has waited, by queue.",
        ("queue",),
        """select queue_name, extract(epoch from max(now() - coalesce(scheduled_at, event.at))) from procrastinate_jobs job
        left join procrastinate_events event on event.job_id = job.id and event.type = 'deferred'
        where status = 'todo' and coalesce(scheduled_at, event.at) <= now() group by 1""",
    ),
    "aftershower_workers": (
        "Workers heard from lately.",
        (),
        "select count(*) from procrastinate_workers where last_heartbeat > now() - %(silence)s * interval '1 second'",
    ),
    "aftershower_stages": ("Stages of the work on meetings, by state.", ("stage", "state"), "select stage, state, count(*) from pipeline_stagerun group by 1, 2"),
    "aftershower_letters": ("Letters, by state.", ("state",), "select state, count(*) from mail_letter group by 1"),
    "aftershower_captures": ("Captures that go on.", (), "select count(*) from capture_capture where stopped_at is null"),
    "aftershower_meetings": ("Meetings that are kept.", (), "select count(*) from meetings_meeting"),
    "aftershower_removals_due": ("Meetings deleted for good whose rows and files are still going.", (), "select count(*) from meetings_meeting where going_at is not null"),
    "aftershower_sessions": ("Connections to the database, by state.", ("state",), "select coalesce(state, 'none'), count(*) from pg_stat_activity where datname = current_database() group by 1"),
    "aftershower_database_bytes": ("Size of the database.", (), "select pg_database_size(current_database())"),
}
"""Name → what it is, its labels, and the question whose rows are the labels and the number."""


class _State(Collector):
    def collect(self) -> Iterator[Metric]:
        with connection.cursor() as cursor:
            for name, (what, labels, question) in _STATE.items():
                family = GaugeMetricFamily(name, what, labels=labels)
                cursor.execute(question, {"silence": settings.WORKER_SILENCE * 2})
                for *values, number in cursor.fetchall():
                    family.add_metric([str(value) for value in values], float(number))
                yield family


@sync_and_async_middleware
def counted_requests(get_response: Callable) -> Callable:
    """Middleware: how long each answer took."""
    handle: Any
    if iscoroutinefunction(get_response):

        async def handle_async(request: HttpRequest) -> HttpResponse:
            begun = time.perf_counter()
            return _count(request, await get_response(request), begun)

        handle = handle_async
    else:

        def handle_sync(request: HttpRequest) -> HttpResponse:
            begun = time.perf_counter()
            return _count(request, get_response(request), begun)

        handle = handle_sync
    return handle


def _count(request: HttpRequest, response: HttpResponse, begun: float) -> HttpResponse:
    # The pattern and never the path: a path has keys in it, and a link's its secret.
    address = request.resolver_match.route if request.resolver_match else "unknown"
    method = request.method if request.method in _METHODS else "other"
    _REQUESTS.labels(address, method, f"{response.status_code // 100}xx").observe(time.perf_counter() - begun)
    return response


def metrics(request: HttpRequest) -> HttpResponse:
    """GET /api/metrics, for whoever has the key that the operator has set; without one there is no such address."""
    given = request.headers.get("Authorization", "").removeprefix("Bearer ")
    if not settings.METRICS_KEY or not secrets.compare_digest(given.encode(), settings.METRICS_KEY.encode()):
        return problem(404, "The API has no such address. See /api/openapi.json.")
    state = CollectorRegistry()
    state.register(_State())
    requests: CollectorRegistry = REGISTRY
    if os.environ.get("PROMETHEUS_MULTIPROC_DIR"):
        requests = CollectorRegistry()
        MultiProcessCollector(requests)
    body = generate_latest(state) + generate_latest(requests)
    return HttpResponse(body, content_type=CONTENT_TYPE_LATEST, headers={"Cache-Control": "no-store"})
