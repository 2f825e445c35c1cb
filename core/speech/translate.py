"""English into the languages of colleagues who need it, by rules: Apertium, from Debian's packages."""

from __future__ import annotations

import shutil
import subprocess
from collections.abc import Sequence

from core.problems import InputProblem

MODES = {"es": "eng-spa", "ca": "eng-cat", "gl": "en-gl"}
"""ISO 639-1 code → Apertium's name of the way from English."""


def translate(lines: Sequence[str], language: str) -> list[str]:
    """The lines in another language, one for one. Words it does not know stay as they are.

    Raises InputProblem for a language there is no way to, or where Apertium is not installed.
    """
    if language not in MODES:
        raise InputProblem(f"English can be put into {', '.join(MODES)}, not into {language!r}.")
    if not lines:
        return []
    if shutil.which("apertium") is None:
        raise InputProblem("Translation is not installed on this server. Run ./aftershower setup on it.")
    # A paragraph a line, so that none flows into the next.
    translated = [
        line.strip() for line in _apertium("\n\n".join(" ".join(line.split()) for line in lines), language).strip("\n").split("\n\n")
    ]
    return translated if len(translated) == len(lines) else [" ".join(_apertium(line, language).split()) for line in lines]


def _apertium(text: str, language: str) -> str:
    return subprocess.run(["apertium", "-u", MODES[language]], input=text, capture_output=True, text=True, timeout=30, check=True).stdout
