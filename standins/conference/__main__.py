"""Serve the conference until told to stop."""

from __future__ import annotations

import argparse
import asyncio
import json
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import uvicorn

from standins.conference.media import Source, opus_of, show, speak
from standins.conference.rooms import Room, Somebody
from standins.conference.server import Conference


@cache
def _packets(sound: Path) -> asyncio.Future[list[bytes]]:
    """A file's sound, made into packets once, on a thread, however many wait for it."""
    return asyncio.ensure_future(asyncio.to_thread(opus_of, sound))


@dataclass(frozen=True)
class Voice:
    """A participant that speaks from a file, and may show pictures as a screen."""

    name: str
    sound: Path
    pictures: tuple[Path, ...] = ()
    seconds: float = 20.0


async def take_part(room: Room, voice: Voice, again: bool) -> None:
    """Somebody comes, says what is in the file, and goes."""
    one = Somebody(voice.name, "person", lambda event: None)
    packets = await asyncio.shield(_packets(voice.sound))
    room.come(one, at_home=True)
    source, screen = Source("audio"), Source("video")
    room.sounds(one, source)
    doing = [asyncio.create_task(speak(source, packets, again))]
    if voice.pictures:
        room.shows(one, screen)
        doing.append(asyncio.create_task(show(screen, voice.pictures, voice.seconds)))
    one.closing += [task.cancel for task in doing]
    await asyncio.wait(doing[:1])
    room.go(one)


def read_rooms(path: Path) -> list[tuple[Room, list[Voice], dict]]:
    """What `--rooms` reads: a list of rooms with name, title, passcode, lobby, most, and voices with name, sound, pictures, seconds.

    starts: "at once", or "with somebody": the voices come when the first person or clerk knocks or is in. again: they begin anew."""
    found = []
    for one in json.loads(path.read_text(encoding="utf-8")):
        voices = [
            Voice(voice["name"], Path(voice["sound"]), tuple(map(Path, voice.get("pictures", ()))), voice.get("seconds", 20.0))
            for voice in one.pop("voices", [])
        ]
        how = {"starts": one.pop("starts", "at once"), "again": one.pop("again", False)}
        found.append((Room(**one), voices, how))
    return found


async def _when_somebody(room: Room, voices: list[Voice], again: bool) -> None:
    while True:
        while not room.people:
            await asyncio.sleep(0.2)
        async with asyncio.TaskGroup() as tasks:
            for voice in voices:
                tasks.create_task(take_part(room, voice, again))
        names = {voice.name for voice in voices}
        while any(one.name not in names for one in room.people.values()):
            await asyncio.sleep(0.5)


def main() -> None:
    """Serve."""
    parser = argparse.ArgumentParser(prog="python -m standins.conference")
    parser.add_argument("--port", type=int, required=True)
    parser.add_argument("--rooms", type=Path, required=True, help="a JSON file (read_rooms)")
    asked = parser.parse_args()
    rooms = read_rooms(asked.rooms)
    running: list[asyncio.Future] = []

    def started(conference: Conference) -> None:
        for room, voices, how in rooms:
            running.extend(_packets(voice.sound) for voice in voices)
            if how["starts"] == "with somebody":
                running.append(asyncio.create_task(_when_somebody(room, voices, how["again"])))
            else:
                running.extend(asyncio.create_task(take_part(room, voice, how["again"])) for voice in voices)

    conference = Conference([room for room, _, _ in rooms], started)
    uvicorn.run(conference.application(), host="127.0.0.1", port=asked.port, log_level="warning", timeout_graceful_shutdown=2)


if __name__ == "__main__":
    main()
