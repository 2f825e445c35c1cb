"""Sound and picture files: what is in them, their sound for the recogniser, a copy to listen to, peaks."""

from core.media.copies import listening_copy
from core.media.decode import RATE, decode, open_sound
from core.media.loudness import peaks
from core.media.probe import MediaFacts, probe

__all__ = ["RATE", "MediaFacts", "decode", "listening_copy", "open_sound", "peaks", "probe"]
