"""The ledger: what becomes of matters over several meetings, and questions put to all of them."""

from __future__ import annotations

import json
from dataclasses import replace
from datetime import date

import pytest

from bench.of_series import load_series
from bench.series import joined, score_answers, score_ledger
from core.command_line import main
from core.ledger import Matter, Step, StepKind, come_back, follow
from core.ledger.matter import Open, subject_of
from core.ledger.returns import returns
from core.reading import Encoder, read
from core.reading.reader import Read
from core.record.assemble import lines_from_text
from core.record.model import Record, Turn
from core.search import Library

MADE = (
    ("Maren Tollefsen", "The glass for the palm house. Somebody has to order the panes."),
    ("Idris Quaye", "I'll order the forty panes of glass by Friday."),
    ("Maren Tollefsen", "Good. And the opening of the palm house, when is it?"),
    ("Pavel Drozd", "Let's open on the tenth of May."),
    ("Maren Tollefsen", "Agreed, the palm house opens on the tenth of May."),
    ("Pavel Drozd", "I'll write to the printers about the leaflets this week."),
)
LATER = (
    ("Maren Tollefsen", "It rained all night. The roof leaks over the ferns again."),
    ("Idris Quaye", "I ordered the forty panes of glass on Thursday, they are paid for."),
    ("Maren Tollefsen", "And the leaflets, Pavel? Have you written to the printers?"),
    ("Pavel Drozd", "Not yet, I haven't got round to the printers."),
    ("Maren Tollefsen", "The opening of the palm house cannot be the tenth, then."),
    ("Maren Tollefsen", "Let's open the palm house on the twenty-fourth of May instead."),
    ("Idris Quaye", "Agreed, the twenty-fourth of May."),
)


def record(name: str, said: tuple[tuple[str, str], ...]) -> Record:
    return Record(name, tuple(Turn(i, who, lines_from_text(text, 5.0 * i, 5.0 * i + 4)) for i, (who, text) in enumerate(said, 1)), language="en")


@pytest.fixture(scope="module")
def meetings(encoder) -> tuple[list[Read], Encoder]:
    made = []
    for one in (record("first", MADE), record("second", LATER)):
        turns = encoder.turns(one.turns)
        made.append(Read(one, read(one, encoder, turns=turns).findings, turns))
    return made, encoder


def test_a_matter_is_followed_into_the_next_meeting(meetings):
    read_of, encoder = meetings
    matters = follow(read_of, encoder)
    [glass] = [one for one in matters if "panes" in one.steps[0].text and one.kind == "action" and len(one.steps) > 1]
    assert [(step.meeting, step.kind) for step in glass.steps] == [("first", StepKind.MADE), ("second", StepKind.DONE)]
    assert not glass.stands and 2 in glass.steps[1].turns
    [leaflets] = [one for one in matters if "printers" in one.steps[0].text and len(one.steps) > 1]
    assert leaflets.steps[1].kind == StepKind.CARRIED and leaflets.stands
    # Every step rests on turns of its meeting.
    known = {one.record.id: {turn.id for turn in one.record.turns} for one in read_of}
    assert all(step.turns and set(step.turns) <= known[step.meeting] for one in matters for step in one.steps)


def test_a_meeting_about_something_else_comes_back_to_nothing(meetings):
    [_, second], encoder = meetings
    other = Open("action", "Tomas to sharpen the skates", "I'll sharpen the skates.", "The skates are blunt. I'll sharpen the skates.", "Tomas", 1)
    assert come_back([other], second, encoder) == []
    assert returns([], second.record.turns, second.turns, encoder, None) == []  # type: ignore[arg-type]


def test_where_nothing_is_said_there_is_no_matter(meetings):
    _, encoder = meetings
    empty = record("nothing", ())
    silent = Read(empty, (), encoder.turns(empty.turns))
    assert follow([silent, silent], encoder) == [] and follow([], encoder) == []
    assert Library([silent], encoder).ask(["Who ordered the glass?"])[0].text == "No meeting says."


def test_the_meetings_answer_together_each_line_with_its_meeting(meetings):
    read_of, encoder = meetings
    [answer] = Library(read_of, encoder).ask(["Who ordered the panes of glass?"])
    assert answer.cited and {(one.meeting, one.turn.id) for one in answer.cited} & {("first", 2), ("second", 2)}


@pytest.mark.parametrize(
    ("text", "subject"),
    [
        ("Tomas to send the drawings of the boiler by Friday", "Send the drawings of the boiler"),
        ("“Yeah, leave that with me.”", "Yeah, leave that with me"),
        ("No ring is cut before we know that 114 and 115 shut tight", "No ring is cut before we know"),
        ("X", "X"),
    ],
)
def test_a_subject_is_a_few_words_and_no_name(text, subject):
    assert subject_of(text) == subject


def step(meeting: str, kind: StepKind, *turns: int, owner: str | None = None, due: date | None = None) -> Step:
    return Step(meeting, kind, turns, "", owner, due, 1.0)


def test_the_scorer_counts_by_the_rules_of_the_labels():
    label = lambda meeting, kind, *turns: {"meeting": meeting, "turns": list(turns), "step": kind, "owner": "Ana", "due": "2027-01-15"}  # noqa: E731
    ledger = [{"kind": "action", "steps": [label("a", "made", 1, 2), label("b", "carried", 7), label("c", "done", 3)]}]
    due = date(2027, 1, 15)
    right = Matter("action", (step("a", StepKind.MADE, 2), step("b", StepKind.CARRIED, 6, 7, 8), step("c", StepKind.DONE, 3, owner="Ana", due=due)))
    assert score_ledger(ledger, [right]) == {
        "joined": (2, 2),
        "joined and named": (2, 2),
        "later steps that are right": (2, 2),
        "done: precision": (1, 1),
        "done: recall": (1, 1),
        "steps: precision": (3, 3),
        "steps: recall": (3, 3),
        "stands: recall": (1, 1),
        "stands: precision": (1, 1),
    }
    # Less than a third of a step's turns, another kind, no earlier step in common: not joined.
    assert joined(replace(right, steps=(right.steps[0], step("b", StepKind.CARRIED, 4, 5, 6, 7))), ledger[0], 1) is None
    assert joined(replace(right, kind="decision"), ledger[0], 1) is None
    assert joined(replace(right, steps=(step("a", StepKind.MADE, 9), *right.steps[1:])), ledger[0], 1) is None
    asked = [{"answers": [{"meeting": "a", "turns": [1]}, {"meeting": "b", "turns": [2]}]}, {"answers": []}, {"answers": []}]
    assert score_answers(asked, [[("b", 2), ("c", 1)], [], [("a", 1)]]) == {
        "first citation right": (1, 1),
        "unanswerable told": (1, 2),
        "meetings of what changed that are cited": (0.5, 1),
    }


def test_the_labelled_series_are_as_their_rules_say():
    for series in load_series():
        turns = {one.id: {turn.id for turn in one.turns} for one in series.meetings}
        for matter in series.ledger:
            order = [list(turns).index(one["meeting"]) for one in matter["steps"]]
            assert order == sorted(set(order)) and matter["steps"][0]["step"] == "made"
            assert all(one["turns"] and set(one["turns"]) <= turns[one["meeting"]] for one in matter["steps"])


def test_the_calls_print_what_the_contract_says(meetings, tmp_path, capsys):
    paths = []
    for one in meetings[0]:
        paths.append(tmp_path / f"{one.record.id}.json")
        turns = [{"id": turn.id, "speaker": turn.speaker, "start": turn.start, "end": turn.end, "text": turn.text} for turn in one.record.turns]
        paths[-1].write_text(json.dumps({"id": one.record.id, "started_at": "2026-03-02T10:00:00", "turns": turns}))
    files = [str(path) for path in paths]
    assert main(["ledger", *files, "--json"]) == 0
    matters = json.loads(capsys.readouterr().out)
    assert {tuple(one) for one in matters} == {("kind", "matter", "steps", "stands")}
    assert {tuple(one) for matter in matters for one in matter["steps"]} == {("id", "turns", "step", "text", "owner", "due")}
    questions = tmp_path / "questions.txt"
    questions.write_text("Who ordered the panes of glass?\nWhat does the boiler weigh?\n")
    assert main(["ask", *files, "--together", "--questions", str(questions), "--json"]) == 0
    first, second = json.loads(capsys.readouterr().out)
    assert tuple(first) == ("q", "answer", "citations") and tuple(first["citations"][0]) == ("id", "turn", "start", "quote")
