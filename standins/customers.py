"""A file of customers for one machine, in memory, with a page: `python -m standins.customers --port N --token T`. Its interface is described in `docs/outside.md`."""

from __future__ import annotations

import secrets
from html import escape
from typing import Any

from standins.local import Asked, Interface, Refusal, run

FIELDS = {
    "budget": {"title": "Budget", "type": "number"},
    "start": {"title": "Start of the work", "type": "date"},
    "glass": {"title": "Kind of glass", "type": "choice", "choices": ["laminated", "toughened", "acid-etched"]},
    "concerns": {"title": "What worries them", "type": "text"},
}
ORGANISATIONS = {
    "o1": {"name": "Castellow Glazing", "domains": ["castellow.example"]},
    "o2": {"name": "Odukoya Heating", "domains": ["odukoya-heat.example"]},
    "o3": {"name": "Viveiros Ferreiro", "domains": ["viveiros-ferreiro.example"]},
}
PEOPLE = {
    "p1": {"name": "Gwen Castellow", "addresses": ["gwen@castellow.example"], "organisation": "o1"},
    "p2": {"name": "Anselm Odukoya", "addresses": ["anselm@odukoya-heat.example"], "organisation": "o2"},
    "p3": {"name": "Lucía Ferreiro", "addresses": ["lucia@viveiros-ferreiro.example"], "organisation": "o3"},
}


class Customers(Interface):
    """Organisations, people in them, fields of organisations, and what was done with them."""

    title = "A file of customers"

    def __init__(self, token: str, organisations: dict[str, dict[str, Any]] | None = None, people: dict[str, dict[str, Any]] | None = None) -> None:
        super().__init__(token)
        given = ORGANISATIONS if organisations is None else organisations
        self.organisations = {key: {"id": key, "fields": {}, "version": 1, **one} for key, one in given.items()}
        self.people = {key: {"id": key, **one} for key, one in (PEOPLE if people is None else people).items()}
        self.log: dict[str, dict[str, Any]] = {}
        self.by_key: dict[str, str] = {}
        self.made = 0

    def me(self, asked: Asked) -> Any:
        """What there is."""
        return {"name": "A file of customers", "organisations": len(self.organisations)}

    def fields(self, asked: Asked) -> Any:
        """Those of organisations."""
        return {"fields": [{"id": key, **one} for key, one in FIELDS.items()]}

    def found_people(self, asked: Asked) -> Any:
        """By their address."""
        return {"people": [one for one in self.people.values() if asked.query.get("address", "").lower() in one["addresses"]]}

    def found_organisations(self, asked: Asked) -> Any:
        """By a domain; without one, all."""
        domain = asked.query.get("domain", "").lower()
        return {"organisations": [one for one in self.organisations.values() if not domain or domain in one["domains"]]}

    def _organisation(self, asked: Asked) -> dict[str, Any]:
        if asked.names[0] not in self.organisations:
            raise Refusal(404, "There is no such organisation.")
        return self.organisations[asked.names[0]]

    def organisation(self, asked: Asked) -> Any:
        """One, with its fields."""
        return dict(self._organisation(asked))

    def fill(self, asked: Asked) -> Any:
        """Fields of one; If-Match: only as it was."""
        one = self._organisation(asked)
        wanted = asked.headers.get("if-match", "").strip('"')
        if wanted and wanted != str(one["version"]):
            raise Refusal(412, "Somebody has changed this organisation meanwhile.")
        for name, value in asked.body["fields"].items():
            kind = FIELDS.get(name)
            wrong = kind and value is not None and (kind["type"] == "number" and not isinstance(value, (int, float)) or kind["type"] == "choice" and value not in kind["choices"])
            if kind is None or wrong:
                raise Refusal(422, f"That is no value for {name}.")
        one["fields"] = {**one["fields"], **asked.body["fields"]}
        one["version"] += 1
        return dict(one)

    def note(self, asked: Asked) -> Any:
        """Note what was done with an organisation."""
        key = secrets.token_hex(6)
        self.log[key] = {"id": key, "organisation": self._organisation(asked)["id"], "url": f"/#{key}", "version": 1, **_entry(asked.body)}
        self.by_key[asked.headers.get("idempotency-key", "")] = key
        self.made += 1
        if asked.mood == "mind":
            self.log[key]["version"] += 1
        return 201, dict(self.log[key])

    def _entry(self, asked: Asked) -> dict[str, Any]:
        if asked.names[0] not in self.log:
            raise Refusal(404, "This entry was deleted.")
        return self.log[asked.names[0]]

    def patch(self, asked: Asked) -> Any:
        """Another wording of what was done."""
        one = self._entry(asked)
        one.update(_entry(asked.body), version=one["version"] + 1)
        return dict(one)

    def delete(self, asked: Asked) -> Any:
        """Take an entry out."""
        del self.log[self._entry(asked)["id"]]
        return 204, None

    def by_its_key(self, asked: Asked) -> Any:
        """What was made by a request of a key."""
        key = self.by_key.get(asked.query.get("key", ""))
        return {"log": [self.log[key]] if key in self.log else []}

    routes = (
        ("GET", "/me", me),
        ("GET", "/fields", fields),
        ("GET", "/people", found_people),
        ("GET", "/organisations", found_organisations),
        ("GET", "/organisations/([^/]+)", organisation),
        ("PATCH", "/organisations/([^/]+)", fill),
        ("POST", "/organisations/([^/]+)/log", note),
        ("GET", "/log", by_its_key),
        ("PATCH", "/log/([^/]+)", patch),
        ("DELETE", "/log/([^/]+)", delete),
    )

    def page(self) -> str:
        """Organisations, their fields, and what was done."""
        parts = []
        for one in self.organisations.values():
            rows = "".join(f"<tr><th>{escape(kind['title'])}<td>{escape(str(one['fields'].get(name) or ''))}" for name, kind in FIELDS.items())
            people = ", ".join(escape(who["name"]) for who in self.people.values() if who["organisation"] == one["id"])
            entries = "".join(
                f"<details id={entry['id']}><summary>{escape(entry['title'])}</summary><p style='white-space:pre-line'>{escape(entry['text'])}</p><a href='{escape(entry['link'])}'>Where it was said</a></details>"
                for entry in self.log.values()
                if entry["organisation"] == one["id"]
            )
            parts.append(f"<h2>{escape(one['name'])}</h2><p>{people}</p><table>{rows}</table>{entries or '<p>Nothing was noted yet.</p>'}")
        return "".join(parts)


def _entry(said: dict[str, Any]) -> dict[str, Any]:
    return {name: said.get(name, "") for name in ("title", "text", "at", "link")} | {"people": said.get("people") or []}


if __name__ == "__main__":
    run(Customers, __doc__, 8634)
