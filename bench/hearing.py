"""Words and voices beside the plain engine (faster-whisper with its defaults) and beside plain clustering, in the same run.

Word error rates by jiwer, speaker-attributed ones (cpWER) by meeteval, diarization error rates by pyannote.metrics (collar 0.25 s each
side, overlap counted). Each engine has a process of its own; they take turns.
"""

from __future__ import annotations

import difflib
import logging
import os
import resource
import string
import tempfile
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

import jiwer
import meeteval
import numpy as np
from pyannote.core import Annotation, Segment
from pyannote.metrics.diarization import DiarizationErrorRate
from scipy.cluster.hierarchy import fcluster, linkage

from bench.plain import PlainEngine
from bench.tables import table
from core.hearing import Ear
from core.media import RATE, decode, open_sound
from core.record.model import Turn
from core.speech import voice_activity
from core.speech.word_list import Term, read_terms
from core.voices.features import log_mel
from demo.people import WORDS
from house.system import LIBRIVOX

DEMO = Path(__file__).resolve().parent.parent / "demo"
MODELS = Path(os.environ["AFTERSHOWER_MODELS"])
_ROUNDS = 3


def plain_text(text: str) -> str:
    """Lower case, without punctuation: as error rates are counted."""
    return " ".join(text.lower().replace("-", " ").translate(str.maketrans("", "", string.punctuation)).split())


def text_of(turns: Iterable[Turn]) -> str:
    """All that is said in some turns."""
    return " ".join(turn.text for turn in turns)


@dataclass(frozen=True)
class Reference:
    """What was said: by speaker, in order of time; and who spoke when."""

    name: str
    sound: Path
    said: list[tuple[str, str]]
    spoken: Annotation
    terms: list[Term]

    @property
    def text(self) -> str:
        """All of it."""
        return plain_text(" ".join(text for _, text in self.said))

    @property
    def by_speaker(self) -> dict[str, str]:
        """Joined per speaker, for cpWER."""
        return _joined((speaker, plain_text(text)) for speaker, text in self.said)


def _joined(said: Iterable[tuple[str, str]]) -> dict[str, str]:
    by: dict[str, str] = {}
    for speaker, text in said:
        by[speaker] = f"{by.get(speaker, '')} {text}".strip()
    return by


def _demo(path: Path) -> Reference:
    rows = [line.split("\t") for line in path.with_suffix(".reference.tsv").read_text(encoding="utf-8").splitlines()]
    spoken = Annotation()
    for index, (speaker, start, end, _) in enumerate(rows):
        spoken[Segment(float(start), float(end)), index] = speaker
    present = dict.fromkeys(speaker.split()[0] for speaker, *_ in rows)
    listed = {term.text: term for term in [*(Term(name) for name in present), *read_terms(WORDS)]}
    return Reference(path.stem, path, [(row[0], row[3]) for row in rows], spoken, list(listed.values()))


def read_rttm(path: Path) -> Annotation:
    """Who speaks when, of a file in RTTM (NIST, Rich Transcription 2009)."""
    spoken = Annotation()
    for index, line in enumerate(path.read_text().splitlines()):
        _, _, _, start, length, _, _, speaker, *_ = line.split()
        spoken[Segment(float(start), float(start) + float(length)), index] = speaker
    return spoken


def actors() -> Reference:
    """Two actors in short turns. Labelled for this bench: stretches of loudness with pauses of 0.25 s between them, the voice by its
    pitch (autocorrelation; medians of 119 to 133 Hz for one and 180 to 200 Hz for the other, in turn). What they say is not labelled."""
    return Reference("two actors", MODELS / "reference-actors" / "actors.wav", [], read_rttm(Path(__file__).with_name("actors.rttm")), [])


def _call() -> Reference:
    folder = MODELS / "reference-call"
    spoken = read_rttm(folder / "call.rttm")
    said = [line.split(maxsplit=5) for line in (folder / "call.stm").read_text().splitlines()]
    return Reference("telephone call", folder / "call.wav", [(row[2], row[5]) for row in said], spoken, [])


def _plain_clustering(ear: Ear, path: Path) -> Annotation:
    """One vector a stretch of voice activity, average linkage, cut at a cosine of 0.5: how it is plainly done."""
    with tempfile.TemporaryDirectory() as scratch:
        decode(path, Path(scratch) / "sound.wav")
        sound = np.asarray(open_sound(Path(scratch) / "sound.wav"))
    spans = [span for span in voice_activity(sound) if span.duration > 0.2]
    vectors = ear.voices.vectors([log_mel(sound[int(span.start * RATE) : int(span.end * RATE)]) for span in spans])
    labels = fcluster(linkage(vectors, "average", "cosine"), 0.5, "distance") if len(spans) > 1 else [1]
    found = Annotation()
    for index, (span, label) in enumerate(zip(spans, labels, strict=True)):
        found[Segment(span.start, span.end), index] = str(label)
    return found


def _terms_right(reference: Reference, heard: str) -> tuple[int, int]:
    """Of the listed words that were said, how many came out as they are written; and how many were said."""
    said, got = reference.text.split(), plain_text(heard).split()
    wanted = {plain_text(term.text) for term in reference.terms} | {plain_text(term.text) + "s" for term in reference.terms}
    right = {
        index
        for first, _, length in difflib.SequenceMatcher(None, said, got, autojunk=False).get_matching_blocks()
        for index in range(first, first + length)
    }
    places = [index for index, word in enumerate(said) if word in wanted]
    return sum(index in right for index in places), len(places)


def run() -> None:
    """Print error rates, work per second of sound and listed words got right."""
    logging.getLogger().setLevel(logging.ERROR)
    ear, plain = Ear(MODELS), PlainEngine()
    der, rows, listed, total = DiarizationErrorRate(collar=0.5), [], 0, 0
    for reference in [*(_demo(path) for path in sorted((DEMO / "sound").glob("*.opus"))), _call(), actors()]:
        plain_took, took = [], []
        # In turn, and of each the quickest counts: what else the machine does only ever makes one slower.
        for _ in range(_ROUNDS):
            plainly = plain.hear(reference.sound, "en")
            plain_took.append(plainly.seconds / plainly.duration)
            heard = ear.hear(reference.sound, language="en", terms=reference.terms)
            took.append(heard.timings["total"] / heard.record.duration)
        rate, plain_rate = min(took), min(plain_took)
        found = Annotation()
        for turn in heard.record.turns:
            found[Segment(turn.start, turn.end), turn.id] = turn.speaker
        ours = text_of(heard.record.turns)
        by_voice = _joined((turn.speaker, plain_text(turn.text)) for turn in heard.record.turns)
        right, said = _terms_right(reference, ours)
        listed, total = listed + right, total + said
        rows.append(
            [
                reference.name,
                jiwer.wer(reference.text, plain_text(ours)) if reference.said else "",
                jiwer.wer(reference.text, plain_text(plainly.text)) if reference.said else "",
                float(meeteval.wer.cp_word_error_rate(reference.by_speaker, by_voice).error_rate) if reference.said else "",
                float(der(reference.spoken, found)),
                float(der(reference.spoken, _plain_clustering(ear, reference.sound))),
                f"{right}/{said}" if said else "",
                rate,
                plain_rate,
                rate / plain_rate,
            ]
        )
    heads = [
        "sound",
        "WER",
        "plain WER",
        "cpWER",
        "DER",
        "plain clustering DER",
        "listed words",
        "s/s words and voices",
        "s/s plain, words alone",
        "ratio",
    ]
    print(table(heads, rows))
    print(f"\nlisted words right: {listed} of {total}")
    ours = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
    print(f"peak memory, MB: words and voices {ours}, plain {plainly.megabytes}")
    _sentences(ear, plain)


def librivox() -> list[tuple[str, Path]]:
    """Words and sound of the sentences read aloud in Debian's pocketsphinx-testdata."""
    lines = [line.rsplit(" ", 1) for line in (LIBRIVOX / "transcription").read_text().splitlines()]
    return [(words.removeprefix("<s> ").removesuffix(" </s>"), LIBRIVOX / f"{name.strip('()')}.wav") for words, name in lines]


def _sentences(ear: Ear, plain: PlainEngine) -> None:
    """Sentences read aloud: word error rates of the English ones together, and the language of one in each of nine."""
    said = [plain_text(words) for words, _ in librivox()]
    ours = [plain_text(text_of(ear.hear(sound, "en").record.turns)) for _, sound in librivox()]
    plainly = [plain_text(plain.hear(sound, "en").text) for _, sound in librivox()]
    print("\n" + table(["read aloud", "WER", "plain WER"], [["LibriVox", jiwer.wer(said, ours), jiwer.wer(said, plainly)]]))
    rows = []
    for path in sorted((MODELS / "reference-readings").glob("*.wav")):
        record, other = ear.hear(path).record, plain.hear(path)
        sentence = plain_text(path.with_suffix(".txt").read_text(encoding="utf-8"))
        # By letters: not every one of the languages has spaces between its words.
        rates = [jiwer.cer(sentence, plain_text(text)) for text in (text_of(record.turns), other.text)]
        rows.append([path.stem, record.language, other.language, *rates])
    print("\n" + table(["read in", "heard as", "plain", "character error rate", "plain"], rows))
