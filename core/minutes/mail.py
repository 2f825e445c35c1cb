"""A follow-up mail drafted from what was settled and taken on, in a tone and a language."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from core.minutes.write import MinutesLine
from core.problems import InputProblem
from core.reading.base import first_name


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


# Language → tone. Languages that the program cannot write in by rules (docs/using.md) are not here.
TONES: dict[str, dict[str, Tone]] = {
    "en": {
        "short": Tone("{title}, {day}", "{names},", "From {title}, {day}:", "Settled", "To do", "Open", "{sender}", "by {day}"),
        "friendly": Tone(
            "What came out of {title}", "Hello {names},", "Thank you for your time on {day}. Here is what came out of {title}.", "What was settled",
            "Who does what", "Still open", "If something is not as you remember it, tell me.\n\nBest wishes,\n{sender}", "by {day}",
        ),
        "formal": Tone(
            "Outcome of {title}, {day}", "Dear {names},", "Please find below the outcome of {title}, held on {day}.", "Decisions",
            "Actions", "Open questions", "Please let me know by return if anything needs correcting.\n\nYours sincerely,\n{sender}", "by {day}",
        ),
    },
    "es": {
        "short": Tone("{title}, {day}", "{names}:", "De {title}, {day}:", "Acordado", "Por hacer", "Pendiente", "{sender}", "antes del {day}"),
        "friendly": Tone(
            "Lo que salió de {title}", "Hola, {names}:", "Gracias por vuestro tiempo el {day}. Esto es lo que salió de {title}.", "Lo que se acordó",
            "Quién hace qué", "Queda abierto", "Si algo no es como lo recordáis, decídmelo.\n\nUn saludo,\n{sender}", "antes del {day}",
        ),
        "formal": Tone(
            "Resultado de {title}, {day}", "Estimados {names}:", "Les comunico el resultado de {title}, celebrada el {day}.", "Decisiones",
            "Acciones", "Cuestiones abiertas", "Les ruego que me indiquen cualquier corrección.\n\nAtentamente,\n{sender}", "antes del {day}",
        ),
    },
    "ca": {
        "short": Tone("{title}, {day}", "{names}:", "De {title}, {day}:", "Acordat", "Per fer", "Pendent", "{sender}", "abans del {day}"),
        "friendly": Tone(
            "El que va sortir de {title}", "Hola, {names}:", "Gràcies pel vostre temps el {day}. Això és el que va sortir de {title}.", "El que es va acordar",
            "Qui fa què", "Queda obert", "Si alguna cosa no és com la recordeu, digueu-m'ho.\n\nSalutacions,\n{sender}", "abans del {day}",
        ),
        "formal": Tone(
            "Resultat de {title}, {day}", "Benvolguts {names}:", "Us comunico el resultat de {title}, celebrada el {day}.", "Decisions",
            "Accions", "Qüestions obertes", "Us prego que m'indiqueu qualsevol correcció.\n\nAtentament,\n{sender}", "abans del {day}",
        ),
    },
    "gl": {
        "short": Tone("{title}, {day}", "{names}:", "De {title}, {day}:", "Acordado", "Por facer", "Pendente", "{sender}", "antes do {day}"),
        "friendly": Tone(
            "O que saíu de {title}", "Ola, {names}:", "Grazas polo voso tempo o {day}. Isto é o que saíu de {title}.", "O que se acordou",
            "Quen fai que", "Queda aberto", "Se algo non é como o lembrades, dicídemo.\n\nUn saúdo,\n{sender}", "antes do {day}",
        ),
        "formal": Tone(
            "Resultado de {title}, {day}", "Estimados {names}:", "Comunícolles o resultado de {title}, celebrada o {day}.", "Decisións",
            "Accións", "Cuestións abertas", "Prégolles que me indiquen calquera corrección.\n\nAtentamente,\n{sender}", "antes do {day}",
        ),
    },
}  # fmt: skip
_AND = {"en": "and", "es": "y", "ca": "i", "gl": "e"}
_ALL = {"en": "all", "es": "todos", "ca": "tothom", "gl": "todos"}


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
    language: str = "en",
) -> Mail:
    """A mail of the chosen lines and no others.

    lines: each with its kind, "decision", "action" or "question", its text already in the mail's language. recipients: their names.
    Raises InputProblem for a tone or a language there is not, and where nothing was chosen.
    """
    if language not in TONES:
        raise InputProblem(f"A mail is drafted in {', '.join(TONES)}, not in {language!r}.")
    if tone not in TONES[language]:
        raise InputProblem(f"There is no tone {tone!r}. Tones: {', '.join(TONES[language])}.")
    if not lines:
        raise InputProblem("Tick what the mail is to say first: a decision, an action, an open question.")
    manner = TONES[language][tone]
    filled = {"title": title, "day": _day(held.date()), "sender": sender, "names": _names(recipients, language, formal=tone == "formal")}
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


def _names(recipients: Sequence[str], language: str, *, formal: bool) -> str:
    names = [name if formal else first_name(name) for name in recipients]
    if not names:
        return _ALL[language]
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} {_AND[language]} {names[-1]}"
