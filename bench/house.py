"""The whole program, running for a bench on a database of its own."""

from __future__ import annotations

import os
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
    return sum(int(fields[21]) for fields in _of_group(process)) * resource.getpagesize() // 2**20


def processor_seconds(process: Process) -> float:
    """What a process and those it started have used of processors until now."""
    return sum(int(ticks) for fields in _of_group(process) for ticks in fields[11:15]) / os.sysconf("SC_CLK_TCK")


def _of_group(process: Process) -> Iterator[list[str]]:
    """What the system tells of each, from the third field on: before it is a name, in brackets, that may have any sign in it (proc(5), stat)."""
    for status in Path("/proc").glob("[0-9]*/stat"):
        with suppress(OSError):
            fields = status.read_text().rpartition(")")[2].split()
            if int(fields[2]) == process.running.pid:
                yield fields


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
