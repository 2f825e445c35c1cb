"""`aftershower hear`, `read`, `ask` and `ledger`: files in, text or JSON out."""

from __future__ import annotations

import argparse
import json
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from core.formats import json_record, read_record
from core.ledger import follow
from core.minutes import BUILT_IN, propose_kind, to_markdown, write_minutes
from core.problems import InputProblem
from core.reading import READING, Encoder, read
from core.reading.base import all_said
from core.reading.reader import Read
from core.reading.writer import WRITER
from core.reading.writer.judge import Judge
from core.reading.writer.rewording import Follows, Writes, reworded
from core.record.model import Record
from core.search import Asker, Library
from core.speech.word_list import read_terms


def _say(text: str) -> None:
    print(f"· {text}", file=sys.stderr, flush=True)


def _models() -> Path:
    return Path(os.environ["AFTERSHOWER_MODELS"])


def _lines(path: Path, wanted: str) -> list[str]:
    """The lines of a text file that are not empty. Raises InputProblem."""
    try:
        return [line.strip() for line in path.read_text(encoding="utf-8").splitlines() if line.strip()]
    except (OSError, UnicodeDecodeError) as error:
        raise InputProblem(f"{path}: cannot be read as UTF-8 text. Give {wanted}.") from error


def hear_command(arguments: argparse.Namespace) -> list[dict[str, Any]]:
    """Media files to records. Raises InputProblem before any work when a file is missing."""
    for path in arguments.files:
        if not path.is_file():
            raise InputProblem(f"{path}: there is no such file.")
    terms = read_terms(_lines(arguments.words, "a file with one name or term a line")) if arguments.words else []
    from core.hearing import Ear  # loading the recogniser takes a second that `read` and `ask` need not spend

    ear, results = Ear(_models()), []
    for path in arguments.files:
        _say(f"hearing {path.name}")
        try:
            heard = ear.hear(path, arguments.language, arguments.voices, terms)
        except InputProblem as problem:
            raise InputProblem(f"{path}: {problem}") from problem
        data = json_record.to_data(heard.record, heard.timings)
        if arguments.out:
            arguments.out.mkdir(parents=True, exist_ok=True)
            (arguments.out / f"{path.stem}.json").write_text(json.dumps(data, ensure_ascii=False, indent=1), encoding="utf-8")
        results.append(data)
        if not arguments.json:
            print(_as_text(heard.record))
    return results


def _as_text(record: Record) -> str:
    return (
        "\n".join(f"{turn.start:8.1f}  {turn.speaker}: {turn.text}" for turn in record.turns)
        or "Nothing was heard: nobody speaks in this recording."
    )


def read_command(arguments: argparse.Namespace) -> list[dict[str, Any]]:
    """Records to findings, chapters and minutes."""
    if arguments.template and arguments.template not in BUILT_IN:
        raise InputProblem(f"--template {arguments.template}: there is no such template. There is: {', '.join(BUILT_IN)}.")
    (writer, judge), encoder, results = _writer(), Encoder(_models() / READING), []
    for path in arguments.files:
        record = read_record(path)
        on = record.started_at.date() if record.started_at else None
        reading = reworded(read(record, encoder), record, on, writer=writer, judge=judge)
        template = BUILT_IN[arguments.template or propose_kind(record.id.replace("-", " "), record, all_said(record)) or "plain"]
        markdown = to_markdown(record.id, write_minutes(reading, record, template), reading.chapters, template)
        results.append(
            {
                "id": record.id,
                "gist": " ".join(sentence.text for sentence in reading.gist),
                "findings": [
                    {
                        "kind": f.kind,
                        "text": f.text,
                        "written": f.written,
                        "status": f.status,
                        "owner": f.owner,
                        "due": f.due.isoformat() if f.due else None,
                        "turns": f.turns,
                        "start": f.start,
                        "end": f.end,
                        "confidence": round(f.confidence, 3),
                    }
                    for f in reading.findings
                ],
                "chapters": [{"title": c.title, "from_turn": c.from_turn, "start": c.start} for c in reading.chapters],
                "minutes_markdown": markdown,
            }
        )
        if not arguments.json:
            print(markdown)
    return results


def _writer() -> tuple[Writes, Follows] | tuple[None, None]:
    """The writer, where it is on this machine, and who judges what it writes."""
    if not (_models() / WRITER / "model.bin").exists():
        _say("the writer is not on this machine: what is read is worded by rules")
        return None, None
    from core.reading.writer.writer import Writer  # the runtime takes a moment to load

    return Writer(_models() / WRITER), Judge(_models() / READING)


def ask_command(arguments: argparse.Namespace) -> list[dict[str, Any]]:
    """Questions, one a line of a file, to each record."""
    questions = _lines(arguments.questions, "a file with one question a line")
    if not questions:
        raise InputProblem(f"{arguments.questions}: there is no question in it. Write one a line.")
    encoder, results = Encoder(_models() / READING), []
    if arguments.together:
        return _ask_together(_all_read(arguments.files, encoder), questions, encoder, arguments.json)
    for path in arguments.files:
        record = read_record(path)
        reading = read(record, encoder)
        for answer in Asker(record, encoder, reading.turns, reading.findings).ask(questions):
            results.append(
                {
                    "id": record.id,
                    "q": answer.question,
                    "answer": answer.text,
                    "turns": [turn.id for turn in answer.turns],
                    "citations": [{"turn": turn.id, "start": turn.start, "quote": turn.text} for turn in answer.turns],
                }
            )
            if not arguments.json:
                print(f"{answer.question}\n  {answer.text}")
    return results


def _all_read(paths: Sequence[Path], encoder: Encoder) -> list[Read]:
    """Records, read, in the order they are given in."""
    meetings = []
    for record in [read_record(path) for path in paths]:
        turns = encoder.turns(record.turns)
        meetings.append(Read(record, read(record, encoder, turns=turns).findings, turns))
    return meetings


def _ask_together(meetings: Sequence[Read], questions: Sequence[str], encoder: Encoder, quiet: bool) -> list[dict[str, Any]]:
    results = []
    for answer in Library(meetings, encoder).ask(questions):
        cited = [{"id": one.meeting, "turn": one.turn.id, "start": one.turn.start, "quote": one.turn.text} for one in answer.cited]
        results.append({"q": answer.question, "answer": answer.text, "citations": cited})
        if not quiet:
            print(f"{answer.question}\n  {answer.text}")
    return results


def ledger_command(arguments: argparse.Namespace) -> list[dict[str, Any]]:
    """The records of a series, oldest first, to matters and what became of them."""
    encoder, results = Encoder(_models() / READING), []
    for matter in follow(_all_read(arguments.files, encoder), encoder):
        steps = [
            {
                "id": step.meeting,
                "turns": list(step.turns),
                "step": step.kind,
                "text": step.text,
                "owner": step.owner,
                "due": step.due.isoformat() if step.due else None,
            }
            for step in matter.steps
        ]
        results.append({"kind": matter.kind, "matter": matter.subject, "steps": steps, "stands": matter.stands})
        if not arguments.json:
            print(f"{matter.subject}{'' if matter.stands else ' — closed'}")
            for step in matter.steps:
                print(f"  {step.meeting}: {step.kind}. {step.text}")
    return results


def main(argv: list[str]) -> int:
    """Run one of them; 0, or 2 with one line on standard error for bad input."""
    parser = argparse.ArgumentParser(prog="aftershower")
    commands = parser.add_subparsers(dest="command", required=True)
    hear = commands.add_parser("hear", help="sound to record")
    hear.add_argument("--words", type=Path)
    hear.add_argument("--language")
    hear.add_argument("--voices", type=int)
    hear.add_argument("--out", type=Path)
    reader = commands.add_parser("read", help="record to findings, chapters, minutes")
    reader.add_argument("--template", help=f"how the minutes are laid out: {', '.join(BUILT_IN)}; by default as the talk suggests")
    asker = commands.add_parser("ask", help="questions to answers with citations")
    asker.add_argument("--questions", type=Path, required=True)
    asker.add_argument("--together", action="store_true", help="put them to all the records at once")
    ledger = commands.add_parser("ledger", help="the records of a series, oldest first, to matters and what became of them")
    for command, action in ((hear, hear_command), (reader, read_command), (asker, ask_command), (ledger, ledger_command)):
        command.add_argument("files", type=Path, nargs="+")
        command.add_argument("--json", action="store_true")
        command.set_defaults(action=action)
    arguments = parser.parse_args(argv)
    try:
        results = arguments.action(arguments)
    except InputProblem as problem:
        print(f"aftershower: {problem}", file=sys.stderr)
        return 2
    if arguments.json:
        print(json.dumps(results, ensure_ascii=False, indent=1))
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
