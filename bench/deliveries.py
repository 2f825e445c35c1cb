"""A thousand deliveries to the stand-in of each kind of connection, while it is slow, refuses, breaks off and thinks better of it: none lost, none doubled."""

from __future__ import annotations

import os
import re
import subprocess
import sys
from pathlib import Path

from house.postgres import Cluster

ROOT = Path(__file__).resolve().parent.parent
MANY = 1000


def run() -> None:
    """Runs the test of the contract with as many, and prints how long each kind took: seconds for all of them, tries included."""
    cluster = Cluster("test-postgres", durable=False)
    started = cluster.start()
    try:
        settings = {**os.environ, **cluster.environment, "AFTERSHOWER_DELIVERIES": str(MANY), "DJANGO_SETTINGS_MODULE": "server.settings"}
        asked = [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", "--durations=0", "tests/server/test_connections.py", "-k", "many_deliveries", "-o", "log_level=CRITICAL"]
        done = subprocess.run(asked, cwd=ROOT, env=settings, capture_output=True, text=True)
    finally:
        if started:
            cluster.stop()
    took = {kind: float(seconds) for seconds, kind in re.findall(r"([\d.]+)s call .*\[(\w+)\]", done.stdout)}
    if done.returncode or not took:
        raise SystemExit(done.stdout[-3000:])
    first = took.get("webhook") or min(took.values())
    print(f"{MANY} deliveries each, none lost and none doubled")
    for kind, seconds in sorted(took.items(), key=lambda one: one[1]):
        print(f"  {kind:10} {seconds:7.1f} s   {seconds / MANY * 1000:6.1f} ms each   {seconds / first:4.2f} of the time of a plain message")
