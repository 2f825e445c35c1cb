"""The calls of `./aftershower`, each in a function of its own."""

from __future__ import annotations

import argparse
import errno
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

from house.ground import ROOT, VAR, VENV_PYTHON, Problem, close_var, say
from house.serve import gather_static, manage_beside, serve, work
from house.setting_up import environment, set_up, set_up_for_files
from house.testing import run_tests


def _up(argv: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="aftershower up")
    parser.add_argument("--port", type=int, default=8620)
    parser.add_argument("--fresh", action="store_true", help="start over with new demo data")
    parser.add_argument("--no-demo", action="store_true", help="start with an empty library")
    arguments = parser.parse_args(argv)
    return serve(arguments.port, fresh=arguments.fresh, demo=not arguments.no_demo)


def _setup(argv: list[str]) -> int:
    argparse.ArgumentParser(prog="aftershower setup").parse_args(argv)
    set_up()
    say("set up")
    return 0


def _worker(argv: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="aftershower worker")
    parser.add_argument("--queues", nargs="+", default=[], metavar="NAME")
    arguments = parser.parse_args(argv)
    return work(arguments.queues)


def _test(argv: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="aftershower test")
    parser.add_argument("pattern", nargs="?", help="a folder or file of tests, or a word in their names")
    parser.add_argument("--coverage", action="store_true", help="tell which lines of core and server no test of theirs reaches")
    arguments = parser.parse_args(argv)
    return run_tests(arguments.pattern, arguments.coverage)


def _bench(argv: list[str]) -> int:
    set_up(for_tests=True)
    gather_static(environment(DJANGO_SETTINGS_MODULE="server.settings"))
    return subprocess.run([VENV_PYTHON, "-m", "bench", *argv], cwd=ROOT, env=environment()).returncode


def _backup(argv: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="aftershower backup", description="Make a backup, while everything goes on.")
    parser.add_argument("folder", type=Path, help="where backups are kept; each takes along what the others have not")
    parser.add_argument("--passphrase-file", type=Path, help="seal them: a file with a passphrase, without which they are of no use to anybody")
    parser.add_argument("--thin", action="store_true", help="then let go of older ones: a week of all, two months of weeks, a year of months stay")
    arguments = parser.parse_args(argv)
    return manage_beside("backup", str(arguments.folder.resolve()), *(["--thin"] if arguments.thin else []), passphrase=arguments.passphrase_file)


def _restore(argv: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="aftershower restore", description="Put a backup back into an empty installation.")
    parser.add_argument("folder", type=Path, help="where backups are kept")
    parser.add_argument("--of", metavar="NAME", help="which of them; the last one unless it is said")
    parser.add_argument("--removals", type=Path, help="a ledger of removals that outlived the database (var/removals.jsonl)")
    parser.add_argument("--passphrase-file", type=Path)
    arguments = parser.parse_args(argv)
    more = [*(["--of", arguments.of] if arguments.of else []), *(["--removals", str(arguments.removals.resolve())] if arguments.removals else [])]
    return manage_beside("restore", str(arguments.folder.resolve()), *more, passphrase=arguments.passphrase_file)


def _files(command: str) -> Callable[[list[str]], int]:
    def run(argv: list[str]) -> int:
        set_up_for_files()
        return subprocess.run([VENV_PYTHON, "-m", "core.command_line", command, *argv], env=environment()).returncode

    return run


COMMANDS: dict[str, tuple[Callable[[list[str]], int], str]] = {
    "up": (_up, "set up what is missing and serve: [--port N] [--fresh] [--no-demo]"),
    "test": (_test, "set up what tests need and run them: [PATTERN] [--coverage]"),
    "setup": (_setup, "set up without serving"),
    "worker": (_worker, "one more worker: [--queues NAME…]"),
    "backup": (_backup, "a backup, while everything goes on: FOLDER [--passphrase-file FILE] [--thin]"),
    "restore": (_restore, "put one back, into an empty installation: FOLDER [--of NAME] [--removals FILE] [--passphrase-file FILE]"),
    "hear": (_files("hear"), "sound to record: MEDIA… [--json] [--words FILE] [--language CODE] [--voices N] [--out DIR]"),
    "read": (_files("read"), "record to findings, chapters, minutes: RECORD… [--json] [--template NAME]"),
    "ask": (_files("ask"), "answers with citations: RECORD… [--together] --questions FILE [--json]"),
    "ledger": (_files("ledger"), "what became of decisions and actions: RECORD… (a series, oldest first) [--json]"),
    "bench": (_bench, "measure against baselines: [NAME…]"),
}


def _usage() -> str:
    return "\n".join(["Usage: ./aftershower CALL …", ""] + [f"  {name:8}{what}" for name, (_, what) in COMMANDS.items()])


def main(argv: list[str]) -> int:
    """Dispatch; a Problem is one line and exit status 2."""
    if not argv or argv[0] in ("-h", "--help", "help"):
        print(_usage())
        return 0 if argv else 2
    if argv[0] not in COMMANDS:
        print(f"aftershower: there is no call {argv[0]!r}. Calls: {', '.join(COMMANDS)}", file=sys.stderr)
        return 2
    try:
        close_var()
        return COMMANDS[argv[0]][0](argv[1:])
    except Problem as problem:
        print(f"aftershower: {problem}", file=sys.stderr)
        return 2
    except OSError as error:
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            print(f"aftershower: the disk is full under {VAR}; free some space and start again", file=sys.stderr)
            return 2
        raise
    except KeyboardInterrupt:
        return 130
