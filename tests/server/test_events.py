"""What changes, told to whoever is looking."""

import asyncio
from concurrent.futures import ThreadPoolExecutor

from server import events


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
