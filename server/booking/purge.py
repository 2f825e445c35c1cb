"""What people wrote who booked, and who they are."""

from __future__ import annotations

from collections.abc import Iterable

from server.booking.models import Booking, BookingPage
from server.meetings.models import Meeting
from server.purging import Purger, Texts, Where, register


class _Bookings(Purger):
    def texts(self, meeting: Meeting) -> Iterable[Texts]:
        here = {"membership__workspace": meeting.workspace_id}
        for field in ("name", "email", "note"):
            yield Texts(Booking.objects.filter(**here), field, Where.ELSEWHERE)
        for field in ("title", "about"):
            yield Texts(BookingPage.objects.filter(**here), field, Where.ELSEWHERE)


register(_Bookings())
