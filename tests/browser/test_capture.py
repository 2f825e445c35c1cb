"""Capture in a browser whose microphone is fed from a file: what was on the record is all there, and nothing else is."""

from __future__ import annotations

import re
from itertools import pairwise

import numpy as np
import pytest
from playwright.sync_api import Page, expect
from scipy.signal import resample_poly

from core.media import RATE, decode, open_sound
from core.media.chunks import CAPTURE_RATE, read_flac
from standins.mail import messages
from tests.live import CHROMIUM, FLAGS, PASSWORD, Client, until
from tests.places import offsets

FED = ["--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream"]


@pytest.fixture(scope="module")
def fed(tmp_path_factory):
    """The first 90 seconds of a demo meeting as a file for the microphone, and its words with their times."""
    from tests.conftest import ROOT
    from tests.sounds import write_wav

    folder = tmp_path_factory.mktemp("fed")
    decode(ROOT / "demo/sound/08-heating-call.opus", folder / "whole.wav")
    write_wav(folder / "fed.wav", np.asarray(open_sound(folder / "whole.wav")[: 90 * RATE]))
    return folder / "fed.wav"


@pytest.fixture(scope="module", autouse=True)
def live(house):
    """A worker that hears captures while they go on."""
    return house.start_live()


@pytest.fixture
def microphone(playwright):
    """Opens a browser whose microphone plays a file; sign-in included."""
    open_ones = []

    def go(house, wav, email="maren@larkmoor.example", size=(1280, 800), flags=(), script="", served=()) -> Page:
        browser = playwright.chromium.launch(
            executable_path=CHROMIUM, args=[*FLAGS, *FED, *flags, f"--use-file-for-fake-audio-capture={wav}%noloop"]
        )
        open_ones.append(browser)
        context = browser.new_context(
            viewport={"width": size[0], "height": size[1]}, locale="en-GB", permissions=["microphone"], timezone_id="Europe/London"
        )
        context.add_init_script(script)
        for path, file in dict(served).items():
            context.route(f"**{path}", lambda route, _, file=file: route.fulfill(path=file))
        page = context.new_page()
        page.goto(house.url + "/capture")
        page.get_by_label("E-mail").fill(email)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        expect(page.get_by_role("button", name="Begin")).to_be_enabled()
        return page

    yield go
    for browser in open_ones:
        browser.close()


def begin(page: Page, title: str) -> str:
    """On the record; the meeting's id."""
    page.get_by_label("What is it?").fill(title)
    page.get_by_role("button", name="Begin").click()
    page.get_by_role("button", name="I have told them").click()
    expect(page.get_by_text("On the record", exact=True)).to_be_visible()
    return page.url.rsplit("/", 1)[1]


def go_on(page: Page, seconds: int) -> None:
    """Wait until so many more seconds are on the record, by the page's own clock; how long that takes is a matter of the machine."""
    clock = page.get_by_role("status").filter(has_text="On the record")

    def at() -> int:
        minutes, seconds = re.search(r"(\d+):(\d\d)$", clock.inner_text()).groups()
        return int(minutes) * 60 + int(seconds)

    end = at() + seconds
    until(lambda: at() >= end, 60)


def stop(page: Page) -> None:
    page.get_by_role("button", name="Stop", exact=True).click()
    page.get_by_role("dialog").get_by_role("button", name="Stop", exact=True).click()


def worked(owner: Client, meeting: str) -> None:
    """Wait until the work on a meeting is done. How long that takes is a matter of what else the one worker has to do."""
    seen = {}

    def over() -> bool:
        seen.update(owner.call("GET", f"/api/meetings/{meeting}/progress").json())
        return seen["state"] in ("ready", "failed")

    try:
        until(over, 240, 0.5)
    except TimeoutError as error:
        raise AssertionError(f"still {seen}") from error
    assert seen["state"] == "ready", seen


def captured(house, meeting: str) -> np.ndarray:
    [(name,)] = until(lambda: house.rows("select original from capture_recording where meeting_id = %s and original <> ''", meeting), 30)
    return np.concatenate([block[:, 0] for block in read_flac(house.folder / "media" / name)])


IN_STEP = """
// The tap gets the file in step with its own clock. Chromium's fed microphone goes by timers, and leaves out pieces on a busy machine.
fetch("/fed.wav")
  .then((answer) => answer.arrayBuffer())
  .then((data) => new OfflineAudioContext(1, 1, 48000).decodeAudioData(data))
  .then((sound) => (window.fed = sound));
AudioContext.prototype.createMediaStreamSource = function () {
  const source = this.createBufferSource();
  source.buffer = window.fed;
  window.began ??= Date.now();
  source.start(0, (Date.now() - window.began) / 1000);
  return source;
};
"""


def test_a_minute_with_a_pause_and_a_server_restart(house, microphone, fed):
    page = microphone(house, fed, script=IN_STEP, served={"/fed.wav": fed})
    page.wait_for_function("window.fed")
    meeting = begin(page, "Heating, captured")

    # Words appear while people speak; a note is written beside them.
    expect(page.get_by_role("region", name="Live record").get_by_text(re.compile("drawings", re.I)).first).to_be_visible()
    page.get_by_label("Write a note").fill("Ask about the grant")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Ask about the grant")).to_be_visible()
    page.wait_for_timeout(6000)

    # Off the record: somebody else who looks sees it too.
    page.get_by_role("button", name="Off the record", exact=True).click()
    expect(page.get_by_role("button", name="On the record again")).to_be_visible()
    owner = Client(house, "maren@larkmoor.example")
    until(lambda: owner.call("GET", f"/api/meetings/{meeting}/live").json()["state"] == "off", 15)
    page.wait_for_timeout(12_000)
    page.get_by_role("button", name="On the record again").click()
    page.wait_for_timeout(10_000)

    # The server dies and comes back; the seconds wait on the device.
    house.kill(house.web)
    expect(page.get_by_text(re.compile("No connection"))).to_be_visible()
    page.wait_for_timeout(3000)
    house.start_web()
    expect(page.get_by_text(re.compile("No connection"))).to_be_hidden()
    page.wait_for_timeout(6000)
    stop(page)
    expect(page.get_by_role("heading", name="Record", exact=True)).to_be_visible(timeout=90_000)

    # Every second on the record is there, in its place, and nothing of the pause.
    sound = captured(house, meeting)
    source = np.asarray(open_sound(fed))
    source = resample_poly(source.astype(np.float64), CAPTURE_RATE, RATE)
    stretches = house.rows(
        "select s.samples, extract(epoch from s.begun_at)::float8, s.ended_by from capture_stretch s"
        " join capture_capture c on c.id = s.capture_id where c.meeting_id = %s order by number",
        meeting,
    )
    # A machine that stands still for seconds breaks a stretch in two; nothing is missing within one, and what is between them is told.
    reasons = [why for _, _, why in stretches]
    assert reasons.count("pause") == 1 and reasons[-1] == "stop" and set(reasons) <= {"pause", "sleep", "stop"}
    assert sum(samples for samples, _, _ in stretches) == len(sound) > 20 * CAPTURE_RATE
    begins, spans, origin = 0, [], None  # where in the file the capture began: the page may have listened before
    for samples, at, _ in stretches:
        lags = offsets(sound[begins : begins + samples], source)
        if lags:
            assert max(lags) - min(lags) <= 2, "seconds are missing inside a stretch"
            origin = lags[0] / CAPTURE_RATE - at if origin is None else origin
            assert abs(lags[0] / CAPTURE_RATE - at - origin) < 2, "a stretch is not where it is said to be"
        start = lags[0] / CAPTURE_RATE if lags else at + (origin or 0.0)
        spans.append((start, start + samples / CAPTURE_RATE))
        begins += samples
    paused = reasons.index("pause")
    off, on = spans[paused][1], spans[paused + 1][0]
    assert on - off > 10, "the pause was not left out"

    # And by words: the record says what was said in those spans, and nothing that was said only in the pause.
    reference = house_words(fed)
    heard = re.findall(
        r"[a-z']+", " ".join(text for (text,) in house.rows("select text from record_line where meeting_id = %s", meeting)).lower()
    )
    inside = [word for word, at in reference if any(start + 0.5 < at < end - 0.5 for start, end in spans)]
    assert sum(word in heard for word in inside) / len(inside) > 0.85
    only_paused = {word for word, at in reference if off + 0.5 < at < on - 0.5 and len(word) > 4} - {
        word for word, at in reference if not off + 0.5 < at < on - 0.5
    }
    assert only_paused and not only_paused & set(heard)
    # The note stands where it was, the gap is known, and the full record has taken the place of the live lines.
    assert owner.call("GET", f"/api/meetings/{meeting}/live").json()["lines"] == []
    seen = owner.call("GET", f"/api/meetings/{meeting}").json()
    assert [gap["reason"] for gap in seen["gaps"]] == reasons[:-1]
    assert all(abs(gap["length"] - (after[0] - before[1])) < 2 for gap, (before, after) in zip(seen["gaps"], pairwise(spans), strict=True))
    [note] = owner.call("GET", f"/api/meetings/{meeting}/notes").json()["notes"]
    assert note["text"] == "Ask about the grant" and note["at"] < sum(end - start for start, end in spans[: paused + 1])


def house_words(fed) -> list[tuple[str, float]]:
    """The words of the fed file with the middle of their times, as a hearing of the file itself has them."""
    from core.hearing import Ear
    from tests.conftest import MODELS

    record = Ear(MODELS).hear(fed).record
    return [(re.sub(r"[^a-z']", "", word.text.lower()), (word.start + word.end) / 2) for turn in record.turns for word in turn.words]


def test_struck_back_and_cut_off(house, microphone, fed):
    """The last two minutes are struck; then the page dies, and what it had is finished from another."""
    page = microphone(house, fed)
    meeting = begin(page, "Struck and cut off")
    go_on(page, 5)
    page.get_by_role("button", name="Off, and the last two minutes too").click()
    page.get_by_role("button", name="Strike them").click()
    expect(page.get_by_text(re.compile("struck. It is gone for good")).first).to_be_visible()
    until(lambda: house.rows("select 1 from capture_struck"), 10)
    [(left,)] = house.rows("select coalesce(sum(length(data)), 0) from capture_chunk")
    assert left == 0
    page.get_by_role("button", name="On the record again").click()
    go_on(page, 5)
    context = page.context
    page.close(run_before_unload=False)
    again = context.new_page()
    again.goto(house.url)
    expect(again.get_by_text(re.compile("was cut off while it was being captured"))).to_be_visible()
    again.goto(house.url + "/capture")
    again.get_by_role("button", name="Finish it").click()
    owner = Client(house, "maren@larkmoor.example")  # once: whoever signs in again and again is told to wait
    worked(owner, meeting)
    stretches = house.rows(
        "select s.samples from capture_stretch s join capture_capture c on c.id = s.capture_id where c.meeting_id = %s order by number", meeting
    )
    assert stretches[0] == (0,) and 4 * CAPTURE_RATE <= stretches[1][0] == len(captured(house, meeting))


def test_a_reload_during_a_capture_is_gone_on_from_where_one_is(house, microphone, fed):
    page = microphone(house, fed)
    meeting = begin(page, "Reloaded")
    go_on(page, 4)
    page.once("dialog", lambda dialog: dialog.accept())  # the browser asks whether to leave a page that captures
    page.reload()
    expect(page.get_by_text("was reloaded or closed while it captured")).to_be_visible()
    expect(page.get_by_text("captured on another device")).to_have_count(0)
    page.get_by_role("button", name="Go on with it").click()
    expect(page.get_by_text("On the record", exact=True)).to_be_visible()
    go_on(page, 3)
    stop(page)
    worked(Client(house, "maren@larkmoor.example"), meeting)
    assert len(captured(house, meeting)) >= 6 * CAPTURE_RATE
    stretches = house.rows(
        "select ended_by from capture_stretch s join capture_capture c on c.id = s.capture_id where c.meeting_id = %s order by number", meeting
    )
    assert stretches == [("cut off",), ("stop",)]


def test_a_reload_during_the_question_of_the_notice_asks_it_again_and_leaves_no_orphan(house, microphone, fed):
    page = microphone(house, fed)
    page.get_by_label("What is it?").fill("Asked twice")
    page.get_by_role("button", name="Begin").click()
    expect(page.get_by_role("dialog", name="Have people been told?")).to_be_visible()
    page.reload()
    question = page.get_by_role("dialog", name="Have people been told?")
    expect(question).to_be_visible()
    question.get_by_role("button", name="Not now").click()
    until(lambda: not house.rows("select 1 from meetings_meeting where title = 'Asked twice' and removed_at is null"), 10)
    # Whoever closed the browser instead finds it on the meeting's page, and can throw it away.
    page.get_by_label("What is it?").fill("Left in the question")
    page.get_by_role("button", name="Begin").click()
    expect(question).to_be_visible()
    page.evaluate("sessionStorage.clear()")
    [(left,)] = house.rows("select id from meetings_meeting where title = 'Left in the question'")
    page.goto(f"{house.url}/meetings/{left}")
    expect(page.get_by_text("Nothing has been captured of this meeting.")).to_be_visible()
    page.get_by_role("button", name="Throw it away").click()
    until(lambda: not house.rows("select 1 from meetings_meeting where title = 'Left in the question' and removed_at is null"), 10)


def test_no_microphone_is_said(house, enter):
    page = enter(house, "maren@larkmoor.example", to="/capture")
    expect(page.get_by_role("alert")).to_contain_text(re.compile("microphone", re.I))


def test_rehearsal_says_what_works_and_leaves_nothing(house, microphone, fed):
    page = microphone(house, fed)
    page.get_by_role("link", name="Rehearse first").click()
    page.get_by_role("button", name="Begin the rehearsal").click()
    expect(page.get_by_text(re.compile("Heard: “"))).to_be_visible()
    for said in ("It answers.", "Your voice is well above the background.", "A second of sound takes"):
        expect(page.get_by_text(re.compile(re.escape(said)))).to_be_visible()
    page.get_by_role("button", name="That is enough").click()
    expect(page.get_by_role("button", name="Rehearse again")).to_be_visible()
    until(lambda: house.rows("select count(*) from meetings_meeting where place = 'rehearsal'") == [(0,)], 10)
    page.get_by_role("link", name="Today").click()
    expect(page.get_by_role("heading", name="Today")).to_be_visible()
    expect(page.get_by_text("Rehearsal")).to_have_count(0)


def test_a_memo_reaches_a_colleague_who_answers(house, microphone, fed, enter):
    page = microphone(house, fed)
    page.get_by_role("link", name="A memo to colleagues").click()
    page.get_by_role("combobox", name="To whom").fill("Yuki Hanamori")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Begin").click()
    expect(page.get_by_text("On the record", exact=True)).to_be_visible()
    go_on(page, 6)
    stop(page)
    expect(page.get_by_role("heading", name="Record", exact=True)).to_be_visible(timeout=60_000)
    address = page.url
    mail = until(lambda: [m for m in messages(house.mail) if "spoken a memo to you" in str(m["subject"])], 20)
    assert str(mail[0]["to"]) == "yuki@larkmoor.example" and address in mail[0].get_body(("plain",)).get_content()
    yuki = enter(house, "yuki@larkmoor.example", to=address.removeprefix(house.url))
    expect(yuki.get_by_role("region", name="Record").get_by_text(re.compile("hear me", re.I))).to_be_visible()
    yuki.get_by_label("Write a note").fill("Thank you, I'll ask him")
    yuki.get_by_role("checkbox", name="Share").check()
    yuki.get_by_role("region", name="Notes").get_by_role("button", name="Add").click()
    expect(page.get_by_text("Thank you, I'll ask him")).to_be_visible()


def test_people_in_the_room_answer_the_notice_and_read_captions(house, microphone, fed, enter):
    page = microphone(house, fed)
    page.get_by_label("What is it?").fill("Notice shown")
    page.get_by_role("button", name="Begin").click()
    page.get_by_role("button", name="Show it as a page").click()
    expect(page.get_by_role("img", name="QR code of the page with the notice")).to_be_visible()
    shown = page.get_by_role("link", name="Open the page").get_attribute("href")
    visitor = enter(house, "idris@larkmoor.example")  # any browser; the page asks for no sign-in
    visitor.context.clear_cookies()
    visitor.goto(house.url + shown)
    expect(visitor.get_by_role("status")).to_contain_text("Off the record now")
    visitor.get_by_role("button", name="español").click()
    expect(visitor.get_by_text("Guardamos un registro")).to_be_visible()
    visitor.get_by_label("Your name").fill("Ana Ruiz")
    visitor.get_by_role("button", name="I agree").click()
    expect(visitor.get_by_text("Your answer is kept")).to_be_visible()
    expect(page.get_by_text("Ana Ruiz")).to_be_visible()
    page.get_by_role("dialog").get_by_role("button", name="Begin").click()
    expect(visitor.get_by_text("On the record now")).to_be_visible()
    captions = page.context.new_page()
    captions.goto(page.url + "/captions?language=es")
    expect(captions.get_by_text(re.compile("micrófono", re.I))).to_be_visible()
    captions.close()
    page.bring_to_front()
    stop(page)


def test_several_files_at_once_go_on_while_one_is_elsewhere(house, enter, tmp_path):
    paths = []
    for name, said in (
        ("2026-10-05 09.30 Morning round.txt", "Maren: We met by the gate."),
        ("second.srt", "1\n00:00:01,000 --> 00:00:03,000\nYuki: Later, then.\n"),
    ):
        (tmp_path / name).write_text(said, encoding="utf-8")
        paths.append(tmp_path / name)
    page = enter(house, "maren@larkmoor.example", to="/give")
    page.set_input_files("input[type=file]", paths)
    expect(page.get_by_text("These 2 files are")).to_be_visible()
    page.get_by_role("link", name="Today").click()
    expect(page.get_by_text("2 files have arrived.")).to_be_visible()
    page.get_by_role("status").get_by_role("link", name="Open").click()
    first = page.get_by_role("form", name="2026-10-05 09.30 Morning round.txt")
    expect(first.get_by_label("What was it?")).to_have_value("Morning round")
    expect(first.get_by_label("When did it begin?")).to_have_value("2026-10-05T09:30")
    first.get_by_role("button", name="Take it in").click()
    page.get_by_role("status").get_by_role("link", name="Morning round").click()
    expect(page.get_by_text("those shown are estimated")).to_be_visible()


def test_a_screen_with_its_sound(house, microphone, fed):
    page = microphone(house, fed, flags=["--auto-accept-this-tab-capture"])
    page.get_by_label("The room and a screen, with its sound").check()
    meeting = begin(page, "Two tracks and a screen")
    go_on(page, 4)
    page.keyboard.press("o")
    expect(page.get_by_text("Off the record", exact=False).first).to_be_visible()
    page.get_by_role("button", name="Notice").click()  # seen by nobody: it is off the record
    page.wait_for_timeout(2500)
    page.get_by_role("button", name="Close").click()
    page.wait_for_timeout(1500)
    page.keyboard.press("o")
    go_on(page, 3)
    stop(page)
    owner = Client(house, "maren@larkmoor.example")  # once: whoever signs in again and again is told to wait
    worked(owner, meeting)
    [(name,)] = until(lambda: house.rows("select original from capture_recording where meeting_id = %s and original <> ''", meeting), 30)
    both = np.concatenate(list(read_flac(house.folder / "media" / name))).astype(float)
    # With devices fed from a file Chromium feeds the shared tab from it, too; what each track holds is known only to be sound.
    assert both.shape[1] == 2 and np.abs(both[:, 0]).mean() > 50 and np.abs(both[:, 1]).mean() > 50
    assert (
        house.rows("select tracks from capture_stretch s join capture_capture c on c.id = s.capture_id where c.meeting_id = %s", meeting)
        == [(["room", "computer"],)] * 2
    )
    # Each stretch begins with a picture; they lie within what was on the record, in step with the sound.
    pictures = owner.call("GET", f"/api/meetings/{meeting}/pictures").json()
    begun = house.rows("select stretch_id from capture_picture where at < 60000 group by stretch_id")
    assert len(begun) == 2 and pictures[0]["start"] < 2.5 and pictures[-1]["start"] < len(both) / CAPTURE_RATE
    shown = page.get_by_role("figure", name="Screen").get_by_role("img")
    expect(shown).to_be_visible()
    assert shown.evaluate("image => image.decode().then(() => image.naturalWidth)") > 600


PATCHED = """
const asked = navigator.mediaDevices.getUserMedia.bind(navigator.mediaDevices);
navigator.mediaDevices.getUserMedia = async (wanted) => (window.microphone = await asked(wanted));
const start = AudioContext.prototype.resume;
AudioContext.prototype.resume = function () {
  window.thread = this;
  return start.call(this);
};
const add = IDBObjectStore.prototype.add;
IDBObjectStore.prototype.add = function (...given) {
  if (window.noRoom) throw new DOMException("no room", "QuotaExceededError");
  return add.apply(this, given);
};
"""


def test_troubles_on_the_way(house, microphone, fed):
    """The microphone unplugged, the device full, then asleep: each is said, and what was captured is kept."""
    page = microphone(house, fed, script=PATCHED)
    meeting = begin(page, "Troubles")
    said = page.get_by_role("alert")
    go_on(page, 2)
    page.evaluate("const [track] = microphone.getTracks(); track.stop(); track.dispatchEvent(new Event('ended'))")
    expect(said).to_contain_text("The microphone is gone")
    page.get_by_role("button", name="On the record again").click()
    go_on(page, 2)
    page.evaluate("window.noRoom = true")
    expect(said).to_contain_text("no room left")
    page.evaluate("window.noRoom = false")
    expect(said).to_have_count(0)
    go_on(page, 2)
    # Asleep, and without a server: what it needs to go on is there.
    house.kill(house.web)
    page.evaluate("thread.suspend()")
    page.wait_for_timeout(4000)
    page.evaluate("thread.resume()")
    expect(said).to_contain_text("slept for a while")
    go_on(page, 3)
    house.start_web()
    expect(page.get_by_text(re.compile("No connection"))).to_be_hidden()
    stop(page)
    asked = (
        "select ended_by, s.samples from capture_stretch s join capture_capture c on c.id = s.capture_id where c.meeting_id = %s order by number"
    )
    # What waited for the server arrives in its order, the stop last.
    stretches = until(lambda: (rows := house.rows(asked, meeting)) and rows[-1][0] == "stop" and rows, 60)
    assert [why for why, _ in stretches][:2] == ["unplugged", "sleep"]
    assert all(samples > CAPTURE_RATE for _, samples in stretches), stretches


def test_silence_and_distortion_are_said_early(house, microphone, tmp_path):
    from tests.sounds import write_wav

    loud = 32767 * np.sign(np.sin(2 * np.pi * 200 * np.arange(8 * RATE) / RATE))
    write_wav(tmp_path / "loud.wav", np.concatenate([np.zeros(4 * RATE), loud, np.zeros(60 * RATE)]).astype(np.int16))
    page = microphone(house, tmp_path / "loud.wav")
    page.clock.install()
    begin(page, "Too loud, too quiet")
    said = page.get_by_role("alert")
    expect(said).to_contain_text("distorts")
    expect(said).to_have_count(0)
    page.clock.fast_forward(61_000)
    expect(said).to_contain_text("Nothing has been heard for a minute")
    page.clock.resume()
    stop(page)
