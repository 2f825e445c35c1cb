"""The models, loaded once a process, at the first work that needs them."""

from functools import cache

from django.conf import settings

from core.hearing import Ear
from core.reading import READING, Encoder


@cache
def ear(*, live: bool = False) -> Ear:
    """The models that hear: recordings, or while people speak."""
    return Ear(settings.MODELS, live=live)


@cache
def encoder() -> Encoder:
    """The models that read."""
    return Encoder(settings.MODELS / READING)
