"""What of words lies before the record: titles, series, the word list, words put right, how the record was changed, letters on their way."""

from __future__ import annotations

from collections.abc import Iterable

from server.copies import drop
from server.mail.models import Letter
from server.meetings.models import Meeting, Series
from server.purging import Purger, Struck, Texts, Where, register
from server.words.models import DeclinedOffer, ListedTerm, WordFix


class _Meetings(Purger):
    def texts(self, meeting: Meeting) -> Iterable[Texts]:
        inside = Meeting.objects.filter(workspace=meeting.workspace_id)
        yield Texts(inside.filter(pk=meeting.pk), "title")
        yield Texts(inside.filter(pk=meeting.pk), "terms", Where.NAME)
        yield Texts(inside.exclude(pk=meeting.pk), "title", Where.ELSEWHERE)
        yield Texts(Series.objects.filter(workspace=meeting.workspace_id), "name", Where.ELSEWHERE, unique=True)


class _Words(Purger):
    def texts(self, meeting: Meeting) -> Iterable[Texts]:
        for field in ("heard", "meant"):
            for model in (WordFix, DeclinedOffer):
                yield Texts(model.objects.filter(workspace=meeting.workspace_id), field, Where.NAME, whole=True)
        listed = ListedTerm.objects.filter(workspace=meeting.workspace_id)
        yield Texts(listed, "text", Where.NAME, whole=True)
        for field in ("sounds", "mistaken"):
            yield Texts(listed, field, Where.NAME)

    def purge(self, struck: Struck) -> None:
        struck.meeting.word_fixes.filter(line__in=struck.numbers).delete()

    def let_go(self, meeting: Meeting) -> None:
        meeting.word_fixes.all().delete()


class _Edits(Purger):
    """Steps hold the words before and after; without them an edit cannot be taken back any more."""

    def counts(self, struck: Struck) -> dict[str, int]:
        return {"edits": struck.meeting.edits.count()}

    def purge(self, struck: Struck) -> None:
        self.let_go(struck.meeting)

    def let_go(self, meeting: Meeting) -> None:
        meeting.edits.all().delete()


class _Copies(Purger):
    def purge(self, struck: Struck) -> None:
        self.let_go(struck.meeting)

    def let_go(self, meeting: Meeting) -> None:
        drop(meeting.record_copies.all())


class _Letters(Purger):
    """A letter that is still here holds words of the minutes; what was sent is out of reach."""

    def texts(self, meeting: Meeting) -> Iterable[Texts]:
        for field in ("subject", "text", "html"):
            yield Texts(Letter.objects.filter(meeting=meeting), field)
        # Those that are of many meetings hold words that were drawn from this one. Sent, they have nothing but the subject.
        of_many = Letter.objects.filter(workspace=meeting.workspace_id, meeting=None)
        yield Texts(of_many, "subject")
        for field in ("text", "html"):
            yield Texts(of_many.exclude(**{field: ""}), field)


for purger in (_Meetings(), _Words(), _Edits(), _Copies(), _Letters()):
    register(purger)
