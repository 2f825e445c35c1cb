"""The record listened along, marked, commented, cut into excerpts, struck: by the words that are chosen in it."""

from __future__ import annotations

import re
import subprocess
from urllib.parse import quote

from playwright.sync_api import Page, expect

from core.media import probe
from core.problems import InputProblem
from house.postgres import postgres_programs
from tests.browser.test_record import line, press
from tests.browser.test_views import MAREN, meeting_id, serious
from tests.live import Client, until

FROST = "What happened on the frost night"
BAR = "With this passage"


def open_frost(house, enter, who: str = MAREN) -> Page:
    return enter(house, who, to=f"/meetings/{meeting_id(house, FROST)}")


def test_the_record_is_listened_along_by_keys(demo_house, enter):
    page = open_frost(demo_house, enter)
    line(page, 3).dblclick()
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    said = page.locator("[data-line] .bg-brass\\/45")
    expect(said).to_have_count(1)
    first = said.inner_text()
    expect(said).not_to_have_text(first)  # it moves on with the sound
    page.locator("body").press("+")
    expect(page.get_by_label("Speed")).to_have_value("1.25")
    page.locator("body").press("Space")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    slider = page.get_by_role("slider", name="Position in the recording")
    at = slider.get_attribute("aria-valuetext")
    page.locator("body").press(".")
    page.locator("body").press(".")
    expect(slider).not_to_have_attribute("aria-valuetext", at)
    page.get_by_role("checkbox", name="Pass over silences").check()
    place = slider.get_attribute("aria-valuetext")
    page.goto(page.url.split("?")[0])  # one comes back to where one was
    expect(slider).to_have_attribute("aria-valuetext", place)
    expect(page.get_by_role("checkbox", name="Pass over silences")).to_be_checked()


def test_lenses_leave_what_one_looks_for(demo_house, enter):
    page = open_frost(demo_house, enter)
    lens = page.get_by_label("Show")
    everything = page.locator("[data-line]").count()
    lens.select_option("actions")
    counted = page.get_by_text(re.compile(r"^\d+ lines?$"))
    expect(counted).to_be_visible()
    assert 0 < page.locator("[data-line]").count() <= int(counted.inner_text().split()[0]) < everything + 200
    lens.select_option(label="figures")
    lens.select_option("all")
    expect(page.locator("[data-line='1']")).to_be_visible()


def test_a_passage_is_marked_by_key_commented_and_answered(demo_house, enter):
    page, other = open_frost(demo_house, enter), open_frost(demo_house, enter, "idris@larkmoor.example")
    stop_at(page, 2)
    page.locator("body").press("k")
    expect(page.get_by_text("Marked: Important.").first).to_be_visible()
    expect(other.get_by_text(re.compile("^Important, Maren"))).to_be_visible()
    page.locator("body").press("n")
    leaf = page.get_by_role("dialog")
    leaf.get_by_label("Mention a colleague").select_option("Idris Quaye")
    expect(leaf.get_by_label("Comment")).to_have_value("@Idris Quaye ")
    leaf.get_by_label("Comment").press_sequentially("was it you?")
    assert serious(page) == []
    leaf.get_by_role("button", name="Say it").click()
    expect(other.get_by_text("was it you?")).to_be_visible()
    other.goto(demo_house.url)
    other.get_by_role("link", name=re.compile("mentions you in")).click()
    other.get_by_role("button", name="Answer", exact=True).click()
    other.get_by_role("dialog").get_by_label("Comment").fill("It was the other pump.")
    other.get_by_role("button", name="Say it").click()
    for one in (page, other):
        one.mouse.move(1, 1)  # off the minutes, which show what they rest on where the pointer is
        one.goto(page.url)
    expect(page.get_by_text("It was the other pump.")).to_be_visible()
    page.get_by_role("toolbar", name=BAR).get_by_role("button", name="In a word").click()
    page.get_by_role("menuitem", name="Doubtful").click()
    expect(other.get_by_text(re.compile("^Doubtful"))).to_be_visible()


def test_an_action_of_ones_own_stands_with_its_lines(demo_house, enter):
    page = open_frost(demo_house, enter)
    stop_at(page, 4)
    page.locator("body").press("d")
    leaf = page.get_by_role("dialog")
    leaf.get_by_label("What is to be done").fill("Look at the standby pump")
    leaf.get_by_label("Who does it").select_option("Idris Quaye")
    leaf.get_by_role("button", name="Put it in the minutes").click()
    row = page.get_by_role("listitem").filter(has_text="Look at the standby pump")
    expect(row.get_by_role("button", name=re.compile("^Hear it at"))).to_be_visible()


def choose(page: Page, number: int) -> None:
    """Select all words of a line, as with the pointer."""
    page.evaluate("number => getSelection().selectAllChildren(document.querySelector(`[data-line='${number}']`))", number)


def stop_at(page: Page, number: int) -> None:
    """Choose a line, which plays nothing."""
    press(page, number)
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    expect(page.get_by_role("toolbar", name=BAR)).to_be_visible()


def test_an_excerpt_is_shared_with_a_colleague_who_cannot_open_the_rest(demo_house, enter):
    meeting = meeting_id(demo_house, FROST)
    demo_house.python(f"from server.meetings.models import Meeting; Meeting.objects.filter(pk='{meeting}').update(visibility='mine')")
    page, other = open_frost(demo_house, enter), enter(demo_house, "yuki@larkmoor.example")
    text = line(page, 5).inner_text()
    choose(page, 5)
    page.get_by_role("toolbar", name=BAR).get_by_role("button", name="Excerpt").click()
    leaf = page.get_by_role("dialog")
    leaf.get_by_label("Title").fill("The moment itself")
    assert serious(page) == []
    leaf.get_by_label(re.compile("^Ends with")).press("ArrowLeft")  # a word less
    leaf.get_by_role("button", name="Cut it").click()
    page.wait_for_url("**/excerpts/*")
    expect(page.get_by_role("article")).to_contain_text(" ".join(text.split()[:-1]))
    expect(page.get_by_role("article")).not_to_contain_text(text)
    page.get_by_role("radio", name="These colleagues as well").check()
    page.get_by_role("checkbox", name="Yuki Hanamori").check()
    page.get_by_role("button", name="Share it so").click()
    expect(page.get_by_text("Shared.").first).to_be_visible()
    assert serious(page) == []
    other.goto(page.url)
    expect(other.get_by_role("heading", name="The moment itself")).to_be_visible()
    other.get_by_role("button", name="Play", exact=True).click()
    expect(other.get_by_role("button", name="Pause")).to_be_visible()
    assert FROST not in other.content() and meeting not in other.content()
    other.goto(f"{demo_house.url}/meetings/{meeting}")
    expect(other.get_by_text("There is no such meeting, or it is not shared with you.")).to_be_visible()
    demo_house.python(f"from server.meetings.models import Meeting; Meeting.objects.filter(pk='{meeting}').update(visibility='workspace')")
    page.get_by_label("Title of the sequence").fill("Of the week")
    page.get_by_role("button", name="Make it").click()
    page.goto(f"{demo_house.url}/excerpts")
    page.get_by_role("link", name=re.compile("Of the week")).click()
    page.get_by_role("button", name="Play all in a row").click()
    expect(page.get_by_role("listitem").filter(has_text="The moment itself")).to_have_attribute("aria-current", "true")
    assert serious(page) == []
    expect(page.get_by_role("button", name="Play all in a row")).to_be_visible(timeout=40_000)  # it ends by itself


def dump(house) -> str:
    """What pg_dump takes out of the database."""
    command = [postgres_programs() / "pg_dump", "--data-only"]
    return subprocess.run(command, env=house.settings, capture_output=True, text=True, check=True).stdout


def grams(text: str) -> set[tuple[str, ...]]:
    """Every three words of a text that follow each other."""
    words = re.findall(r"[a-z0-9']+", text.lower())
    return set(zip(words, words[1:], words[2:], strict=False))


def test_a_struck_sentence_is_nowhere_any_more(house, enter, talk, ear, tmp_path):
    maren = Client(house, MAREN)
    before = dump(house)  # other tests' meetings hold the same talk
    meeting = maren.give(talk, title="Strike me", language="en", again=True)
    assert maren.ready(meeting, 240)["state"] == "ready"
    at = f"/api/meetings/{meeting}"
    lines = [one for turn in maren.call("GET", f"{at}/record").json()["turns"] for one in turn["lines"]]
    target = max(lines[2:-2], key=lambda one: len(one["text"]))
    secret = target["text"]
    for path, data in (
        ("notes", {"text": f"They said: {secret}", "at": target["start"]}),
        ("comments", {"text": f"“{secret}”, really?", "start": target["start"], "end": target["end"]}),
        ("minutes/lines", {"section": "decisions", "text": secret, "lines": [target["number"]]}),
        ("excerpts", {"title": "Both", "start": max(0, target["start"] - 5), "end": target["end"] + 5}),
        ("questions", {"text": secret[:300]}),
    ):
        assert maren.call("POST", f"{at}/{path}", data).status == 201, path
    excerpt = maren.call("GET", f"{at}/excerpts").json()[0]["id"]
    assert maren.call("GET", f"/api/excerpts/{excerpt}/sound").status == 200  # its file is cut now

    page = enter(house, MAREN, to=f"/meetings/{meeting}?line={target['number']}")
    page.get_by_role("toolbar", name=BAR).get_by_role("button", name="Strike").click()
    leaf = page.get_by_role("dialog")
    expect(leaf.get_by_text("One's own", exact=False).or_(leaf.get_by_text("People's own words that rest on it"))).to_be_visible()
    assert serious(page) == []
    leaf.get_by_label(re.compile("^Type your name")).fill("Maren Tollefsen")
    leaf.get_by_role("button", name="Strike for good").click()
    expect(page.get_by_text(re.compile("^Struck: ")).first).to_be_visible()
    # At once nothing of it is to be read, and the sound is withheld until it has been written anew.
    expect(page.get_by_text(secret, exact=True)).to_have_count(0)
    until(lambda: maren.call("GET", at).json()["recording"]["playable"], 120)
    assert maren.ready(meeting, 240)["state"] == "ready"

    runs = [secret, " ".join(secret.split()[:6]), " ".join(secret.split()[-6:])]
    after = dump(house)
    assert [after.count(run) for run in runs] == [before.count(run) for run in runs]
    files = [path for path in (house.folder / "media").rglob("*") if path.is_file() and meeting in str(path)]
    assert files and not any(run.encode() in path.read_bytes() for path in files for run in runs)
    others = {gram for one in lines if one is not target for gram in grams(one["text"])}
    own = grams(secret) - others  # what is said here and nowhere else in it
    assert own
    for path in files:
        try:
            probe(path)
        except InputProblem:
            continue
        again = ear.hear(path, "en").record.turns
        assert not own & {gram for turn in again for gram in grams(turn.text)}, path.name
        if "excerpts" not in path.parts:
            inside = [
                word.text
                for turn in again
                for word in turn.words
                if target["start"] + 0.3 < (word.start + word.end) / 2 < target["end"] - 0.3
            ]
            assert inside == [], f"{path.name}: heard where it is struck"
    for form in ("txt", "md", "vtt", "srt", "csv", "json"):
        assert not any(run.encode() in maren.call("GET", f"{at}/record.{form}").body for run in runs)
    assert maren.call("GET", f"/api/excerpts/{excerpt}/sound").status == 200  # cut anew, of what is left
    found = maren.call("GET", f"/api/search?q={quote(chr(34) + ' '.join(sorted(own)[0]) + chr(34))}").json()
    assert all(hits["meeting"]["id"] != meeting for hits in found["meetings"])
