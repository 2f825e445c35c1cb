"""Mail goes out by way of rows: queued in the transaction of what caused it, sent by a job, tried again with growing pauses."""

from __future__ import annotations

import logging
import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import timedelta
from email.mime.text import MIMEText
from email.utils import parseaddr
from functools import partial
from smtplib import SMTPException

from django.conf import settings
from django.core.mail import EmailMultiAlternatives
from django.utils import timezone
from django.utils.crypto import constant_time_compare, salted_hmac
from django.utils.translation import get_language, override
from procrastinate import JobContext, RetryStrategy
from procrastinate.contrib.django import app

from server.accounts.models import User, Workspace
from server.languages import HOUR, at
from server.mail.models import Letter, LetterState
from server.mail.stopping import by_hand, one_click
from server.mail.wording import Kind, worded
from server.meetings.models import Meeting
from server.pipeline.work import Queue
from server.problems import Refused

logger = logging.getLogger("server.mail")

TRIES = 9
"""Tries before a letter is given up; the pauses between them grow threefold from three seconds on: nearly three hours in all."""
MOST_A_DAY = 300
"""Letters that one person may cause in a day."""
MOST_INVITATIONS_A_DAY = 60
REPLY = "reply-"
"""Begins addresses at which minutes are answered."""
NOBODY = ".invalid"
"""Ends addresses that are nobody's (RFC 2606)."""
_FAILURES = (OSError, SMTPException)


@dataclass(frozen=True)
class Attached:
    """A file that goes with a letter."""

    name: str
    data: bytes
    media_type: str


ATTACHED: dict[str, Callable[[Letter, str], Attached]] = {}
"""What can be attached → how it is made for a letter, in a form. Apps behind this one register theirs."""


def post(
    kind: Kind,
    to: str,
    *,
    link: str = "",
    workspace: Workspace | None = None,
    meeting: Meeting | None = None,
    by: User | None = None,
    reply_to: str = "",
    stop: str = "",
    attached: str = "",
    **facts: object,
) -> Letter:
    """Queue a letter, in the transaction that is open. by: whoever causes it, whose letters a day are bounded. stop: a token
    by which mail of the kind ends (`server.mail.stopping`). attached: what of the meeting goes with it, as "what form".
    What a meeting is called, and when it was, is known by itself. Raises Refused."""
    _check_allowance(kind, by)
    if to.endswith(NOBODY):  # a program that came in by a token
        return Letter(to=to, kind=kind)
    if meeting:
        facts = {"title": meeting.title, "when": partial(at, meeting.started_at, HOUR, meeting.time_zone)} | facts
    known = User.objects.filter(email=to).values_list("language", flat=True).first()
    with override(known or get_language()):  # who is nobody here is written to as whoever causes it speaks
        words = worded(kind, link, **(facts | {"stop": by_hand(stop)} if stop else facts))
    letter = Letter.objects.create(
        workspace=workspace or (meeting.workspace if meeting else None),
        meeting=meeting,
        by=by,
        kind=kind,
        to=to,
        reply_to=reply_to,
        stop=stop,
        attached=attached,
        subject=words.subject,
        text=words.text,
        html=words.html,
    )
    send_letter.defer(letter_id=letter.pk)
    return letter


def _attach(message: EmailMultiAlternatives, file: Attached) -> None:
    """A file; where its kind has parameters, such as the method of an appointment (RFC 6047), with these."""
    kind, *parameters = file.media_type.split("; ")
    if not parameters:
        message.attach(file.name, file.data, kind)
        return
    part = MIMEText(file.data.decode(), kind.partition("/")[2], "utf-8")
    for one in parameters:
        name, _, value = one.partition("=")
        part.set_param(name, value)
    part.add_header("Content-Disposition", "attachment", filename=file.name)
    message.attach(part)


def reply_address(letter: Letter) -> str:
    """Where an answer becomes a comment on the meeting whose minutes the letter brings; "" where nothing can come in. Nobody guesses it, and who
    answers is looked at all the same."""
    if letter.kind != Kind.MINUTES or not settings.MAIL_DOMAIN or letter.meeting_id is None:
        return ""
    return f"{REPLY}{letter.pk}-{_proof(letter.pk)}@{settings.MAIL_DOMAIN}"


def replied_to(address: str) -> Letter | None:
    """The letter that is answered at an address; None where it is none of ours."""
    name, _, domain = address.lower().partition("@")
    key, _, proof = name.removeprefix(REPLY).partition("-")
    if domain != settings.MAIL_DOMAIN or not name.startswith(REPLY) or not re.fullmatch(r"\d{1,18}", key) or not constant_time_compare(proof, _proof(int(key))):
        return None
    return Letter.objects.select_related("meeting", "workspace").filter(pk=int(key)).first()


def _proof(key: int) -> str:
    return salted_hmac("reply", str(key)).hexdigest()[:24]


def _check_allowance(kind: Kind, by: User | None) -> None:
    if by is None:
        return
    today = Letter.objects.filter(by=by, queued_at__gt=timezone.now() - timedelta(days=1))
    most, letters = (MOST_INVITATIONS_A_DAY, today.filter(kind=kind)) if kind == Kind.INVITATION else (MOST_A_DAY, today)
    if letters.count() >= most:
        raise Refused(429, f"You have sent {most} of these in a day, which is the most there is. Try again tomorrow.")


@app.task(
    name="letter",
    queue=Queue.MAIL,
    pass_context=True,
    retry=RetryStrategy(max_attempts=TRIES - 1, exponential_wait=3, retry_exceptions=set(_FAILURES)),
)
def send_letter(context: JobContext, letter_id: int) -> None:
    """Hand a letter to the mail server. One that was sent already is not sent again."""
    letter = Letter.objects.filter(pk=letter_id, state=LetterState.WAITING).first()
    if letter is None:
        return
    # RFC 2369 and 8058: mail programs show a way to stop it, and go it by one click.
    way_out = {"List-Unsubscribe": f"<{one_click(letter.stop)}>", "List-Unsubscribe-Post": "List-Unsubscribe=One-Click"} if letter.stop else {}
    # The same at every try: where a worker died between sending and noting it, mail programs show one letter and not two (RFC 5322, 3.6.4).
    named = {"Message-ID": f"<{salted_hmac('letter', str(letter.pk)).hexdigest()[:24]}@{parseaddr(settings.DEFAULT_FROM_EMAIL)[1].partition('@')[2]}>"}
    answers_to = [one for one in (letter.reply_to, reply_address(letter)) if one] or None
    message = EmailMultiAlternatives(letter.subject, letter.text, None, [letter.to], reply_to=answers_to, headers=named | way_out)
    message.attach_alternative(letter.html, "text/html")
    if letter.attached:
        if letter.meeting_id and (letter.meeting is None or letter.meeting.removed_at or letter.meeting.going_at):
            Letter.objects.filter(pk=letter.pk).update(said="The meeting was taken out meanwhile.", state=LetterState.FAILED, text="", html="")
            return
        what, form = letter.attached.split()
        _attach(message, ATTACHED[what](letter, form))
    try:
        message.send()
    except _FAILURES as error:
        last = context.job.attempts >= TRIES - 1
        logger.warning("letter %s was not taken (%s)%s", letter.pk, error, "; given up" if last else "")
        Letter.objects.filter(pk=letter.pk).update(said=str(error)[:500], state=LetterState.FAILED if last else LetterState.WAITING)
        if last:
            return
        raise
    # What it said is in the mailbox of whoever got it; here it would only have to be struck.
    Letter.objects.filter(pk=letter.pk).update(state=LetterState.SENT, sent_at=timezone.now(), text="", html="", said="")
