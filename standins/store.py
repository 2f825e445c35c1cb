"""A store of objects for one machine, in memory: what of Amazon's S3 interface (API version 2006-03-01, signature version 4) its users here need."""

from __future__ import annotations

import argparse
import hashlib
import re
import secrets
import signal
import time
from collections.abc import Callable
from http.server import ThreadingHTTPServer
from typing import Any
from urllib.parse import parse_qs, quote, unquote, urlsplit
from xml.sax.saxutils import escape

from botocore.auth import S3SigV4Auth
from botocore.awsrequest import AWSRequest
from botocore.credentials import Credentials

from standins.local import Moods, Quiet, start

_SIGNED = re.compile(r"AWS4-HMAC-SHA256 Credential=([^/]+)/(\d+)/([^/]+)/s3/aws4_request, ?SignedHeaders=([^,]+), ?Signature=([0-9a-f]{64})")
_PAGE = 1000
"""Names in one answer of a listing."""


class Store:
    """What lies in it, and how it is to behave. `told`: down: nothing is answered; full: nothing is taken in; cut: of what is given only so
    many bytes come; late: seconds until an answer."""

    def __init__(self, key: str, secret: str, bucket: str) -> None:
        self.key, self.secret, self.bucket = key, secret, bucket
        self.objects: dict[str, bytes] = {}
        self.parts: dict[str, dict[int, bytes]] = {}
        self.told: dict[str, Any] = {}
        self.moods = Moods()
        self.read = 0
        """Bytes that were given so far."""

    def knows(self, method: str, url: str, headers: dict[str, str]) -> bool:
        """Is a request signed with the secret?"""
        found = _SIGNED.match(headers.get("authorization", ""))
        if not found or found[1] != self.key:
            return False
        auth = S3SigV4Auth(Credentials(self.key, self.secret), "s3", found[3])
        asked = AWSRequest(method, url, headers={name: headers.get(name, "") for name in found[4].split(";")})
        asked.context["timestamp"] = headers.get("x-amz-date", "")
        expected = auth.signature(auth.string_to_sign(asked, auth.canonical_request(asked)), asked)
        return secrets.compare_digest(expected, found[5])

    def listing(self, asked: dict[str, str]) -> str:
        """ListObjects, in both its versions: names under a prefix, with what lies below a further delimiter put together."""
        prefix, delimiter, after = asked.get("prefix", ""), asked.get("delimiter", ""), asked.get("continuation-token") or asked.get("marker", "")
        found: dict[str, str] = {}
        for name in sorted(one for one in self.objects if one.startswith(prefix)):
            rest = name[len(prefix) :]
            if delimiter and delimiter in rest:
                below = prefix + rest.split(delimiter)[0] + delimiter
                found[below] = f"<CommonPrefixes><Prefix>{_as_asked(below, asked)}</Prefix></CommonPrefixes>"
            else:
                body = self.objects[name]
                found[name] = (
                    f"<Contents><Key>{_as_asked(name, asked)}</Key><Size>{len(body)}</Size><ETag>{_tag(body)}</ETag>"
                    "<LastModified>2026-03-03T09:30:00.000Z</LastModified></Contents>"
                )
        names = [name for name in found if name > after]
        page = names[: min(_PAGE, int(asked.get("max-keys", _PAGE)))]
        more = len(names) > len(page)
        encoded = "<EncodingType>url</EncodingType>" if asked.get("encoding-type") == "url" else ""
        told = f"<IsTruncated>{str(more).lower()}</IsTruncated>" + ("".join(f"<{one}>{_as_asked(page[-1], asked)}</{one}>" for one in ("NextContinuationToken", "NextMarker")) if more else "")
        return f"<ListBucketResult><Name>{self.bucket}</Name>{encoded}<Prefix>{_as_asked(prefix, asked)}</Prefix>{told}{''.join(found[name] for name in page)}</ListBucketResult>"


def _as_asked(name: str, asked: dict[str, str]) -> str:
    return quote(name) if asked.get("encoding-type") == "url" else escape(name)


def _tag(body: bytes) -> str:
    return f'"{hashlib.md5(body, usedforsecurity=False).hexdigest()}"'


class Handler(Quiet):
    """Path-style addresses: /BUCKET/NAME."""

    protocol_version = "HTTP/1.1"
    store: Store
    mood = ""

    def _handle(self) -> None:
        where = urlsplit(self.path)
        asked = {name: values[0] for name, values in parse_qs(where.query, keep_blank_values=True).items()}
        bucket, _, name = unquote(where.path).lstrip("/").partition("/")
        headers = {one.lower(): value for one, value in self.headers.items()}
        body = self.rfile.read(int(headers.get("content-length", 0)))
        time.sleep(float(self.store.told.get("late", 0)))
        self.mood = self.store.moods.next()
        if self.mood == "slow":
            time.sleep(self.store.moods.late)
        if self.mood.startswith("refuse"):
            return self._answer(int(self.mood.split()[1]), b"<Error><Code>SlowDown</Code></Error>")
        if self.store.told.get("down"):
            return self._refuse(503, "ServiceUnavailable")
        if not self.store.knows(self.command, f"http://{headers['host']}{self.path}", headers):
            return self._refuse(403, "SignatureDoesNotMatch")
        if bucket != self.store.bucket:
            return self._refuse(404, "NoSuchBucket")
        if self.store.told.get("full") and self.command in ("PUT", "POST"):
            return self._refuse(507, "InsufficientStorage")
        act: Callable[[str, dict[str, str], bytes], None] = getattr(self, f"_{self.command.lower()}")
        return act(name, asked, body)

    do_GET = do_HEAD = do_PUT = do_POST = do_DELETE = _handle  # noqa: N815 (the library's names)

    def _put(self, name: str, asked: dict[str, str], body: bytes) -> None:
        if "aws-chunked" in self.headers.get("Content-Encoding", ""):
            return self._refuse(501, "NotImplemented")
        if "uploadId" in asked:
            self.store.parts[asked["uploadId"]][int(asked["partNumber"])] = body
        else:
            held = self.store.objects.get(name)
            # Conditional writes: only where nothing lies there, or what was named.
            if self.headers.get("If-None-Match") == "*" and held is not None or (wanted := self.headers.get("If-Match")) and (held is None or wanted != _tag(held)):
                return self._refuse(412, "PreconditionFailed")
            self.store.objects[name] = body
        return self._answer(200, ETag=_tag(body))

    def _post(self, name: str, asked: dict[str, str], body: bytes) -> None:
        if "uploads" in asked:
            upload = secrets.token_hex(8)
            self.store.parts[upload] = {}
            return self._answer(200, f"<InitiateMultipartUploadResult><Key>{escape(name)}</Key><UploadId>{upload}</UploadId></InitiateMultipartUploadResult>".encode())
        parts = self.store.parts.pop(asked["uploadId"])
        self.store.objects[name] = b"".join(parts[number] for number in sorted(parts))
        return self._answer(200, f"<CompleteMultipartUploadResult><Key>{escape(name)}</Key><ETag>{_tag(self.store.objects[name])}</ETag></CompleteMultipartUploadResult>".encode())

    def _get(self, name: str, asked: dict[str, str], body: bytes) -> None:
        if not name:
            return self._answer(200, self.store.listing(asked).encode())
        held = self.store.objects.get(name)
        if held is None:
            return self._refuse(404, "NoSuchKey")
        span = re.fullmatch(r"bytes=(\d+)-(\d*)", self.headers.get("Range", ""))
        if not span:
            return self._answer(200, held, ETag=_tag(held))
        first, last = int(span[1]), min(int(span[2] or len(held)), len(held) - 1)
        if first > last:
            return self._refuse(416, "InvalidRange")
        return self._answer(206, held[first : last + 1], **{"Content-Range": f"bytes {first}-{last}/{len(held)}", "ETag": _tag(held)})

    _head = _get

    def _delete(self, name: str, asked: dict[str, str], body: bytes) -> None:
        if "uploadId" in asked:
            self.store.parts.pop(asked["uploadId"], None)
        else:
            self.store.objects.pop(name, None)
        return self._answer(204)

    def _refuse(self, status: int, code: str) -> None:
        self._answer(status, f"<Error><Code>{code}</Code><Message>{code}</Message></Error>".encode())

    def _answer(self, status: int, body: bytes = b"", **headers: str) -> None:
        self.send_response(status)
        length = len(body) + (20 if self.mood in ("half", "huge") else 0)
        for name, value in {**headers, "Content-Length": str(length), "Last-Modified": "Tue, 03 Mar 2026 09:30:00 GMT"}.items():
            self.send_header(name, value)
        self.end_headers()
        if self.command == "HEAD":
            return
        if self.mood in ("half", "huge"):
            self.close_connection = True
            self.wfile.write(b"")
            return
        if (cut := self.store.told.get("cut")) is not None and self.command == "GET":
            body, self.close_connection = body[: int(cut)], True
        self.store.read += len(body)
        self.wfile.write(body)


def serve(key: str, secret: str, bucket: str, port: int = 0) -> tuple[ThreadingHTTPServer, Store]:
    """Start it on loopback, with one bucket for whoever has the key."""
    store = Store(key, secret, bucket)
    return start(Handler, port, store=store), store


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--port", type=int, default=8631)
    parser.add_argument("--key", default="garden")
    parser.add_argument("--secret", required=True)
    parser.add_argument("--bucket", default="recordings")
    given = parser.parse_args()
    serve(given.key, given.secret, given.bucket, given.port)
    signal.sigwait({signal.SIGTERM, signal.SIGINT})
