"""The house itself: what is committed, and what is said when it cannot start."""

import json
import os
import re
import socket
import subprocess
import sys

from house.postgres import free_ports
from server.urls import api
from tests.conftest import ROOT


def test_no_committed_file_names_a_package_registry_or_a_path_of_a_machine():
    hosts = re.compile(
        "|".join(["py" + "pi\\.org", "python" + "hosted", "npm" + "js\\.(?:org|com)", "deb\\." + "debian", "(?<![\\w.])/(?:root|home)/\\w"])
    )
    listed = subprocess.run(["git", "ls-files", "-z"], cwd=ROOT, capture_output=True, text=True).stdout.split("\0")
    guilty = []
    for name in filter(None, listed):
        path = ROOT / name
        if (
            path.suffix not in (".opus", ".png", ".woff2")
            and path.is_file()
            and hosts.search(path.read_text(encoding="utf-8", errors="ignore"))
        ):
            guilty.append(name)
    assert guilty == []


def test_core_imports_no_django():
    code = "import sys; import core.hearing, core.reading, core.minutes, core.search, core.formats; print(any(name.split('.')[0] in ('django', 'server', 'ninja') for name in sys.modules))"
    assert subprocess.run([sys.executable, "-c", code], cwd=ROOT, capture_output=True, text=True).stdout.strip() == "False"


def test_the_api_document_in_the_web_folder_is_the_servers():
    """The typed client is generated from it; after a change: `python server/manage.py api_document` and `npm run types`."""
    assert json.loads((ROOT / "web/openapi.json").read_text()) == json.loads(json.dumps(api.get_openapi_schema()))


def test_a_taken_port_is_one_line_and_status_2():
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        done = subprocess.run([sys.executable, "aftershower", "up", "--port", str(port)], cwd=ROOT, capture_output=True, text=True)
    assert done.returncode == 2 and f"port {port} is taken" in done.stderr and len(done.stderr.strip().splitlines()) == 1


def test_an_unknown_call_lists_the_calls():
    done = subprocess.run([sys.executable, "aftershower", "sing"], cwd=ROOT, capture_output=True, text=True)
    assert done.returncode == 2 and "up, test" in done.stderr


def test_two_of_one_kind_never_get_the_same_port():
    """Two instances on one machine chose the same for both of their mail ports, and the second ended."""
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        first = taken.getsockname()[1]
        ports = free_ports(first, 3)
    assert len(set(ports)) == 3 and first not in ports


def test_what_is_kept_is_for_nobody_else_on_the_machine():
    from house.ground import VAR

    assert VAR.stat().st_mode & 0o777 == 0o711
    open_ones = [path.name for path in VAR.iterdir() if path.stat().st_uid == os.geteuid() and path.stat().st_mode & 0o077]
    assert open_ones == []
