"""Calls that one can join by oneself: who is in them, and what they say, from the demo's recordings. All made up.

`python -m demo.call FOLDER` writes what the conference stand-in reads, with the sound that it plays.
"""

from __future__ import annotations

import csv
import json
import sys
from dataclasses import dataclass
from pathlib import Path

import av
import numpy as np

from core.media.chunks import CAPTURE_RATE, read_flac, write_flac

_SOUND = Path(__file__).parent / "sound"
_CALLS = [
    # room, title, passcode, lobby, recording, who of it is in the room
    ("palm-house", "Glazing call: palm house", "4711", False, "01-works-meeting-scaffold", ("Idris Quaye", "Tobias Renn")),
    ("heating", "Heating: flow temperatures", "", True, "08-heating-call", ("Pavel Drozd", "Anselm Odukoya")),
]


@dataclass(frozen=True, slots=True)
class Said:
    """What somebody says in a recording, from one second to another."""

    name: str
    start: float
    end: float
    text: str


def turns_of(recording: str) -> list[Said]:
    """What is said in a recording of the demo, as it was written before it was spoken."""
    with (_SOUND / f"{recording}.reference.tsv").open(encoding="utf-8") as rows:
        return [Said(name, float(start), float(end), text) for name, start, end, text in csv.reader(rows, delimiter="\t", quoting=csv.QUOTE_NONE)]

_ON_THE_PHONE = ("Pavel Drozd", "Anselm Odukoya")


def voices_of(recording: str, folder: Path) -> dict[str, Path]:
    """Each voice of a recording of the demo as a file of its own, silent while others speak. Name → FLAC."""
    with av.open(str(_SOUND / f"{recording}.opus")) as container:
        resampler = av.AudioResampler(format="s16", layout="mono", rate=CAPTURE_RATE)
        blocks = [block.to_ndarray().reshape(-1) for frame in container.decode(audio=0) for block in resampler.resample(frame)]
    sound = np.concatenate(blocks)
    turns = turns_of(recording)
    found = {}
    for name in dict.fromkeys(turn.name for turn in turns):
        own = np.zeros_like(sound)
        for turn in turns:
            if turn.name == name:
                part = slice(int(turn.start * CAPTURE_RATE), int(turn.end * CAPTURE_RATE))
                own[part] = sound[part]
        found[name] = folder / f"{recording}-{len(found)}.flac"
        write_flac(found[name], [own.reshape(-1, 1)], 1)
    return found


def write_telephone(folder: Path) -> Path:
    """A telephone call of two, a channel each. Returns the file."""
    caller, called = (np.concatenate(list(read_flac(path))) for path in map(voices_of("08-heating-call", folder).get, _ON_THE_PHONE) if path)
    target = folder / "telephone.flac"
    write_flac(target, [np.concatenate([caller, called], axis=1)], 2)
    return target


def write_rooms(folder: Path) -> Path:
    """What the conference stand-in reads (`--rooms`), with the sound that it plays, under a folder. Returns the file."""
    folder.mkdir(parents=True, exist_ok=True)
    rooms = []
    for room, title, passcode, lobby, recording, people in _CALLS:
        sounds = voices_of(recording, folder)
        voices = [{"name": name, "sound": str(sounds[name])} for name in people]
        rooms.append(
            {"name": room, "title": title, "passcode": passcode, "lobby": lobby, "voices": voices, "starts": "with somebody", "again": True}
        )
    path = folder / "rooms.json"
    path.write_text(json.dumps(rooms, indent=1), encoding="utf-8")
    return path


if __name__ == "__main__":
    write_rooms(Path(sys.argv[1]))
    write_telephone(Path(sys.argv[1]))
