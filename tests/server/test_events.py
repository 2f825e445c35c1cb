"""What changes, told to whoever is looking."""

import asyncio
from concurrent.futures import ThreadPoolExecutor

from django.contrib.sessions.models import Session
from django.test import Client
from django.utils import timezone

from server import events
from server.accounts.models import Workspace
from server.meetings.models import Meeting, Reader
from tests.server.conftest import let_in


def test_a_stream_that_opens_is_told_of_the_last_moments_of_its_meeting_only(monkeypatch):
    async def listens() -> None:
        await asyncio.sleep(60)

    async def look() -> list[list[str]]:
        hub = events._Hub()
        monkeypatch.setattr(hub, "_listen", listens)
        hub._hand_out("meeting", ["minutes"])
        hub._hand_out("another", ["record"])
        monkeypatch.setattr(events, "_LATELY", 0.2)
        first = hub.join("meeting", "session")
        hub._hand_out("meeting", ["notes"])
        told = [first.get_nowait(), first.get_nowait()]
        assert first.empty()
        hub.leave("meeting", "session", first)
        await asyncio.sleep(0.3)
        assert hub.join("meeting", "session").empty()
        return told

    # In a thread of its own: where browser tests ran before, this one's event loop is still theirs.
    with ThreadPoolExecutor(1) as thread:
        assert thread.submit(asyncio.run, look()).result() == [["minutes"], ["notes"]]


def test_what_a_session_listens_to_ends_with_it(maren, caller, monkeypatch):
    told = []
    monkeypatch.setattr(events, "notify_left", told.append)
    call = caller(maren)
    call("get", "/api/me")
    assert call("delete", "/_allauth/browser/v1/auth/session").status_code == 401
    [session] = told

    async def look() -> tuple[list, bool]:
        hub = events._Hub()
        monkeypatch.setattr(hub, "_listen", lambda: asyncio.sleep(60))
        own, other = hub.join("meeting", session), hub.join("meeting", "another")
        hub._heard({"left": session})
        return own.get_nowait(), other.empty()

    with ThreadPoolExecutor(1) as thread:
        assert thread.submit(asyncio.run, look()).result() == (["left"], True)


def test_whoever_does_not_see_it_any_more_listens_no_longer_and_all_are_asked_for_at_once(maren, member, make_meeting, caller, django_assert_max_num_queries):
    idris, yuki, gwen = member("Idris Quaye"), member("Yuki Hanamori"), member("Gwen Castellow", "guest")
    meeting = make_meeting(maren, visibility="named", work=False)
    listeners = {}
    for one in (maren, idris, yuki, gwen):
        let_in(meeting, one)
        client = Client()
        client.force_login(one.user, backend="allauth.account.auth_backends.AuthenticationBackend")
        listeners[one.pk] = events.Listener(client.session.session_key, one.pk, (False, ""))
    everybody = list(listeners.values())
    with django_assert_max_num_queries(6):
        assert events.still_let_in(meeting.pk, everybody) == set(everybody)
    Reader.objects.filter(user=idris.user).delete()
    Session.objects.filter(session_key=listeners[yuki.pk].session).delete()
    gwen.delete()
    assert events.still_let_in(meeting.pk, everybody) == {listeners[maren.pk]}
    Workspace.objects.update(second_factor=True)
    assert events.still_let_in(meeting.pk, everybody) == set(), "what is asked anew of how one signs in is asked of whoever comes again"
    Workspace.objects.update(second_factor=False)
    Meeting.objects.update(removed_at=timezone.now())
    assert events.still_let_in(meeting.pk, everybody) == set()
