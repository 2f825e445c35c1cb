"""The clerk's process: goes to the calls that are due, as many at once as it is told to. Any number of them may run, on any machines."""

from __future__ import annotations

import asyncio
import logging
import os
import signal
import socket
import uuid
from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand

from server.clerk import keep
from server.clerk.attend import Attendance
from server.pipeline.work import kept
from server.problems import AWAY

logger = logging.getLogger("server.clerk")
_EVERY = 1.0  # seconds


class Command(BaseCommand):
    """See above."""

    help = "Go to the calls that are due."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """How many at once."""
        parser.add_argument("--at-once", type=int, default=4)

    def handle(self, *args: Any, **options: Any) -> None:
        """Until told to stop."""
        asyncio.run(_serve(options["at_once"]))


async def _serve(at_once: int) -> None:
    holder = f"{socket.gethostname()[:40]} {os.getpid()} {uuid.uuid4().hex[:8]}"
    attended: dict[uuid.UUID, tuple[Attendance, asyncio.Task]] = {}
    stopping = asyncio.Event()
    for sign in (signal.SIGTERM, signal.SIGINT):
        asyncio.get_running_loop().add_signal_handler(sign, stopping.set)
    patience = 0.0
    while not stopping.is_set():
        for key in [key for key, (_, task) in attended.items() if task.done()]:
            attended.pop(key)
        try:
            own = set(await kept(keep.renew, holder, list(attended)))
            for key in set(attended) - own:
                attended.pop(key)[1].cancel()
            if patience <= 0 and (room := at_once - len(attended)) > 0:
                for key in await kept(keep.claim, holder, room):
                    attendance = Attendance(key, holder)
                    attended[key] = (attendance, asyncio.create_task(attendance.attend()))
        except AWAY:
            # When the database is back, whoever attended to something before says so first; only then is it anybody else's.
            patience = keep.LEASE.total_seconds()
            logger.warning("the database cannot be reached; what comes in is held on to")
        patience -= _EVERY
        try:
            await asyncio.wait_for(stopping.wait(), _EVERY)
        except TimeoutError:
            continue
    for attendance, task in attended.values():
        if not task.done():
            await attendance.stop()
            task.cancel()
    await asyncio.gather(*(task for _, task in attended.values()), return_exceptions=True)
    await kept(keep.let_go, holder)
