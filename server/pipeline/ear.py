"""The models, loaded once a process, at the first work that needs them."""

from functools import cache

from django.conf import settings

from core.hearing import Ear
from core.reading import READING, Encoder


@cache
def ear() -> Ear:
    """The models that hear."""
    return Ear(settings.MODELS)


@cache
def encoder() -> Encoder:
    """The models that read."""
    return Encoder(settings.MODELS / READING)
