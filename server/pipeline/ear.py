"""The models, loaded once a process, at the first work that needs them."""

from functools import cache

from django.conf import settings

from core.hearing import Ear


@cache
def ear() -> Ear:
    """The models of this worker."""
    return Ear(settings.MODELS)
