"""Sound → words with times and probabilities."""

from core.speech.activity import voice_activity
from core.speech.hear import Hearing, Passage, Recogniser

__all__ = ["Hearing", "Passage", "Recogniser", "voice_activity"]
