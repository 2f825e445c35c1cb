"""One worker: takes stages from the queues, and takes over what a dead worker left behind."""

from __future__ import annotations

import asyncio
import logging
import os
import signal
from typing import Any, cast

from asgiref.sync import sync_to_async
from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser
from procrastinate import App
from procrastinate.contrib.django import app
from procrastinate.contrib.django.django_connector import DjangoConnector
from procrastinate.exceptions import ConnectorException

from server.pipeline.work import APART, Queue, fresh_connections
from server.problems import AWAY
from server.stages.rescue import rescue_stages

logger = logging.getLogger("server.pipeline")


class Command(BaseCommand):
    """`manage.py work [--queues NAME…]`; started by `./aftershower worker`."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Which queues to serve (by default all but the live and the writing one, which have workers of their own), and how many jobs at once."""
        parser.add_argument("--queues", nargs="*", default=[])
        parser.add_argument("--at-once", type=int, default=1)

    def handle(self, *args: Any, queues: list[str], at_once: int, **options: Any) -> None:
        """Work until told to stop; a database that goes away is waited for."""
        # First the browser that captures on this machine and the web server, then hearing what it captures, then all else, then writing.
        os.nice(2 if Queue.LIVE in queues else 10 if Queue.WRITING in queues else 5)
        asyncio.run(_work(queues or [queue for queue in Queue if queue not in APART], at_once))


async def _work(queues: list[str], at_once: int) -> None:
    stop = asyncio.Event()
    loop = asyncio.get_running_loop()
    for sign in (signal.SIGTERM, signal.SIGINT):
        loop.add_signal_handler(sign, stop.set)
    while not stop.is_set():
        try:
            await _work_until_cut_off(queues, at_once, stop)
        except (ConnectorException, OSError) as error:
            logger.warning("the database is away (%s); trying again", error)
            await asyncio.sleep(1)


async def _work_until_cut_off(queues: list[str], at_once: int, stop: asyncio.Event) -> None:
    silence = settings.WORKER_SILENCE
    worker_app = app.with_connector(cast(DjangoConnector, app.connector).get_worker_connector())
    async with worker_app.open_async():
        working = asyncio.create_task(
            worker_app.run_worker_async(
                queues=queues,
                concurrency=at_once,
                install_signal_handlers=False,
                fetch_job_polling_interval=1.0 if Queue.LIVE in queues else 2.0,
                update_heartbeat_interval=silence / 4,
                stalled_worker_timeout=silence,
                delete_jobs="successful",
                shutdown_graceful_timeout=2,
            )
        )
        rescuing = asyncio.create_task(_rescue(worker_app, silence))
        stopping = asyncio.create_task(stop.wait())
        done, pending = await asyncio.wait({working, rescuing, stopping}, return_when=asyncio.FIRST_COMPLETED)
        for task in pending:
            task.cancel()
        await asyncio.gather(*pending, return_exceptions=True)
        for task in done - {stopping}:
            task.result()


async def _rescue(worker_app: App, silence: float) -> None:
    """Give the jobs of workers that fell silent back to the queue, and see to stages that have no job any more."""
    while True:
        for job in await worker_app.job_manager.get_stalled_jobs(seconds_since_heartbeat=silence):
            logger.warning("taking over job %s from a worker that fell silent", job.id)
            await worker_app.job_manager.retry_job(job)
        await _rescue_stages()
        await asyncio.sleep(silence / 4)


@sync_to_async
def _rescue_stages() -> None:
    with fresh_connections():
        try:
            rescue_stages()
        except AWAY as error:
            logger.warning("the database is away (%s); looking again later", error)
