"""A tracker of tasks for one machine, in memory, with a page: `python -m standins.tracker --port N --token T`.

Its interface is described in `docs/outside.md`. It tells of changes by messages as Standard Webhooks 1.0.0 has them.
"""

from __future__ import annotations

import secrets
import threading
from html import escape
from typing import Any

from standins.local import Asked, Interface, Refusal, button, run
from standins.message import send

PEOPLE = {
    "maren@larkmoor.example": "Maren Tollefsen",
    "idris@larkmoor.example": "Idris Quaye",
    "yuki@larkmoor.example": "Yuki Hanamori",
    "nerys@larkmoor.example": "Nerys Vaughan-Pryce",
}
_STATES = ("open", "done", "dropped")


class Tracker(Interface):
    """Projects with tasks."""

    title = "A tracker of tasks"

    def __init__(self, token: str, projects: tuple[str, ...] = ("glasshouse", "grounds")) -> None:
        super().__init__(token)
        self.projects = projects
        self.tasks: dict[str, dict[str, Any]] = {}
        self.by_key: dict[str, str] = {}
        self.hooks: dict[str, list[tuple[str, str]]] = {}
        self.changes: list[tuple[str, dict[str, Any]]] = []
        self.made = 0

    def _project(self, asked: Asked) -> str:
        if asked.names[0] not in self.projects:
            raise Refusal(404, "There is no such project.")
        return str(asked.names[0])

    def about(self, asked: Asked) -> Any:
        """A project."""
        return {"name": self._project(asked), "tasks": sum(one["project"] == asked.names[0] for one in self.tasks.values())}

    def all_projects(self, asked: Asked) -> Any:
        """Those there are."""
        return {"projects": list(self.projects)}

    def new(self, asked: Asked) -> Any:
        """Make a task."""
        project, said = self._project(asked), asked.body
        key = secrets.token_hex(6)
        task = {"id": key, "project": project, "version": 1, "url": f"/#{key}", "state": "open", "owner": None, "due": None, "text": "", "link": "", "quotes": []}
        self.tasks[key] = task | _checked(said)
        self.by_key[asked.headers.get("idempotency-key", "")] = key
        self.made += 1
        self._note(key)
        if asked.mood == "mind":
            self.change(key, state="done")
        return 201, dict(self.tasks[key])

    def _task(self, asked: Asked) -> dict[str, Any]:
        if asked.names[0] not in self.tasks:
            raise Refusal(404, "This task was deleted.")
        return self.tasks[asked.names[0]]

    def get(self, asked: Asked) -> Any:
        """One task."""
        return dict(self._task(asked))

    def patch(self, asked: Asked) -> Any:
        """Change one; If-Match: only as it was."""
        task = self._task(asked)
        wanted = asked.headers.get("if-match", "").strip('"')
        if wanted and wanted != str(task["version"]):
            raise Refusal(412, "Somebody has changed this task meanwhile.")
        self.change(task["id"], **_checked(asked.body))
        return dict(self.tasks[task["id"]])

    def delete(self, asked: Asked) -> Any:
        """Delete one."""
        self.remove(self._task(asked)["id"])
        return 204, None

    def by_its_key(self, asked: Asked) -> Any:
        """What was made by a request of a key."""
        key = self.by_key.get(asked.query.get("key", ""))
        return {"tasks": [self.tasks[key]] if key in self.tasks else []}

    def since(self, asked: Asked) -> Any:
        """What has changed in a project since a number."""
        project, after = self._project(asked), int(asked.query.get("since") or 0)
        found = {task["id"]: task for its, task in self.changes[after:] if its == project}
        return {"tasks": list(found.values()), "next": len(self.changes)}

    def hook(self, asked: Asked) -> Any:
        """Tell of changes at an address from now on."""
        there = self.hooks.setdefault(self._project(asked), [])
        there[:] = [one for one in there if one[0] != asked.body["url"]] + [(asked.body["url"], asked.body["secret"])]
        return 204, None

    def unhook(self, asked: Asked) -> Any:
        """And no more."""
        there = self.hooks.get(self._project(asked), [])
        there[:] = [one for one in there if one[0] != asked.query.get("url")]
        return 204, None

    routes = (
        ("GET", "/projects", all_projects),
        ("GET", "/projects/([^/]+)", about),
        ("POST", "/projects/([^/]+)/tasks", new),
        ("GET", "/projects/([^/]+)/tasks", since),
        ("PUT", "/projects/([^/]+)/hook", hook),
        ("DELETE", "/projects/([^/]+)/hook", unhook),
        ("GET", "/tasks", by_its_key),
        ("GET", "/tasks/([^/]+)", get),
        ("PATCH", "/tasks/([^/]+)", patch),
        ("DELETE", "/tasks/([^/]+)", delete),
    )

    def change(self, key: str, **to: Any) -> None:
        """Somebody changes a task."""
        with self.lock:
            task = self.tasks[key]
            if any(task.get(name) != value for name, value in to.items()):
                self.tasks[key] = {**task, **to, "version": task["version"] + 1}
                self._note(key)

    def remove(self, key: str) -> None:
        """Somebody deletes one."""
        with self.lock:
            task = self.tasks.pop(key)
            self._note(key, {"id": key, "project": task["project"], "deleted": True})

    def _note(self, key: str, what: dict[str, Any] | None = None) -> None:
        task = what or dict(self.tasks[key])
        self.changes.append((task["project"], task))
        for url, secret in self.hooks.get(task["project"], []):
            threading.Thread(target=send, args=(url, secret, {"type": "task", "task": task}), daemon=True).start()

    def page(self) -> str:
        """Tasks, with what one can do to them."""
        rows = []
        for task in self.tasks.values():
            owner = task["owner"] or {}
            quotes = "".join(f"<blockquote>{escape(one['who'])}: {escape(one['text'])}</blockquote>" for one in task["quotes"])
            link = f'<a href="{escape(task["link"])}">Where it was said</a>' if task["link"] else ""
            presses = "".join(button(words, id=task["id"], state=state) for words, state in (("Done", "done"), ("Open", "open"), ("Dropped", "dropped")) if state != task["state"])
            people = "".join(button(f"Give to {name}", id=task["id"], owner=address) for address, name in PEOPLE.items() if address != owner.get("address"))
            rows.append(
                f"<tr id={task['id']}><td>{escape(task['project'])}<td><b>{escape(task['text'])}</b>{quotes}{link}<td>{escape(owner.get('name') or 'nobody')}"
                f"<td>{escape(task['due'] or '')}<td>{task['state']}<td>{presses}<details><summary>More</summary>{people}{button('Delete', id=task['id'], gone=1)}</details>"
            )
        return "<table><tr><th>Project<th>Task<th>Owner<th>Due<th>State<th></tr>" + "".join(rows) + "</table>" if rows else "<p>No tasks.</p>"

    def pressed(self, form: dict[str, str]) -> None:
        """As the buttons say."""
        if form["id"] not in self.tasks:
            return
        if "gone" in form:
            self.remove(form["id"])
        elif "owner" in form:
            self.change(form["id"], owner={"name": PEOPLE[form["owner"]], "address": form["owner"]})
        else:
            self.change(form["id"], state=form["state"])


def _checked(said: dict[str, Any]) -> dict[str, Any]:
    if said.get("state", "open") not in _STATES:
        raise Refusal(422, f"A task is {', '.join(_STATES)}.")
    return {name: said[name] for name in ("text", "owner", "due", "state", "link", "quotes") if name in said}


if __name__ == "__main__":
    run(Tracker, __doc__, 8632)
