"""An OpenID Connect provider for one machine: says who somebody is, rightly or as it is told to (OpenID Connect Core 1.0, code flow with PKCE)."""

from __future__ import annotations

import argparse
import base64
import hashlib
import html
import json
import secrets
import signal
import time
from http.server import ThreadingHTTPServer
from typing import Any
from urllib.parse import parse_qs, urlencode, urlsplit

import jwt
from cryptography.hazmat.primitives.asymmetric import rsa

from standins.local import Quiet, start

PEOPLE: dict[str, dict[str, Any]] = {
    "m-1": {"name": "Maren Tollefsen", "email": "maren@larkmoor.example", "email_verified": True},
    "i-2": {"name": "Idris Quaye", "email": "idris@larkmoor.example", "email_verified": True},
    "t-3": {"name": "Tove Brandal", "email": "tove@larkmoor.example", "email_verified": True},
}
"""Who is there, by the key that stays whatever else of them changes."""
_PAGE = """<!doctype html><html lang="en"><meta charset="utf-8"><title>Who are you?</title>
<body style="font-family: serif; max-width: 30rem; margin: 4rem auto"><h1>Who are you?</h1><p>A stand-in: it believes whoever you say you are.</p>
<form method="post">{people}</form></body></html>"""


class Provider:
    """What it knows, and how it is to behave. Each name in `told` changes one claim or one answer:

    down: nothing is answered; aud, iss, exp, email, email_verified: this value in place of the true one; key: signed with another key than
    the one that is published; other: the details are about somebody else than the token; late: seconds until an answer.
    """

    def __init__(self, client: str, secret: str, people: dict[str, dict[str, Any]] | None = None) -> None:
        self.client, self.secret = client, secret
        self.people = {key: dict(one) for key, one in (people or PEOPLE).items()}
        self.told: dict[str, Any] = {}
        self.codes: dict[str, dict[str, str]] = {}
        self.tokens: dict[str, str] = {}
        self._key, self._other = (rsa.generate_private_key(public_exponent=65537, key_size=2048) for _ in range(2))
        self.at = ""

    def discovery(self) -> dict[str, Any]:
        """The document of OpenID Connect Discovery 1.0."""
        return {
            "issuer": self.at,
            "authorization_endpoint": f"{self.at}/authorize",
            "token_endpoint": f"{self.at}/token",
            "userinfo_endpoint": f"{self.at}/userinfo",
            "jwks_uri": f"{self.at}/keys",
            "response_types_supported": ["code"],
            "subject_types_supported": ["public"],
            "id_token_signing_alg_values_supported": ["RS256"],
            "code_challenge_methods_supported": ["S256"],
            "token_endpoint_auth_methods_supported": ["client_secret_post"],
        }

    def keys(self) -> dict[str, Any]:
        """The key that tokens are signed with (RFC 7517)."""
        published = json.loads(jwt.algorithms.RSAAlgorithm.to_jwk(self._key.public_key()))
        return {"keys": [{**published, "kid": "one", "use": "sig", "alg": "RS256"}]}

    def code_for(self, asked: dict[str, str], person: str) -> str:
        """Where whoever asked is sent back to, with a code for somebody."""
        code = secrets.token_urlsafe(24)
        self.codes[code] = {**asked, "person": person}
        return f"{asked['redirect_uri']}?{urlencode({'code': code, 'state': asked.get('state', '')})}"

    def token(self, given: dict[str, str]) -> dict[str, Any] | None:
        """A code exchanged, once, by the one that it was for; None for anybody else."""
        asked = self.codes.pop(given.get("code", ""), None)
        if asked is None or (given.get("client_id"), given.get("client_secret")) != (self.client, self.secret):
            return None
        challenge = base64.urlsafe_b64encode(hashlib.sha256(given.get("code_verifier", "").encode()).digest()).rstrip(b"=").decode()
        if asked.get("redirect_uri") != given.get("redirect_uri") or asked.get("code_challenge") != challenge:
            return None
        access = secrets.token_urlsafe(24)
        self.tokens[access] = asked["person"]
        claims = {"iss": self.at, "aud": self.client, "sub": asked["person"], "iat": int(time.time()), "exp": int(time.time()) + 300}
        claims |= {name: value for name, value in self.told.items() if name in claims}
        signed = jwt.encode(claims, self._other if self.told.get("key") else self._key, algorithm="RS256", headers={"kid": "one"})
        return {"access_token": access, "token_type": "Bearer", "expires_in": 300, "id_token": signed}

    def userinfo(self, access: str) -> dict[str, Any] | None:
        """What is known of somebody; None without a token."""
        person = self.tokens.get(access)
        if person is None:
            return None
        known = {"sub": person, **self.people[person]} | {name: value for name, value in self.told.items() if name.startswith("email")}
        return {**known, "sub": "somebody else"} if self.told.get("other") else known


class Handler(Quiet):
    """The addresses of it, and `/behave`, to which what it is told is posted as JSON."""

    provider: Provider

    def do_GET(self) -> None:  # noqa: N802 (the library's name)
        """Discovery, keys, details, and the page on which somebody says who they are."""
        if self._away():
            return
        where = urlsplit(self.path)
        match where.path:
            case "/.well-known/openid-configuration":
                self._say(self.provider.discovery())
            case "/keys":
                self._say(self.provider.keys())
            case "/userinfo":
                known = self.provider.userinfo(self.headers.get("Authorization", "").removeprefix("Bearer "))
                self._say(known if known else {"error": "invalid_token"}, 200 if known else 401)
            case "/authorize" if "redirect_uri" in parse_qs(where.query):
                people = "".join(
                    f'<p><button name="person" value="{key}" style="font-size: 1.1rem">{html.escape(one["name"])}</button> {html.escape(one["email"])}</p>'
                    for key, one in self.provider.people.items()
                )
                self._answer(200, "text/html; charset=utf-8", _PAGE.format(people=people).encode())
            case _:
                self.send_error(404)

    def do_POST(self) -> None:  # noqa: N802 (the library's name)
        """Somebody said who they are; a code is exchanged; it is told how to behave."""
        body = self.rfile.read(int(self.headers.get("Content-Length", 0))).decode()
        where = urlsplit(self.path)
        if where.path == "/behave":
            self.provider.told = json.loads(body or "{}")
            return self._say({})
        if self._away():
            return None
        given = {name: values[0] for name, values in parse_qs(body).items()}
        if where.path == "/token":
            token = self.provider.token(given)
            return self._say(token or {"error": "invalid_grant"}, 200 if token else 400)
        asked = {name: values[0] for name, values in parse_qs(where.query).items()}
        if where.path != "/authorize" or given.get("person") not in self.provider.people or "redirect_uri" not in asked:
            return self.send_error(400)
        self.send_response(303)
        self.send_header("Location", self.provider.code_for(asked, given["person"]))
        return self.end_headers()

    def _away(self) -> bool:
        time.sleep(float(self.provider.told.get("late", 0)))
        if self.provider.told.get("down"):
            self.send_error(503)
        return bool(self.provider.told.get("down"))

    def _say(self, what: dict[str, Any], status: int = 200) -> None:
        self._answer(status, "application/json", json.dumps(what).encode())

    def _answer(self, status: int, kind: str, body: bytes) -> None:
        self.send_response(status)
        self.send_header("Content-Type", kind)
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)


def serve(client: str, secret: str, port: int = 0, people: dict[str, dict[str, Any]] | None = None) -> tuple[ThreadingHTTPServer, Provider]:
    """Start it on loopback, for one client."""
    provider = Provider(client, secret, people)
    server = start(Handler, port, provider=provider)
    provider.at = f"http://127.0.0.1:{server.server_port}"
    return server, provider


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--port", type=int, default=8630)
    parser.add_argument("--client", default="aftershower")
    parser.add_argument("--secret", required=True)
    given = parser.parse_args()
    serve(given.client, given.secret, given.port)
    signal.sigwait({signal.SIGTERM, signal.SIGINT})
