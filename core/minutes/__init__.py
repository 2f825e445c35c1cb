"""Findings → minutes: templates, what is kept when they are written anew, what changes then, and their text forms."""

from core.minutes.kind import propose_kind
from core.minutes.markdown import to_markdown, to_text
from core.minutes.merge import Change, compare, merge
from core.minutes.templates import BUILT_IN, Section, Template, template_from
from core.minutes.write import MinutesLine, write_minutes

__all__ = [
    "BUILT_IN",
    "Change",
    "MinutesLine",
    "Section",
    "Template",
    "compare",
    "merge",
    "propose_kind",
    "template_from",
    "to_markdown",
    "to_text",
    "write_minutes",
]
