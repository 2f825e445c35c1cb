"""A folder in a store of objects (S3): the objects under a prefix, listed and fetched."""

from __future__ import annotations

from contextlib import suppress
from datetime import datetime
from pathlib import Path, PurePosixPath
from urllib.parse import quote, urlencode, urlsplit
from xml.etree import ElementTree

import requests

from core.problems import InputProblem
from core.text import one_line
from server.folders.lying import MOST_FILES, Lying
from server.outward import Outward, download, pages, trouble_of
from server.signed_s3 import SignedS3

SCHEME = "s3+"
"""Before https:// or http:// in the address of one: s3+https://HOST/BUCKET/PREFIX."""


class ObjectFolder:
    """Objects under a prefix of a bucket. key, secret: of the store."""

    def __init__(self, address: str, key: str, secret: str):
        parts = urlsplit(address)
        self._host, self._base = parts.hostname or "", f"{parts.scheme}://{parts.netloc}"
        self._bucket, _, prefix = parts.path.strip("/").partition("/")
        self._prefix = f"{prefix}/" if prefix else ""
        self._auth = SignedS3(key, secret)

    def files(self) -> list[Lying]:
        """The objects that lie right under the prefix. Raises InputProblem."""
        if not self._bucket:
            raise InputProblem(f"Name the bucket as well: {SCHEME}https://HOST/BUCKET, or a folder in it.")
        found: list[Lying] = []

        def page(more: str) -> tuple[ElementTree.Element, str]:
            asked = {"list-type": "2", "delimiter": "/", "prefix": self._prefix, **({"continuation-token": more} if more else {})}
            listing = self._listing(urlencode(asked))
            return listing, _said(listing, "NextContinuationToken")

        for listing in pages(page):
            found += [one for row in listing.iter() if row.tag.rpartition("}")[2] == "Contents" and (one := self._lying(row))]
            if len(found) > MOST_FILES:
                raise InputProblem(f"More than {MOST_FILES} files lie in this folder. Name one that is for recordings alone.")
        return found

    def fetch(self, one: Lying, target: Path) -> None:
        """Raises InputProblem where it does not come as it was told."""
        try:
            download(f"{self._base}/{self._bucket}/{quote(one.href)}", target, one.size, auth=self._auth)
        except InputProblem as problem:
            raise InputProblem(f"{one.name}: {problem}") from problem
        if target.stat().st_size != one.size:
            raise InputProblem(f"{one.name} changed while it was fetched. It is fetched again when it lies still.")

    def _listing(self, asked: str) -> ElementTree.Element:
        try:
            answer = Outward().get(f"{self._base}/{self._bucket}?{asked}", auth=self._auth)
            if answer.status_code in (401, 403):
                raise InputProblem(f"{self._host} does not let this key in. Check key and secret.")
            if answer.status_code != 200:
                raise InputProblem(f"There is no such bucket: {self._host} answers {answer.status_code}. Look up its address there.")
            return ElementTree.fromstring(answer.content)
        except (requests.RequestException, OSError, ElementTree.ParseError) as error:
            raise InputProblem(trouble_of(error, self._host)) from error

    def _lying(self, row: ElementTree.Element) -> Lying | None:
        key, size = _said(row, "Key"), _said(row, "Size")
        name = one_line(PurePosixPath(key).name)[:255]
        if not name or key.endswith("/"):
            return None
        modified, said = None, _said(row, "LastModified")
        with suppress(ValueError):
            modified = datetime.fromisoformat(said)
        return Lying(key[:1000], name, int(size) if size.isdigit() else 0, f"{_said(row, 'ETag')}|{said}"[:390], modified)


def _said(element: ElementTree.Element, name: str) -> str:
    return next((one.text or "" for one in element if one.tag.rpartition("}")[2] == name), "")
