"""The clerk at a call: what may happen to it, how sound of several clocks is laid onto seconds, what is worth keeping of a screen."""

from __future__ import annotations

from collections.abc import Sequence
from io import BytesIO
from itertools import product

import numpy as np
import pytest
from PIL import Image, ImageDraw

from core.media.call import Clock, Seconds
from core.media.chunks import CAPTURE_RATE, CHUNK
from core.media.legible import Legible, read_picture
from core.media.stills import Stills
from core.media.tracks import TrackLine, track_at
from core.planning.attending import ENDS, WORDS, Cause, Standing, after, answer_in

MUTED = {Standing.EXPECTED, Standing.KNOCKING, Standing.OFF}


def reached(start: Standing, causes: Sequence[Cause]) -> Standing:
    for cause in causes:
        start = after(start, cause) or start
    return start


def test_every_cause_has_words_and_happens_somewhere():
    assert set(WORDS) == set(Cause)
    assert {cause for state, cause in product(Standing, Cause) if after(state, cause)} == set(Cause)


@pytest.mark.parametrize("end", sorted(ENDS))
def test_from_an_end_there_is_no_way_back(end):
    assert {after(end, cause) for cause in Cause} == {None}


def test_sound_is_never_taken_but_after_being_let_in_and_with_somebody_there():
    for causes in product(Cause, repeat=3):
        state = reached(Standing.EXPECTED, causes)
        if state == Standing.ON:
            assert causes == (Cause.DUE, Cause.ADMITTED, Cause.SOMEBODY)
    for state in MUTED:
        assert all(after(state, cause) != Standing.ON for cause in Cause)


def test_a_clerk_taken_over_while_off_the_record_does_not_go_on_by_itself():
    assert reached(Standing.OFF, [Cause.TAKEN_OVER, Cause.ADMITTED, Cause.PAUSED]) == Standing.OFF


@pytest.mark.parametrize(
    ("text", "answer"),
    [("No", False), ("no!", False), ("I don’t agree.", False), ("Nein.", False), ("Sí", True), ("OK", True), ("No idea where he is", None), ("yes, the glass came", None), ("", None)],
)
def test_an_answer_to_the_notice_is_one_that_says_nothing_else(text, answer):
    assert answer_in(text) is answer


def tone(seconds: float, pitch: float = 440.0, level: float = 8000.0) -> np.ndarray:
    return (level * np.sin(2 * np.pi * pitch * np.arange(int(seconds * CAPTURE_RATE)) / CAPTURE_RATE)).astype(np.int16)


def test_frames_that_jitter_on_the_way_lie_side_by_side():
    clock, seconds, sound = Clock(), Seconds(2), tone(3.0)
    rng = np.random.default_rng(3)
    for number in range(150):
        late = 0.0 if number == 0 else float(rng.uniform(0, 0.09))
        part = sound[number * 480 : (number + 1) * 480]
        at = clock.place(7.5 + number * 0.02, 0.02, 100.02 + number * 0.02 + late) - 100.0
        seconds.put(1, at, part)
    found = np.concatenate([np.frombuffer(seconds.take(), "<i2").reshape(-1, 2) for _ in range(3)])
    assert (found[:, 1] == sound).all() and not found[:, 0].any() and seconds.lost == 0


def test_a_clock_that_stalls_is_set_anew_and_one_that_was_muted_keeps_its_pause():
    clock = Clock()
    assert clock.place(0.0, 0.02, 50.02) == pytest.approx(50.0)
    assert clock.place(4.0, 0.02, 54.05) == pytest.approx(54.0)  # silent for four seconds, its stamps went on
    assert clock.place(4.02, 0.02, 60.0) == pytest.approx(59.98)  # nothing came for six seconds, the stamps stood still
    assert clock.place(4.04, 0.02, 60.0) == pytest.approx(60.0)  # never before the one before it


def test_what_was_held_up_on_the_way_lies_where_it_was_said_and_nothing_falls_into_what_is_through():
    clock, seconds, sound = Clock(), Seconds(1), tone(3.0)
    for number in range(150):
        # From 0.5 s to 1.5 s nothing gets through; then it all comes at once.
        arrived = 1.5 if 25 <= number < 75 else (number + 1) * 0.02
        at = clock.place(7.5 + number * 0.02, 0.02, 100.0 + arrived, 100.0 + seconds.taken) - 100.0
        seconds.put(0, at, sound[number * 480 : (number + 1) * 480])
    found = np.concatenate([np.frombuffer(seconds.take(), "<i2") for _ in range(3)])
    assert (found == sound).all() and seconds.lost == 0
    # Its second is through: it comes right behind, and whatever follows it comes behind that.
    assert clock.place(10.5, 0.02, 104.0, 103.5) == pytest.approx(103.5) and clock.place(10.52, 0.02, 104.0, 103.5) == pytest.approx(103.52)


def test_a_track_that_stays_late_had_stopped_and_is_set_anew():
    clock = Clock()
    placed = [clock.place(number * 0.5, 0.5, 50.5 + number * 0.5 + (0.8 if number > 3 else 0.0)) for number in range(24)]
    assert placed[3] == pytest.approx(51.5) and placed[4] == pytest.approx(52.0)
    assert placed[-1] == pytest.approx(62.3) and all(b - a >= 0.5 - 1e-9 for a, b in zip(placed, placed[1:], strict=False))


def test_what_comes_too_late_is_counted_and_two_at_once_are_added():
    seconds = Seconds(1)
    seconds.put(0, 0.5, tone(1.0))
    seconds.put(0, 0.5, tone(1.0))
    first = np.frombuffer(seconds.take(), "<i2")
    assert (first[CHUNK // 2 :] == 2 * tone(0.5)).all()
    seconds.put(0, 0.9, tone(0.2))
    assert seconds.lost == CHUNK // 10 or seconds.lost == CHUNK // 10 + 1
    assert len(seconds.take(600)) == 1200


def test_more_tracks_go_on_with_what_has_not_been_taken():
    seconds = Seconds(1)
    seconds.put(0, 0.0, tone(2.0))
    seconds.take()
    wider = seconds.widened(2)
    wider.put(1, 0.0, tone(1.0, 300))
    found = np.frombuffer(wider.take(), "<i2").reshape(-1, 2)
    assert (found[:, 0] == tone(2.0)[CHUNK:]).all() and (found[:, 1] == tone(1.0, 300)).all()


def test_the_line_of_many_tracks_says_who_speaks_at_each_tenth():
    line = TrackLine(CAPTURE_RATE)
    block = np.zeros((CHUNK * 3, 40), np.int16)
    block[:CHUNK, 0], block[CHUNK : 2 * CHUNK, 37] = tone(1.0), tone(1.0)
    block[: CHUNK // 2, 3] = tone(0.5, level=2000)  # at once, and fainter
    for start in range(0, len(block), 1700):  # however it is cut, also into less than a tenth
        line.add(block[start : start + 1700])
    assert len(line.written) == 30
    assert [track_at(line.written, second, second + 0.9) for second in (0.0, 1.0, 2.0)] == [0, 37, None]


def slide(*lines: str, cursor: int = 0) -> Image.Image:
    image = Image.new("RGB", (1920, 1080), "white")
    draw = ImageDraw.Draw(image)
    for row, text in enumerate(lines):
        draw.text((120, 120 + 130 * row), text, fill="black", font_size=90)
    draw.ellipse((cursor, 900, cursor + 12, 912), fill="grey")
    return image


def test_a_screen_is_kept_when_it_shows_something_else_and_stands_still():
    stills = Stills()
    first, moved, more = slide("Panes delivered", cursor=40), slide("Panes delivered", cursor=900), slide("Panes delivered", "Panes broken: 4")
    assert [stills.see(one) is not None for one in (first, first, moved, moved)] == [False, True, False, False]
    assert stills.see(more) is None  # it has only just changed
    kept = stills.see(more)
    assert kept
    assert read_picture(kept).lines == ("Panes delivered", "Panes broken: 4")
    assert kept and Image.open(BytesIO(kept)).size == (1600, 900)


def test_a_slide_has_a_title_and_a_page_of_text_has_none():
    def jpeg(*lines: tuple[str, int]) -> bytes:
        image, at = Image.new("RGB", (1600, 900), "white"), 80
        for text, size in lines:
            ImageDraw.Draw(image).text((100, at), text, fill="black", font_size=size)
            at += 2 * size
        written = BytesIO()
        image.save(written, "JPEG")
        return written.getvalue()

    slide = read_picture(jpeg(("Panes on the north side", 72), ("Delivered: 140", 36), ("Broken: 4", 36), ("Still to come: 22", 36)))
    assert slide.title == "Panes on the north side" and "Broken: 4" in slide.text
    assert read_picture(jpeg(*((f"A line of a long letter, number {number}", 34) for number in range(8)))).title == ""
    assert read_picture(b"no picture") == Legible()
