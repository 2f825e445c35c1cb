"""A folder on a server, over WebDAV (RFC 4918)."""

from __future__ import annotations

from pathlib import PurePosixPath
from typing import ClassVar
from urllib.parse import quote

import requests
from pydantic import Field

from server.connections.kinds.base import Address, Denied, Line, Missing, NotLetIn, Secret, Touched
from server.connections.kinds.files import Files, FilesSettings
from server.connections.kinds.speaking import Speaker


class FolderSettings(FilesSettings):
    """Where it is, and who is let in."""

    address: Address = Field(title="Address", description="The folder's WebDAV address.")
    username: Line = Field(title="Name", min_length=1)
    password: Secret = Field(title="Password", description="Some ask for a password made for programs.")


class Folder(Files):
    """Told apart by what the server says of a file's state (ETag, RFC 9110, 8.8.3)."""

    name: ClassVar[str] = "folder"
    title: ClassVar[str] = "A folder on a server"
    about: ClassVar[str] = "Minutes and records lie there as files, in folders by a rule, and are kept in step (WebDAV)."
    asks = FolderSettings
    settings: FolderSettings

    def check(self) -> str:
        """Is there such a folder?"""
        self._ask("PROPFIND", "", headers={"Depth": "0"})
        return f"The folder at {self._speaker().host} is there."

    def state(self, path: str) -> str | None:
        """As HEAD tells."""
        try:
            return _state(self._ask("HEAD", path))
        except Missing:
            return None

    def put(self, path: str, data: bytes, *, only: str | None) -> str:
        """With the folders that it lies in."""
        headers = {} if only is None else {"If-None-Match": "*"} if only == "" else {"If-Match": only} if only.startswith(('"', "W/")) else {}
        try:
            answer = self._ask("PUT", path, data=data, headers=headers)
        except Touched:
            if only is not None and self.state(path) == (only or None):
                # 409 is said of a missing folder as well (RFC 4918, 9.7.1).
                self._make_folders(path)
                answer = self._ask("PUT", path, data=data, headers=headers)
            elif only is None:
                self._make_folders(path)
                answer = self._ask("PUT", path, data=data)
            else:
                raise
        except Missing:
            self._make_folders(path)
            answer = self._ask("PUT", path, data=data, headers=headers)
        return answer.headers.get("ETag") or self.state(path) or ""

    def remove(self, path: str, state: str) -> None:
        """And leave the folders."""
        self._ask("DELETE", path, headers={"If-Match": state} if state.startswith('"') else {})

    def shown(self, path: str) -> str:
        """Where WebDAV has it."""
        return f"{self._speaker().address}{quote(path)}"

    def _make_folders(self, path: str) -> None:
        for place in reversed(PurePosixPath(path).parents[:-1]):
            try:
                self._ask("MKCOL", f"{place}/")
            except (Touched, Denied) as refusal:
                if isinstance(refusal, (NotLetIn, Missing)):
                    raise
                # 405: it is there (RFC 4918, 9.3.1).

    def _speaker(self) -> Speaker:
        return Speaker(self.settings.address, auth=(self.settings.username, self.settings.password))

    def _ask(self, method: str, path: str, data: bytes | None = None, headers: dict[str, str] | None = None) -> requests.Response:
        return self._speaker().ask(method, quote(path) if path else "", data=data, headers=headers)


def _state(answer: requests.Response) -> str:
    return answer.headers.get("ETag") or f"{answer.headers.get('Last-Modified', '')} {answer.headers.get('Content-Length', '')}"
