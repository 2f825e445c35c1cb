"""Findings → minutes: sections, what is kept when they are written anew, and their text form."""

from core.minutes.markdown import to_markdown
from core.minutes.merge import merge
from core.minutes.write import SECTIONS, MinutesLine, write_minutes

__all__ = ["SECTIONS", "MinutesLine", "merge", "to_markdown", "write_minutes"]
