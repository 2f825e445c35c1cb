"""The whole program, running for a bench on a database of its own."""

from __future__ import annotations

import resource
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from house.postgres import Cluster
from house.serve import Process
from tests.live import House


def memory(process: Process) -> int:
    """Megabytes (2^20 bytes) that a process holds together with those it started: a web server answers from several."""
    held = 0
    for status in Path("/proc").glob("[0-9]*/stat"):
        with suppress(OSError):
            # After the name, in brackets, that may have any sign in it: state, parent, group, … (proc(5)).
            fields = status.read_text().rpartition(")")[2].split()
            if int(fields[2]) == process.running.pid:
                held += int(fields[21]) * resource.getpagesize()
    return held // 2**20


@contextmanager
def running(name: str) -> Iterator[House]:
    """A house with an empty database; gone, with all its files, afterwards."""
    cluster = Cluster("test-postgres", durable=False)
    started = cluster.start()
    with tempfile.TemporaryDirectory() as folder:
        house = House(cluster, name, Path(folder))
        try:
            yield house
        finally:
            house.close()
            if started:
                cluster.stop()
