"""Every mail that the program writes, in plain words; as text and as HTML from the same paragraphs."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from django.conf import settings
from django.db.models import TextChoices
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString
from django.utils.translation import get_language

from core.text import one_line
from server.languages import said, translated


class Kind(TextChoices):
    """The occasions for a mail."""

    INVITATION = "invitation"
    READY = "ready"
    FAILED = "failed"
    MEMO = "memo"
    MENTION = "mention"
    EXCERPT = "excerpt"
    CLERK = "clerk"
    FOUND = "found"
    REMINDER = "reminder"
    DIGEST = "digest"
    FOLLOW_UP = "follow-up"
    MINUTES = "minutes"
    AGENDA = "agenda"
    GOES = "goes"
    ASIDE = "aside"
    BOOKING = "booking"
    ASKED = "asked"
    LET_IN = "let in"
    NEW_DEVICE = "new device"
    SIGN_IN_CHANGED = "sign-in changed"
    NEW_PASSWORD = "new password"
    NO_ACCOUNT = "no account"


@dataclass(frozen=True)
class Wording:
    """A mail's subject and paragraphs, with {facts} in braces, and what its one link says. A fact is never taken for a pattern."""

    subject: str
    paragraphs: tuple[str, ...]
    link: str = ""


WORDINGS: dict[Kind, Wording] = {
    Kind.INVITATION: Wording(
        "{by_name} invites you to {workspace_name}",
        ("{by_name} invites you to read and search the meetings of {workspace_name} in Aftershower.", "The way in is open until {until}."),
        "Take up the invitation",
    ),
    Kind.READY: Wording(
        "Ready to read: {title}", ("The record and the minutes of “{title}” ({when}) are ready.",), "Read them, and hear what was said"
    ),
    Kind.FAILED: Wording(
        "Not finished: {title}",
        ("The work on “{title}” ({when}) has stopped.", "{why}", "Nothing that was captured or given is lost."),
        "Look at it, and try again",
    ),
    Kind.MEMO: Wording(
        "{by_name} has spoken a memo to you: {title}", ("{by_name} has spoken a memo to you ({when}).",), "Read it, hear it, and answer it"
    ),
    Kind.MENTION: Wording("{by_name} mentions you: {title}", ("{by_name} mentions you in a comment.",), "Read it, and hear the passage"),
    Kind.EXCERPT: Wording(
        "{by_name} shares an excerpt with you: {title}", ("{by_name} shares {seconds} seconds of a meeting with you.",), "Hear and read them"
    ),
    Kind.AGENDA: Wording(
        "Agenda: {title}, {when}",
        ("{by_name} sends the agenda of “{title}” ({when}).", "{points}", "{place}"),
    ),
    Kind.CLERK: Wording(
        "The clerk: {title}",
        ("{words}", "You sent the clerk a mail about “{title}”. If that was not you, say no to it on your sheet of the day: that counts."),
        "Look at it",
    ),
    Kind.FOUND: Wording("New for “{name}”", ("New in the library, of what you look for as “{name}”:\n{titles}", "{stop}"), "Look at them"),
    Kind.REMINDER: Wording("{subject}", ("{titles}", "{stop}"), "To the ledger"),
    Kind.DIGEST: Wording("{subject}", ("{news}", "{stop}"), "To your day"),
    Kind.FOLLOW_UP: Wording("{subject}", ("{body}",)),
    Kind.MINUTES: Wording(
        "Minutes: {title}",
        ("The minutes of “{title}” ({when}), from {by_name}.", "They are attached as a document, as they stood when this mail went out."),
        "Read them as they stand now",
    ),
    Kind.GOES: Wording(
        "{subject}",
        (
            "By the rules of {workspace_name} this goes, and cannot be had back then:\n{meetings}",
            "Take away what you want to keep, or hold a meeting on its page under People and sharing: then nothing of it goes.",
        ),
        "To your library",
    ),
    Kind.ASIDE: Wording(
        "Not delivered: {name}",
        ("Something that was to go to “{name}” was put aside after the last try.", "{words}", "It is kept, and goes when you press that it is sent again. Of what else is put aside there, no mail comes today."),
        "Look at it",
    ),
    Kind.BOOKING: Wording(
        "{title}: {what}, {when}",
        ("“{title}” with {who} is {what}: {when}.", "{place}", "{note}", "The appointment is attached, for your calendar."),
        "Look at it, move it, or call it off",
    ),
    Kind.ASKED: Wording(
        "{by_name} asks to see: {title}",
        ("{by_name} was given the address of “{title}” and asks to see it.", "{words}", "Nothing is shown to them unless you let them in."),
        "Let them in, or not",
    ),
    Kind.LET_IN: Wording("You may see: {title}", ("{by_name} has let you in: you may read “{title}” from now on.",), "Read it"),
    Kind.NEW_DEVICE: Wording(
        "Signed in on another device",
        (
            "Somebody, most likely you, has signed in to Aftershower with your account on a device that it did not know: {when}, from {address}.",
            "The device says of itself: {agent}",
            "If it was not you, change your password and end its session under Account, How I sign in.",
        ),
    ),
    Kind.SIGN_IN_CHANGED: Wording(
        "How you sign in has changed",
        ("Of the account of {email}: {what}", "If it was not you, set a new password at once, and tell whoever runs this server."),
    ),
    Kind.NEW_PASSWORD: Wording(
        "A new password for Aftershower",
        (
            "Somebody, most likely you, has asked for a new password for the account of {email}.",
            "If it was not you, leave this mail alone: nothing has changed.",
        ),
        "Set a new password",
    ),
    Kind.NO_ACCOUNT: Wording(
        "There is no account of this address",
        (
            "Somebody, most likely you, has asked for a new password for {email}, but Aftershower has no account of that address.",
            "You may have signed up with another one. If it was not you, leave this mail alone.",
        ),
    ),
}


_POINT = "– "
"""Begins a line of a list."""
_LED = re.compile(r"^(?P<words>.*) <(?P<link>https?://[^\s<>]+)>$")


def _as_html(block: str) -> SafeString:
    """Lines; those of a list as one, under what they are of. A line that ends with an address of this server's leads there."""
    lines = block.split("\n")
    points = [line.removeprefix(_POINT) for line in lines if line.startswith(_POINT)]
    head = [line for line in lines if not line.startswith(_POINT)]
    if not points:
        return format_html('<p style="white-space:pre-line">{}</p>', _lined(head))
    items = format_html_join("", '<li style="margin:0 0 4px">{}</li>', ((_led(point),) for point in points))
    title = format_html('<p style="margin:18px 0 4px;font-weight:bold">{}</p>', _lined(head)) if head else ""
    return format_html('{}<ul style="margin:0;padding-left:20px">{}</ul>', title, items)


def _lined(lines: Sequence[str]) -> SafeString:
    return format_html_join("\n", "{}", ((_led(line),) for line in lines))


def _led(line: str) -> SafeString:
    if line.startswith(f"{settings.BASE_URL}/") and " " not in line:
        return format_html('<a href="{}">{}</a>', line, line)
    found = _LED.match(line)
    if found is None or not found["link"].startswith(f"{settings.BASE_URL}/"):
        return format_html("{}", line)  # an address elsewhere, in somebody's words, stays words
    return format_html('<a href="{}">{}</a>', found["link"], found["words"])


@dataclass(frozen=True)
class Worded:
    """A mail ready to send."""

    subject: str
    text: str
    html: str


def worded(kind: Kind, link: str = "", **facts: object) -> Worded:
    """A mail's words, in the language that is spoken. link: the address that it leads to. A fact that is a function is what it gives in that
    language. Raises KeyError where one is missing."""
    wording = WORDINGS[kind]
    facts = {name: fact() if callable(fact) else fact for name, fact in facts.items()}
    if stop := facts.get("stop"):
        facts = facts | {"stop": said("You get this mail because you asked for it. To stop it:\n{0}", stop)}
    paragraphs = [translated(paragraph).format_map(facts) for paragraph in wording.paragraphs]
    way_in = translated(wording.link)
    text = "\n\n".join([*paragraphs, *([f"{way_in}:\n{link}"] if wording.link and link else [])]) + "\n"
    body = format_html_join("", "{}", ((_as_html(block),) for paragraph in paragraphs for block in paragraph.split("\n\n")))
    way = format_html('<p><a href="{}">{}</a></p>', link, way_in) if wording.link and link else ""
    html = format_html(
        '<!doctype html><html lang="{}"><body style="font-family:Georgia,serif;font-size:16px;line-height:1.5;color:#1d2a2f">'
        '{}{}<p style="color:#5a6468;font-size:13px">Aftershower</p></body></html>',
        get_language(),
        body,
        way,
    )
    return Worded(one_line(translated(wording.subject).format_map(facts))[:300], text, str(html))
