"""A tracker of tasks (`docs/outside.md`): an action becomes a task, with owner, day, sentence and a link to its lines; what becomes of it comes back."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import date
from typing import Any, ClassVar
from urllib.parse import quote, urlencode

from pydantic import Field

from core.problems import InputProblem
from server.connections.kinds.base import Address, Line, Message, Missing, News, Parcel, Receipt, Secret, Settings
from server.connections.kinds.spoken import Spoken
from server.connections.models import Subject
from server.connections.subjects.matters import ActionContents


class TrackerSettings(Settings):
    """Where it is, and which of its projects."""

    address: Address = Field(title="Address", description="Of the tracker's interface.")
    token: Secret = Field(title="Token", description="Made in the tracker for this connection: it reads and writes tasks of one project.")
    project: Line = Field(title="Project", min_length=1, description="As the tracker calls it.")


class Tracker(Spoken):
    """State, owner and day go both ways."""

    name: ClassVar[str] = "tracker"
    title: ClassVar[str] = "A tracker of tasks"
    about: ClassVar[str] = "Actions become tasks there, with the sentence they come from; what is done there is done here, and the other way round."
    asks = TrackerSettings
    takes = frozenset({Subject.ACTION})
    keyed = True
    recalls = True
    gives = True
    strange: ClassVar[str] = "What the tracker answers is not what a tracker answers."
    nameless: ClassVar[str] = "The tracker has answered without saying which task it made."
    settings: TrackerSettings

    def check(self) -> str:
        """Is the project there?"""
        said = self.ask("GET", self._project())
        return f"The project “{said.get('name', self.settings.project)}” is there, with {said.get('tasks', 'some')} tasks."

    def deliver(self, parcel: Parcel) -> Receipt:
        """A task, or what is new of it. What somebody has changed there since is not written over: that comes back first."""
        said = _task(parcel.contents)
        for name in parcel.held:
            said.pop(name, None)
        if parcel.there is None:
            return self._made(self.ask("POST", f"{self._project()}/tasks", said=said, key=parcel.key))
        headers = {"If-Match": f'"{parcel.there.mark}"'} if parcel.there.mark else {}
        return self._made(self.ask("PATCH", f"tasks/{quote(parcel.there.remote)}", said=said, key=parcel.key_of_words, headers=headers))

    def find(self, key: str) -> Receipt | None:
        """The task that a request of this key made."""
        found = self.ask("GET", f"tasks?{urlencode({'key': key})}").get("tasks") or []
        return self._made(found[0]) if found else None

    def withdraw(self, key: str, there: Receipt) -> None:
        """Delete it."""
        self.speaker().ask("DELETE", f"tasks/{quote(there.remote)}", key=key)

    def look(self, there: Receipt) -> News | None:
        """The task as it is."""
        try:
            return _news(self.ask("GET", f"tasks/{quote(there.remote)}"))
        except Missing:
            return News(there.remote, gone=True)

    def subscribe(self, address: str, secret: str) -> None:
        """Have it tell of every change."""
        self.speaker().ask("PUT", f"{self._project()}/hook", said={"url": address, "secret": secret})

    def unsubscribe(self, address: str) -> None:
        """And no more."""
        self.speaker().ask("DELETE", f"{self._project()}/hook?{urlencode({'url': address})}")

    def receive(self, message: Message) -> Sequence[News]:
        """One task, as it is now. What a message says is old as soon as the next one is sent: the task itself is asked."""
        task = message.body.get("task") if isinstance(message.body, dict) else None
        if not isinstance(task, dict) or not isinstance(task.get("id"), str):
            raise InputProblem("A message of a tracker has a “task” with its “id”.")
        return [news] if (news := self.look(Receipt(task["id"]))) else []

    def poll(self, cursor: str) -> tuple[Sequence[News], str]:
        """All that has changed since."""
        said = self.ask("GET", f"{self._project()}/tasks?{urlencode({'since': cursor or '0'})}")
        return list(_all_news(said.get("tasks") or [])), str(said.get("next", cursor))

    def _project(self) -> str:
        return f"projects/{quote(self.settings.project, safe='')}"

    def _made(self, task: dict[str, Any]) -> Receipt:
        return self.receipt(task, str(task.get("version", "")))


def _task(action: ActionContents) -> dict[str, Any]:
    return {
        "text": action.text,
        "owner": action.owner and {"name": action.owner.name, "address": action.owner.address},
        "due": action.due and action.due.isoformat(),
        "state": action.state,
        "link": action.link,
        "quotes": [{"who": one.who, "text": one.text, "link": one.link} for one in action.quotes],
    }


def _all_news(tasks: Sequence[Any]) -> Iterator[News]:
    for task in tasks:
        if isinstance(task, dict) and isinstance(task.get("id"), str):
            yield _news(task)


def _news(task: dict[str, Any]) -> News:
    """A task, as it is there. What cannot be understood of it is passed over."""
    if task.get("deleted"):
        return News(task["id"], gone=True)
    owner = task.get("owner") if isinstance(task.get("owner"), dict) else {}
    due, says_due = task.get("due"), "due" in task
    try:
        day = date.fromisoformat(due) if due else None
    except (ValueError, TypeError):
        day, says_due = None, False
    said_owner = "owner" in task
    return News(
        task["id"],
        state=task.get("state") if isinstance(task.get("state"), str) else None,
        owner=str((owner or {}).get("name") or "") if said_owner else None,
        address=str((owner or {}).get("address") or "") if said_owner else None,
        due=day,
        says_due=says_due,
        mark=str(task.get("version", "")),
    )
