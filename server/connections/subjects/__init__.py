"""What can go elsewhere. To add something, write its file, and name it here and in `server.connections.models.Subject`."""

from server.connections.models import Subject
from server.connections.subjects import answer, excerpt, matters, minutes, record
from server.connections.subjects.base import Thing

THINGS: dict[str, Thing] = {thing.subject: thing for thing in (minutes.THING, record.THING, matters.ACTIONS, matters.DECISIONS, excerpt.THING, answer.THING)}
"""Subject → how it is put together."""

assert set(THINGS) == set(Subject)
