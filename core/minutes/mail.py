"""A follow-up mail drafted from what was settled and taken on, in a tone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import astuple, dataclass
from datetime import date, datetime

from core.minutes.write import MinutesLine
from core.problems import InputProblem
from core.reading.base import first_name
from core.text import Put, as_written


@dataclass(frozen=True, slots=True)
class Tone:
    """How a mail speaks; `{names}`, `{title}`, `{day}`, `{sender}` are filled in."""

    subject: str
    greeting: str
    opening: str
    decisions: str
    actions: str
    questions: str
    closing: str
    by: str


TONES = {
    "short": Tone("{title}, {day}", "{names},", "From {title}, {day}:", "Settled", "To do", "Open", "{sender}", "by {day}"),
    "friendly": Tone(
        "What came out of {title}", "Hello {names},", "Thank you for your time on {day}. Here is what came out of {title}.", "What was settled",
        "Who does what", "Still open", "If something is not as you remember it, tell me.\n\nBest wishes,\n{sender}", "by {day}",
    ),
    "formal": Tone(
        "Outcome of {title}, {day}", "Dear {names},", "Please find below the outcome of {title}, held on {day}.", "Decisions",
        "Actions", "Open questions", "Please let me know by return if anything needs correcting.\n\nYours sincerely,\n{sender}", "by {day}",
    ),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Mail:
    """A draft."""

    subject: str
    body: str


def draft_mail(
    title: str,
    held: datetime,
    sender: str,
    recipients: Sequence[str],
    lines: Sequence[tuple[MinutesLine, str]],
    tone: str,
    put: Put = as_written,
) -> Mail:
    """A mail of the chosen lines and no others.

    lines: each with its kind, "decision", "action" or "question", recipients: their names. put: what the tone says.
    Raises InputProblem for a tone there is not, and where nothing was chosen.
    """
    if tone not in TONES:
        raise InputProblem(f"There is no tone {tone!r}. Tones: {', '.join(TONES)}.")
    if not lines:
        raise InputProblem("Tick what the mail is to say first: a decision, an action, an open question.")
    manner = Tone(*map(put, astuple(TONES[tone])))
    filled = {"title": title, "day": _day(held.date()), "sender": sender, "names": _names(recipients, put, formal=tone == "formal")}
    parts = [manner.greeting.format(**filled), manner.opening.format(**filled)]
    for kind, heading in (("decision", manner.decisions), ("action", manner.actions), ("question", manner.questions)):
        said = [_item(line, manner) for line, its in lines if its == kind]
        if said:
            parts.append(f"{heading}\n" + "\n".join(said))
    parts.append(manner.closing.format(**filled))
    return Mail(manner.subject.format(**filled), "\n\n".join(parts) + "\n")


def _item(line: MinutesLine, manner: Tone) -> str:
    due = line.action.due if line.action else None
    return f"- {line.text}" + (f" ({manner.by.format(day=_day(due))})" if due else "")


def _day(day: date) -> str:
    """2026-10-06: read the same everywhere (ISO 8601)."""
    return day.isoformat()


def _names(recipients: Sequence[str], put: Put, *, formal: bool) -> str:
    names = [name if formal else first_name(name) for name in recipients]
    if not names:
        return put("all")
    return names[0] if len(names) == 1 else put("{names} and {last}").format(names=", ".join(names[:-1]), last=names[-1])
