"""Every mail that the program writes, in plain words; as text and as HTML from the same paragraphs."""

from __future__ import annotations

from dataclasses import dataclass

from django.db.models import TextChoices
from django.utils.html import format_html, format_html_join

from core.text import one_line


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
    FOLLOW_UP = "follow-up"
    AGENDA = "agenda"
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
    Kind.FOUND: Wording("New for “{name}”", ("New in the library, of what you look for as “{name}”:", "{titles}"), "Look at them"),
    Kind.REMINDER: Wording(
        "{subject}", ("{titles}", "Such reminders can be switched off in the ledger, under “Reminders”."), "To the ledger"
    ),
    Kind.FOLLOW_UP: Wording("{subject}", ("{body}",)),
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


@dataclass(frozen=True)
class Worded:
    """A mail ready to send."""

    subject: str
    text: str
    html: str


def worded(kind: Kind, link: str = "", **facts: object) -> Worded:
    """A mail's words. link: the address that it leads to. Raises KeyError where a fact is missing."""
    wording = WORDINGS[kind]
    paragraphs = [paragraph.format_map(facts) for paragraph in wording.paragraphs]
    text = "\n\n".join([*paragraphs, *([f"{wording.link}:\n{link}"] if wording.link else [])]) + "\n"
    body = format_html_join("", '<p style="white-space:pre-line">{}</p>', ((paragraph,) for paragraph in paragraphs))
    way = format_html('<p><a href="{}">{}</a></p>', link, wording.link) if wording.link else ""
    html = format_html(
        '<!doctype html><html lang="en"><body style="font-family:Georgia,serif;font-size:16px;line-height:1.5;color:#1d2a2f">'
        '{}{}<p style="color:#5a6468;font-size:13px">Aftershower</p></body></html>',
        body,
        way,
    )
    return Worded(one_line(wording.subject.format_map(facts))[:300], text, str(html))
