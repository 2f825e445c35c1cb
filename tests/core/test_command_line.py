"""The contract of the command line: forms, exit status, one clear line."""

import json
import os
import subprocess
import sys

import pytest

from core.reading.writer import WRITER
from tests.conftest import MODELS, ROOT


def call(*arguments, **settings) -> subprocess.CompletedProcess:
    command = [sys.executable, "-m", "core.command_line", *map(str, arguments)]
    return subprocess.run(command, cwd=ROOT, capture_output=True, text=True, env=os.environ | settings)


@pytest.fixture
def without_writer(tmp_path) -> dict[str, str]:
    """The models of a machine on which there is none."""
    folder = tmp_path / "models"
    folder.mkdir()
    for one in MODELS.iterdir():
        if one.name != WRITER:
            (folder / one.name).symlink_to(one)
    return {"AFTERSHOWER_MODELS": str(folder)}


def test_hear_read_and_ask_in_a_row(talk, tmp_path):
    heard = call("hear", talk, "--json", "--language", "en", "--out", tmp_path)
    [record] = json.loads(heard.stdout)
    assert set(record) == {"id", "media", "language", "voices", "turns", "timings"}
    assert set(record["turns"][0]) == {"id", "speaker", "start", "end", "language", "text", "words"}
    assert set(record["turns"][0]["words"][0]) == {"text", "start", "end", "probability"}
    assert set(record["timings"]) == {"decode", "hear", "voices", "total"}
    [reading] = json.loads(call("read", tmp_path / "talk.json", "--json").stdout)
    assert set(reading) == {"id", "gist", "findings", "chapters", "minutes_markdown"}
    assert all(set(f) == {"kind", "text", "written", "status", "owner", "due", "turns", "start", "end", "confidence"} for f in reading["findings"])
    (tmp_path / "q.txt").write_text("How many boilers are there?\nWho wins the regatta?\n")
    answers = json.loads(call("ask", tmp_path / "talk.json", "--questions", tmp_path / "q.txt", "--json").stdout)
    assert [answer["q"] for answer in answers] == ["How many boilers are there?", "Who wins the regatta?"]
    assert answers[0]["citations"][0]["turn"] == answers[0]["turns"][0] and answers[1]["turns"] == []


def test_several_records_keep_their_order_also_on_a_machine_without_a_writer(without_writer):
    paths = [ROOT / "bench/labelled" / f"t0{n}.json" for n in (3, 1, 2)]
    done = call("read", *paths, "--json", **without_writer)
    read = json.loads(done.stdout)
    assert [one["id"] for one in read] == ["t03", "t01", "t02"] and "worded by rules" in done.stderr
    assert {finding["written"] for one in read for finding in one["findings"]} == {"rules", "quoted"}


def test_bad_input_is_one_line_and_status_2(tmp_path):
    (tmp_path / "no.mp3").write_text("not sound")
    for done in (
        call("hear", tmp_path / "gone.wav"),
        call("hear", tmp_path / "no.mp3"),
        call("read", tmp_path / "gone.vtt"),
        call("read", ROOT / "bench/labelled/t01.json", "--template", "none"),
        call("ask", ROOT / "bench/labelled/t01.json", "--questions", tmp_path / "gone.txt"),
    ):
        said = [line for line in done.stderr.splitlines() if line.startswith("aftershower: ")]
        assert done.returncode == 2 and done.stdout == "" and len(said) == 1 and "Traceback" not in done.stderr
