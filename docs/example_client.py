"""A program that gives a recording or a transcript to Aftershower, waits for its minutes, and prints what is to be done. It needs Python and nothing else.

    AFTERSHOWER_TOKEN=aft_… python example_client.py https://aftershower.example meeting.vtt

The token needs the scopes `read` and `give`; make one under Connections, Tokens.
"""

from __future__ import annotations

import base64
import hashlib
import hmac
import json
import os
import sys
import time
import urllib.request
from datetime import UTC, datetime
from pathlib import Path


class Aftershower:
    """One server, and a token for it."""

    def __init__(self, address: str, token: str) -> None:
        self.address, self.token = address.rstrip("/"), token

    def call(self, method: str, path: str, said: object = None, data: bytes | None = None, **headers: str) -> tuple[dict, bytes]:
        """One request: the headers of the answer, and what is in it."""
        sent = {"Authorization": f"Bearer {self.token}", **{name.replace("_", "-"): value for name, value in headers.items()}}
        if said is not None:
            data, sent["Content-Type"] = json.dumps(said).encode(), "application/json"
        with urllib.request.urlopen(urllib.request.Request(self.address + path, data, sent, method=method)) as answer:
            return dict(answer.headers), answer.read()

    def give(self, file: Path, title: str) -> str:
        """Give a file (tus 1.0.0: it is made, then its bytes come), and make a meeting of it; the meeting's key."""
        data = file.read_bytes()
        named = base64.b64encode(file.name.encode()).decode()
        headers, _ = self.call("POST", "/api/uploads", data=b"", Tus_Resumable="1.0.0", Upload_Length=str(len(data)), Upload_Metadata=f"filename {named}")
        upload = headers["Location"]
        self.call("PATCH", upload, data=data, Tus_Resumable="1.0.0", Upload_Offset="0", Content_Type="application/offset+octet-stream")
        about = {"upload": upload.rsplit("/", 1)[1], "title": title, "started_at": datetime.now(UTC).isoformat()}
        return json.loads(self.call("POST", "/api/meetings", about)[1])["id"]

    def wait(self, meeting: str) -> None:
        """Until its minutes can be read."""
        while True:
            work = json.loads(self.call("GET", f"/api/meetings/{meeting}/progress")[1])
            if work["state"] == "ready":
                return
            if work["state"] == "failed":
                raise SystemExit("The work on it has stopped. Look at it in the browser.")
            time.sleep(2)

    def minutes(self, meeting: str) -> str:
        """As Markdown."""
        return self.call("GET", f"/api/meetings/{meeting}/minutes.md")[1].decode()

    def actions(self) -> list[dict]:
        """What is still to be done, of all meetings that the token sees."""
        return json.loads(self.call("GET", "/api/ledger?view=open")[1])["matters"]


def is_signed(secret: str, headers: dict[str, str], body: bytes) -> bool:
    """Is a message that came to a program of yours from here? As Standard Webhooks 1.0.0 has it; see that `webhook-timestamp` is not old as well."""
    raw = base64.b64decode(secret.removeprefix("whsec_"))
    said = f"{headers['webhook-id']}.{headers['webhook-timestamp']}.".encode() + body
    expected = "v1," + base64.b64encode(hmac.new(raw, said, hashlib.sha256).digest()).decode()
    return any(hmac.compare_digest(one, expected) for one in headers["webhook-signature"].split())


def main() -> None:
    """Give a file, and print what came of it."""
    server = Aftershower(sys.argv[1], os.environ["AFTERSHOWER_TOKEN"])
    file = Path(sys.argv[2])
    meeting = server.give(file, file.stem)
    server.wait(meeting)
    print(server.minutes(meeting))
    for action in server.actions():
        print(f"- {action['text']} ({action['owner'] or 'nobody'}, {action['due'] or 'no day'})")


if __name__ == "__main__":
    main()
