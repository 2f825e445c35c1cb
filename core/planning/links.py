"""The link of a call, in an invitation: where it stands, what it is wrapped in, which of several it is, and its passcode.

A link is a way into a call where the property that it stands in says so, where it lies under the address of a conference that we know, where its
address has the form of a room, or where the words before it ask one to join. Of several the one is taken that lies in a conference we know, then
the one that stands where links of calls are meant to stand, then the first.
"""

from __future__ import annotations

import hashlib
import re
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from html import unescape
from typing import Literal
from urllib.parse import parse_qsl, quote, unquote, urlencode, urlsplit, urlunsplit

Where = Literal["conference", "property", "address", "place", "html", "text"]
_WORDS: Mapping[Where, str] = {
    "conference": "it is given as the event's conference",
    "property": "it stands in a property of the event",
    "address": "it is the event's address",
    "place": "it is given as the place",
    "html": "it stands in the description",
    "text": "it stands in the description",
}
_ORDER: tuple[Where, ...] = ("conference", "property", "address", "place", "html", "text")

_ADDRESS = re.compile(r"https?://[^\s<>\"'“”„‚‘’«»{}|\\^`\[\]]+", re.IGNORECASE)
_TRAILING = ".,;:!?)>*_"
_WRAPPED_IN = ("url", "u", "q", "target", "to", "dest", "destination", "redirect", "redirect_url", "link", "a", "goto")
"""Parameters by which link protectors and mail programs hand on the address that they wrap."""
_PROTECTED = re.compile(r"/v3/__(?P<whole>https?:/{1,2}.+?)__;", re.IGNORECASE)
_PROTECTED_OLD = re.compile(r"/v2/url$")
_DEEPEST = 4

_SECRETS = ("pwd", "passcode", "password", "pass", "pin")
_TRACKS = re.compile(r"^(utm_\w+|usp|authuser|hs|omn|sa|ust|usg|data|sdata|reserved)$", re.IGNORECASE)

_ROOM = re.compile(
    r"/(j|join|w|s|my|meet|meeting|meetings|room|rooms|r|call|calls|conf|conference|l/meetup-join|wbxmjs/joinservice|c|webinar|talk|v)/[^/]+"
    r"|^/[a-z]{3}-[a-z]{3,4}-[a-z]{3}$|^/\d{9,11}$",
    re.IGNORECASE,
)
"""Paths of rooms, in the forms that are in common use (common practice)."""
_ROOM_HOST = re.compile(r"^(?:[\w-]+\.)*(?:meet|call|calls|conf|conference|video|talk|rooms?)\.", re.IGNORECASE)
_JOINING = re.compile(
    r"\b(join|joining|dial|enter|click|call link|meeting link|video ?call|web ?call|video(konferenz)?|teilnehmen|beitreten|besprechung|"
    r"unirse|únete|acceder|enlace|rejoindre|participer|lien|partecipa|deelnemen|entrar|ingressar)\b",
    re.IGNORECASE,
)
_ELSEWHERE = re.compile(
    r"\b(unsubscribe|options|settings|help|learn more|support|agenda|minutes|document|docs?|slides|recording|test (call|sound)|privacy|legal|map|"
    r"find (a|your) local number|local numbers?|reset|phone|dial-?in|add to (my )?calendar|abmelden|ayuda|aide|hilfe)\b",
    re.IGNORECASE,
)
_NO_ROOM = re.compile(r"\.(ics|pdf|docx?|pptx?|xlsx?|png|jpe?g|html?)$|/(document|presentation|spreadsheets|d|help|support|legal|privacy|map|maps)/", re.IGNORECASE)

_PASSCODE = re.compile(
    r"(?:\b(?:(?:meeting|webinar|room|call|conference|access|numeric(?:al)?|entry|guest)[ -]?)?"
    r"(?:pass ?code|password|pass ?word|pin(?:[ -]code)?|access ?code|entry ?code|kennwort|kenncode|passwort|zugangscode|contraseña|clave|"
    r"código(?: de (?:acceso|entrada))?|mot de passe|code d['’]accès|code secret|senha|wachtwoord|toegangscode|codice(?: di accesso)?)\b)"
    r"\s*(?:\([^)]{0,30}\)\s*)?(?:is|est|es|lautet|:|=|–|-|：)?\s*[:：]?\s*(?P<code>[^\s,;:()\[\]<>“”\"]{3,40})",
    re.IGNORECASE,
)
_BUT_WORDS = re.compile(r"^(?:is|for|to|the|and|or|will|required|needed|not|no|none|here|below|above|when|if|from|in|sent|by|de|für|por|on)$", re.IGNORECASE)
_BY_PHONE = re.compile(r"\b(phone|telephone|dial|teléfono|telefon|téléphone|host|moderator)\b", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Source:
    """A part of an event in which a link may stand."""

    where: Where
    text: str


@dataclass(frozen=True, slots=True)
class Link:
    """A way into a call. adapter: by which we can go, "" where we know none. why: why it is this one, in words."""

    address: str
    passcode: str
    adapter: str
    why: str

    @property
    def call(self) -> str:
        """The identity of the call: the same for all who have a link to it, whatever their links carry besides."""
        return hashlib.sha256(_bare(self.address).encode()).hexdigest()


@dataclass(frozen=True, slots=True)
class _Found:
    """before: the words before it, on its line or on the one above. at: its place in the text."""

    address: str
    where: Where
    before: str
    at: int


def link_in(sources: Sequence[Source], known: Mapping[str, str] | None = None) -> Link | None:
    """The link of an event's call, None where there is none. known: start of an address → the adapter that goes there.

    A passcode is taken from the link, else from the words that are nearest after it.
    """
    known = known or {}
    found = [one for source in sources for one in _links(source)]
    calls = [one for one in found if adapter_of(one.address, known) or _is_call(one)]
    if not calls:
        return None
    best = min(enumerate(calls), key=lambda pair: (not adapter_of(pair[1].address, known), _ORDER.index(pair[1].where), pair[0]))[1]
    adapter = adapter_of(best.address, known)
    several = len({_bare(one.address) for one in calls}) > 1
    why = _WORDS[best.where]
    if several:
        why += ", and of several links it is the one to a conference we know" if adapter and any(not adapter_of(one.address, known) for one in calls) else ", and of several links it comes first"
    return Link(best.address, _secret(best.address) or _beside(sources, best), adapter, why)


def _links(source: Source) -> Iterator[_Found]:
    text = source.text
    if source.where == "html" or re.search(r"<(a|br|p|div|html)\b", text, re.IGNORECASE):
        text = _plain(text)
    for match in _ADDRESS.finditer(text):
        address = unwrapped(_trimmed(unescape(match[0])))
        if not urlsplit(address).hostname:
            continue
        lines = text[: match.start()].splitlines()
        before = lines[-1].strip() if lines and not text[: match.start()].endswith("\n") else ""
        if not before.strip("<(:*- "):
            before = next((line for line in reversed(lines) if line.strip("<(:*-_ ")), "")
        yield _Found(address, source.where, before[-120:], match.start())


def _plain(html: str) -> str:
    """The text of a description in HTML, with the address of each link after its words."""
    from bs4 import BeautifulSoup  # a quarter of a second to load, which every process would wait for

    soup = BeautifulSoup(html, "html.parser")
    for gone in soup(["script", "style"]):
        gone.decompose()
    for anchor in soup.find_all("a"):
        address = str(anchor.get("href") or "")
        shown = anchor.get_text(" ", strip=True)
        anchor.replace_with(f"{'' if shown.startswith('http') else shown} {address} " if address.startswith("http") else f"{shown} ")
    for end in soup.find_all(["br", "p", "div", "tr", "li", "h1", "h2", "h3"]):
        end.append("\n") if end.name != "br" else end.replace_with("\n")
    return soup.get_text()


def _trimmed(address: str) -> str:
    while address and address[-1] in _TRAILING and not (address[-1] == ")" and "(" in address):
        address = address[:-1]
    return address


def unwrapped(address: str) -> str:
    """The address that a link protector or a mail program has wrapped; the address itself where nothing is wrapped."""
    for _ in range(_DEEPEST):
        parts = urlsplit(address)
        if guarded := _PROTECTED.search(address):
            inner = re.sub(r"^(https?):/{1,2}", r"\1://", guarded["whole"])
        elif _PROTECTED_OLD.search(parts.path) and (coded := dict(parse_qsl(parts.query)).get("u", "")).startswith("http"):
            inner = unquote(re.sub(r"-([0-9A-F]{2})", r"%\1", coded.replace("_", "/")))
        else:
            values = {name.lower(): value for name, value in parse_qsl(parts.query)}
            inner = next((values[name] for name in _WRAPPED_IN if re.match(r"https?://", values.get(name, ""), re.IGNORECASE)), "")
        if not inner:
            return address
        address = inner
    return address


def adapter_of(address: str, known: Mapping[str, str]) -> str:
    """By which adapter the clerk can go there, "" where we know none. known: as `link_in` takes it."""
    asked = urlsplit(address)
    for start, adapter in known.items():
        one = urlsplit(start)
        under = one.path.rstrip("/")
        if (asked.scheme.lower(), asked.netloc.lower()) == (one.scheme.lower(), one.netloc.lower()) and asked.path.startswith(f"{under}/"):
            return adapter
    return ""


def _is_call(found: _Found) -> bool:
    if found.where == "conference":
        return True
    parts = urlsplit(found.address)
    if _NO_ROOM.search(parts.path) or _ELSEWHERE.search(found.before) and not _JOINING.search(found.before):
        return False
    has_form = bool(_ROOM.search(parts.path) or _ROOM_HOST.match(parts.hostname or "") and parts.path.strip("/"))
    return has_form or found.where in ("html", "text") and bool(_JOINING.search(found.before)) and bool(parts.path.strip("/"))


def _secret(address: str) -> str:
    parts = urlsplit(address)
    values = {name.lower(): value for name, value in [*parse_qsl(parts.query), *parse_qsl(parts.fragment)]}
    return next((values[name] for name in _SECRETS if values.get(name)), "")


def _beside(sources: Sequence[Source], link: _Found) -> str:
    """A passcode in words: the nearest after the link where it stands, else the first anywhere. One for the telephone is none for the call."""
    ordered = sorted(sources, key=lambda source: source.where != link.where)
    for source in ordered:
        text = _plain(source.text) if source.where == "html" or "<br" in source.text.lower() else source.text
        codes = [(match.start(), code) for match in _PASSCODE.finditer(_ADDRESS.sub(lambda m: " " * len(m[0]), text)) if (code := _code(match, text))]
        start = link.at if source.where == link.where else 0
        if codes:
            return min(codes, key=lambda pair: (pair[0] < start, abs(pair[0] - start)))[1]
    return ""


def _code(match: re.Match[str], text: str) -> str:
    code = match["code"].rstrip(".,!?*_").lstrip("*_")
    line = text[text.rfind("\n", 0, match.start()) + 1 : match.start()]
    if len(code) < 3 or _BUT_WORDS.match(code) or _BY_PHONE.search(line):
        return ""
    return code


def _bare(address: str) -> str:
    """Scheme, host, path and what of the query names the room: no passcode, no tracks."""
    parts = urlsplit(address)
    kept = [(name, value) for name, value in parse_qsl(parts.query) if name.lower() not in _SECRETS and not _TRACKS.match(name)]
    host = (parts.hostname or "").lower() + (f":{parts.port}" if parts.port and parts.port not in (80, 443) else "")
    return urlunsplit(("https", host, quote(unquote(parts.path.rstrip("/"))), urlencode(sorted(kept)), ""))


def conferences(known: Collection[str]) -> dict[str, str]:
    """Addresses of conferences, as an operator names them ("rooms=https://calls.example"), as `link_in` takes them. Raises ValueError."""
    found = {}
    for one in known:
        adapter, _, address = one.partition("=")
        if not adapter or urlsplit(address).scheme not in ("http", "https") or not urlsplit(address).hostname:
            raise ValueError(f"{one!r}: a conference is named as ADAPTER=ADDRESS")
        found[address] = adapter
    return found
