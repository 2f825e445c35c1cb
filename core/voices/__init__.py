"""Who spoke when: runs of voices, their clusters, words given to voices."""

from core.voices.listen import VoiceModels, all_runs
from core.voices.tell_apart import Told, tell_apart

__all__ = ["Told", "VoiceModels", "all_runs", "tell_apart"]
