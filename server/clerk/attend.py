"""The clerk at one call, from the knock to the end.

What happens in the call comes as events and is never kept waiting: sound is laid onto seconds at once, and whatever has to be written down goes
through a line of its own, in order, which holds on to it while the database cannot be reached.
"""

from __future__ import annotations

import asyncio
import logging
import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from math import inf
from typing import Any, TypeVar
from uuid import UUID

from django.conf import settings

from core.media.call import Clock, Seconds
from core.media.chunks import CAPTURE_RATE, CHUNK
from core.media.tracks import MOST
from core.planning.attending import ENDS, Cause, Standing, answer_in
from core.problems import InputProblem
from core.text import one_line
from server.capture.models import Capture, Stretch
from server.capture.notices import texts_of
from server.clerk import keep
from server.clerk.conferences import ADAPTERS
from server.clerk.conferences.base import EVERYBODY, Call, Conference, Event, Gone, Heard, Here, Knocking, Laid, LetIn, Out, Shown, Written
from server.clerk.keep import Orders, Superseded
from server.clerk.models import Visit
from server.pipeline.work import kept
from server.problems import AWAY, Refused

logger = logging.getLogger("server.clerk")
Answered = TypeVar("Answered")

LATE = 1.0
"""Seconds that a second is waited for after its end: longer than networks delay sound (common practice: under 0.2 s) and a busy machine holds it up."""
_LOOK = 0.5  # seconds between two looks at what is asked of it
_TICK = 0.05
_FIRST_SLOTS = 4
_OPENS_WITHIN = 600.0  # seconds that it stays before a door that nobody opens, or tries one that does not answer
_AGAIN = (1.0, 2.0, 5.0, 10.0)  # seconds between two tries
_MOST_FILES = 100  # of a call's chat
_TELL_EVERY = 20.0  # seconds between two notices in the chat, however many come

async def surely(do: Callable[..., Answered], *given: Any) -> Answered:
    """The same, again and again while the database cannot be reached."""
    while True:
        try:
            return await kept(do, *given)
        except AWAY:
            await asyncio.sleep(1.0)


@dataclass
class _Stretch:
    """One that is going on. begun: by time.monotonic(); begun_at: by the calendar."""

    number: int
    seconds: Seconds
    begun: float
    begun_at: datetime


@dataclass
class Attendance:
    """One visit in the hands of this process."""

    visit_id: UUID
    holder: str

    def __post_init__(self) -> None:
        self._line: asyncio.Queue[tuple[Callable[..., Any], tuple]] = asyncio.Queue()
        self._conference: Conference | None = None
        self._capture: Capture | None = None
        self._stretch: _Stretch | None = None
        self._next = 0
        self._state = Standing.KNOCKING
        self._orders: Orders | None = None
        self._names: dict[str, str] = {}  # key → name, of the people who are there
        self._slots: dict[str, int] = {}
        self._clocks: dict[str, Clock] = {}
        self._dealt_with: set[str] = set()  # who said no, and that was done about it
        self._told, self._newcomers = 0.0, False
        self._alone_since: float | None = None
        self._missing = ""
        self._out: Out | None = None
        self._files = 0
        self._fetching: set[asyncio.Task] = set()

    async def attend(self) -> None:
        """Go, be there, leave. Ends when the visit is over, or another clerk has come in the place of this one."""
        writing = asyncio.create_task(self._write_down())
        going = asyncio.create_task(self._go())
        try:
            done, _ = await asyncio.wait({writing, going}, return_when=asyncio.FIRST_COMPLETED)
            for one in done:
                one.result()
        except Superseded:
            logger.info("visit %s is attended to by another clerk", self.visit_id)
        except Exception:
            logger.exception("visit %s", self.visit_id)
            await self._end(Cause.BROKEN)
        finally:
            for one in (going, writing):
                one.cancel()
            await asyncio.gather(going, writing, return_exceptions=True)
            if self._conference:
                await self._conference.leave()

    async def stop(self) -> None:
        """This process ends: what has come is written down, and another clerk goes on."""
        self._close(Stretch.End.CUT_OFF)
        await self._line.join()

    # Going and leaving

    async def _go(self) -> None:
        visit = await surely(keep.load, self.visit_id)
        self._state = Standing(visit.state)
        if self._state in ENDS:  # its clerk was killed while it wound up
            return await surely(keep.wind_up, self.visit_id, self.holder)
        if self._state == Standing.EXPECTED:
            await self._happen(Cause.DUE)
        tries, since = 0, time.monotonic()
        while True:
            cause, inside = await self._be_there(visit, since)
            if inside:
                tries, since = 0, time.monotonic()
            if cause in (Cause.LOST, Cause.OUT_OF_REACH, Cause.FULL) and time.monotonic() - since < _OPENS_WITHIN:
                if cause == Cause.LOST:
                    await self._happen(cause)
                await asyncio.sleep(_AGAIN[min(tries, len(_AGAIN) - 1)])
                tries += 1
                self._orders = await surely(keep.orders, self.visit_id, self.holder)
                if self._orders.away_by:
                    return await self._end(Cause.SENT_AWAY, self._orders.away_by)
                continue
            return await self._end(Cause.OUT_OF_REACH if cause == Cause.LOST else cause, self._orders.away_by if self._orders else "")

    async def _end(self, cause: Cause, who: str = "") -> None:
        """First it is written down that it is over, so that nobody goes there again; then what was taken is wound up."""
        try:
            await self._happen(cause, who or self._missing)
            self._close(Stretch.End.STOP)
            await asyncio.gather(*self._fetching, return_exceptions=True)
            await self._line.join()
            if self._conference:
                await self._conference.leave()
            await surely(keep.wind_up, self.visit_id, self.holder)
        except Superseded:
            logger.info("visit %s is attended to by another clerk", self.visit_id)

    async def _happen(self, cause: Cause, who: str = "") -> None:
        self._state = await surely(keep.happen, self.visit_id, self.holder, cause, who)

    async def _be_there(self, visit: Visit, since: float) -> tuple[Cause, bool]:
        """Knock once, and stay for as long as it goes. Returns why it was over, and whether it was inside."""
        name = visit.workspace.clerk_name or f"Clerk of {visit.workspace.name}"
        self._conference = ADAPTERS[visit.adapter](Call(visit.address, visit.passcode, name[:80]))
        self._names, self._clocks, self._alone_since = {}, {}, None
        inside, looked, begun, settled = False, 0.0, time.monotonic(), 0.0
        await self._conference.enter()
        while True:
            # Some frames of everybody at a time: to be woken for each costs more than to look at it.
            await asyncio.sleep(_TICK)
            before, begun = begun, time.monotonic()
            if begun - before > LATE / 2:  # we were held up ourselves, and what came meanwhile is still on its way through the machine
                settled = begun + LATE
            while self._out is None and not self._conference.events.empty():
                event = self._conference.events.get_nowait()
                if isinstance(event, LetIn):
                    inside = True
                    try:
                        await self._enter(visit, event)
                    except Refused as refused:  # such as where the minutes of the month are used up
                        self._missing = refused.detail
                        return Cause.NOT_ALLOWED, inside
                else:
                    self._take(event)
            # All that had arrived by then is laid onto its seconds.
            if begun >= settled:
                self._lay_down(begun)
            if over := self._out:
                self._out = None
                self._close(Stretch.End.CUT_OFF if over.cause == Cause.LOST else Stretch.End.STOP)
                await self._conference.leave()
                return over.cause, inside
            if time.monotonic() - looked >= _LOOK:
                looked = time.monotonic()
                if cause := await self._look(visit, inside, since):
                    self._close(Stretch.End.STOP)
                    return cause, inside

    async def _enter(self, visit: Visit, event: LetIn) -> None:
        """Inside: who it is and for whom is said first of all."""
        languages = [language for language in ("en", *visit.workspace.notices) if language in texts_of(visit.workspace)]
        self._capture = await surely(keep.begin, self.visit_id, self.holder, event.title, languages[0])
        self._next = await surely(keep.close_open, self.visit_id, self.holder)
        self._slots = await surely(keep.slots_of, self._capture)
        await self._happen(Cause.ADMITTED)
        self._alone_since = time.monotonic()
        await self._tell(visit)

    async def _tell(self, visit: Visit) -> None:
        assert self._conference is not None and self._capture is not None
        texts = texts_of(visit.workspace)
        told = " / ".join(dict.fromkeys([texts["en"], *(texts[one] for one in visit.workspace.notices if one in texts)]))
        page = f"{settings.BASE_URL}/notice/{self._capture.notice_token}"
        await self._conference.say(f"I am a program: the clerk of {visit.workspace.name}, here for {visit.asked_by.user.called}. {told} You can answer here with yes or no, or at {page}")
        self._told, self._newcomers = time.monotonic(), False

    # What happens in the call

    def _take(self, event: Event) -> None:
        match event:
            case Heard():
                self._hear(event)
            case Here(key, called, False):
                name = one_line(called)[:120] or "Somebody"
                if self._names.get(key) != name:
                    if key in self._names:
                        self._note(keep.went, self._names[key], time.time())
                    elif self._told:
                        self._newcomers = True
                    self._names[key] = name
                    self._note(keep.came, name, time.time())
            case Gone(key):
                if name := self._names.pop(key, ""):
                    self._clocks.pop(key, None)
                    if name not in self._names.values():
                        self._note(keep.went, name, time.time())
            case Written(key, text, arrived) if key in self._names:
                name = self._names[key]
                agreed = answer_in(text)
                if agreed is not None:
                    self._note(keep.answered, name, agreed)
                elif one := self._stretch:
                    at = max(0, round((arrived - one.begun) * CAPTURE_RATE))
                    self._note(keep.wrote, one.number, at, name, text)
            case Laid(key, called, address, arrived) if key in self._names and self._stretch:
                at = max(0, round((arrived - self._stretch.begun) * CAPTURE_RATE))
                called = one_line(called) or "file"
                self._note(keep.wrote, self._stretch.number, at, self._names[key], called)
                if self._files < _MOST_FILES:
                    self._files += 1
                    self._fetch(address, self._stretch.number, at, self._names[key], called)
            case Shown(_, image, arrived) if self._stretch:
                at = round((arrived - self._stretch.begun) * CAPTURE_RATE)
                if at >= 0:
                    self._note(keep.keep_still, self._stretch.number, at, image)
            case Out():
                self._out = event
            case Knocking():
                pass

    def _fetch(self, address: str, *given: Any) -> None:
        """A file that was put into the chat; where it cannot be had, its name stays in the chat. given: as `keep.laid` takes it."""

        async def fetch(conference: Conference) -> None:
            try:
                self._note(keep.laid, *given, await conference.fetch(address))
            except InputProblem as problem:
                logger.info("visit %s: a file was not fetched: %s", self.visit_id, problem)

        assert self._conference is not None
        task = asyncio.create_task(fetch(self._conference))
        self._fetching.add(task)
        task.add_done_callback(self._fetching.discard)

    def _hear(self, event: Heard) -> None:
        clock = self._clocks.setdefault(event.key, Clock())
        length = len(event.samples) / CAPTURE_RATE
        open_from = self._stretch.begun + self._stretch.seconds.taken if self._stretch else -inf
        begins = clock.place(event.stamp, length, event.arrived, open_from)
        name = EVERYBODY if event.key == EVERYBODY else self._names.get(event.key)
        if self._stretch is None or name is None:
            return
        at, samples = begins - self._stretch.begun, event.samples
        if at < 0:  # from before it was on the record
            samples, at = samples[round(-at * CAPTURE_RATE) :], 0.0
        if (slot := self._slot_of(name)) is not None:
            self._stretch.seconds.put(slot, at, samples)

    def _slot_of(self, name: str) -> int | None:
        if name not in self._slots:
            slot = max(self._slots.values(), default=-1) + 1
            if slot >= MOST:
                return None
            self._slots[name] = slot
            if name != EVERYBODY:
                self._note(keep.spoke, name, slot)
        assert self._stretch is not None
        slot = self._slots[name]
        if slot >= self._stretch.seconds.slots:
            self._widen(slot)
        return slot

    def _widen(self, slot: int) -> None:
        """More people than there are tracks: another stretch goes on where this one ends, with twice as many."""
        old = self._stretch
        assert old is not None
        slots = old.seconds.slots
        while slots <= slot:
            slots *= 2
        ended = old.seconds.taken
        self._note(keep.off_the_record, old.number, Stretch.End.MORE)
        begun_at = datetime.fromtimestamp(old.begun_at.timestamp() + ended, UTC)
        self._stretch = _Stretch(self._next, old.seconds.widened(min(slots, MOST)), old.begun + ended, begun_at)
        self._next += 1
        self._note(keep.on_the_record, self._stretch.number, self._stretch.seconds.slots, begun_at)

    # On and off the record

    def _open(self) -> None:
        slots = _FIRST_SLOTS
        while slots <= max(self._slots.values(), default=0):
            slots *= 2
        now = time.monotonic()
        self._stretch = _Stretch(self._next, Seconds(min(slots, MOST)), now, datetime.now(UTC))
        self._next += 1

    def _lay_down(self, now: float) -> None:
        """Seconds that are through go into the line. now: by time.monotonic()."""
        while (one := self._stretch) and now - one.begun >= one.seconds.taken + 1 + LATE:
            number = one.seconds.taken
            self._note(keep.keep_second, one.number, number, one.seconds.take(), one.seconds.slots, one.begun_at)

    def _close(self, reason: Stretch.End, at: datetime | None = None) -> None:
        """Off the record, after all that has come. at: the moment from which on nothing is wanted any more; else now."""
        while self._conference and self._out is None and not self._conference.events.empty():
            self._take(self._conference.events.get_nowait())
        one, self._stretch = self._stretch, None
        if one is None:
            return
        until = (at - one.begun_at).total_seconds() if at else time.monotonic() - one.begun
        while one.seconds.taken < until:
            number = one.seconds.taken
            length = min(CHUNK, round((until - number) * CAPTURE_RATE))
            if length <= 0:
                break
            self._note(keep.keep_second, one.number, number, one.seconds.take(length), one.seconds.slots, one.begun_at)
        self._note(keep.off_the_record, one.number, reason)

    async def _look(self, visit: Visit, inside: bool, since: float) -> Cause | None:
        """At what is asked of it, and at who is there; a cause where it is to go."""
        try:
            self._orders = await kept(keep.orders, self.visit_id, self.holder)
        except AWAY:
            logger.info("the database is away; visit %s goes on by itself", self.visit_id)
        asked = self._orders
        if asked is None:
            return None
        if asked.away_by:
            return Cause.SENT_AWAY
        if asked.until <= datetime.now(UTC):
            return Cause.LONG_ENOUGH
        if not inside:
            return Cause.NOT_OPENED if time.monotonic() - since >= _OPENS_WITHIN else None
        if self._names:
            self._alone_since = None
        elif self._alone_since is None:
            self._alone_since = time.monotonic()
        elif time.monotonic() - self._alone_since >= settings.CLERK_ALONE:
            return Cause.ALONE
        if cause := await self._heed(visit, asked):
            return cause
        await self._change_over(asked)
        if self._newcomers and time.monotonic() - self._told >= _TELL_EVERY:
            await self._tell(visit)
        return None

    async def _heed(self, visit: Visit, asked: Orders) -> Cause | None:
        """Those who do not agree: each no counts once, and what it means is the workspace's to say."""
        for name, at in asked.no:
            if f"{name} {at}" in self._dealt_with:
                continue
            self._dealt_with.add(f"{name} {at}")
            if self._state not in (Standing.WAITING, Standing.ON):
                continue
            self._missing = name
            if visit.workspace.clerk_leaves:
                self._close(Stretch.End.STOP, at)
                return Cause.NOT_WANTED
            await surely(keep.pause, self.visit_id, self.holder, at, name)
            self._close(Stretch.End.PAUSE, at)
            await self._happen(Cause.DISAGREED, name)
            await self._say(f"Off the record, because {name} does not agree. What was said before that is kept.")
        return None

    async def _change_over(self, asked: Orders) -> None:
        """Onto the record, and off it."""
        if asked.paused and self._state in (Standing.WAITING, Standing.ON):
            self._close(Stretch.End.PAUSE, asked.off_at)
            await self._happen(Cause.PAUSED, asked.paused_by)
            await self._say(f"Off the record: {asked.paused_by} asked for it. Nothing is kept until I say so here.")
        elif not asked.paused and self._state == Standing.OFF:
            await self._happen(Cause.RESUMED, asked.paused_by)
        elif self._state == Standing.WAITING and self._names and not asked.paused:
            await self._begin()

    async def _begin(self) -> None:
        """Somebody is there: sound is taken from now on, unless the workspace wants everybody's consent first."""
        if self._stretch is None:
            self._open()
        one = self._stretch
        assert one is not None
        await self._line.join()  # who is there is known to whoever checks that all of them agree
        try:
            await surely(keep.on_the_record, self.visit_id, self.holder, one.number, one.seconds.slots, one.begun_at)
        except Refused as refused:
            self._stretch, self._next = None, self._next - 1
            missing = ", ".join(refused.facts.get("missing", []))
            if missing and missing != self._missing:
                self._missing = missing
                await self._say(f"I take nothing down yet: all have to agree first. Still to agree: {missing}. Answer here with yes or no.")
            return
        again = self._told and one.number > 0
        await self._happen(Cause.SOMEBODY)
        if again:
            await self._say("On the record again.")

    async def _say(self, text: str) -> None:
        if self._conference:
            await self._conference.say(text)

    # Writing down

    def _note(self, do: Callable[..., Any], *given: Any) -> None:
        self._line.put_nowait((do, given))

    async def _write_down(self) -> None:
        """In order, one after the other; nothing is let go of before it is kept."""
        while True:
            do, given = await self._line.get()
            try:
                await surely(do, self.visit_id, self.holder, *given)
            except Superseded:
                raise
            except Exception:
                # Such as a second of a stretch that has ended: this cannot be kept, and what comes behind it can.
                logger.exception("visit %s: %s was not kept", self.visit_id, do.__name__)
            finally:
                self._line.task_done()
