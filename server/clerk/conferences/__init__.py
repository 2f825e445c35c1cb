"""The conferences that the clerk can go to: an adapter a file, named in the setting CONFERENCES."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from server.clerk.conferences.base import Call, Conference
from server.clerk.conferences.whep import WhepConference

ADAPTERS: Mapping[str, Callable[[Call], Conference]] = {"whep": WhepConference}
"""By name."""
