"""The whole program, running for a bench on a database of its own."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from house.postgres import Cluster
from tests.live import House


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
