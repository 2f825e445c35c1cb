"""What an operation of the API answers."""

from __future__ import annotations

from typing import Any

Answer = Any
"""A row, a mapping, or (status, body): Ninja makes of it what the operation's `response` says, and answers 500 to what does not fit."""
