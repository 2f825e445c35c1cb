"""Who spoke when: embeddings of short windows, their clusters, words given to voices."""

from core.voices.embedding import VoiceEmbedding
from core.voices.tell_apart import Told, tell_apart

__all__ = ["Told", "VoiceEmbedding", "tell_apart"]
