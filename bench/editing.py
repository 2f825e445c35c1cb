"""A line corrected in a record of three hours (4,000 turns): opening it, and from a key to the next picture on the screen."""

from __future__ import annotations

import statistics

from playwright.sync_api import Page, sync_playwright

from bench.house import running
from bench.tables import table
from bench.views import MAREN, enter, three_hours, useful_paint
from tests.live import CHROMIUM, FLAGS, Client

_TYPED = "and this is what was really said, word for word"

# From the press to the frame after next, by which what it changed has been drawn.
_WATCH = """() => {
    window.took = [];
    window.addEventListener("keydown", (event) => {
        const began = event.timeStamp;
        requestAnimationFrame(() => requestAnimationFrame(() => window.took.push(performance.now() - began)));
    }, true);
}"""


def run() -> None:
    """Print medians and worst; the baseline is the same in a meeting of five minutes."""
    with running("bench") as house:
        house.manage("load_demo")
        house.start_worker()
        (house.folder / "long.vtt").write_text(three_hours(), encoding="utf-8")
        maren = Client(house, MAREN)
        long = maren.give(house.folder / "long.vtt")
        assert maren.ready(long, 300)["state"] == "ready"
        short = str(house.rows("select id from meetings_meeting where title like 'What happened%%'")[0][0])
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
            page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
            page.goto(house.url)
            enter(page)
            rows, base = [], None
            for name, meeting, line in (("five minutes", short, 3), ("three hours", long, 2000)):
                opened = statistics.median(useful_paint(page, f"{house.url}/meetings/{meeting}?line={line}", "spread") for _ in range(5))
                keys = _keystrokes(page, line)
                middle = statistics.median(keys)
                base = base or (opened, middle)
                rows.append(
                    [name, f"{opened:.0f}", f"{opened / base[0]:.1f}", f"{middle:.0f}", f"{max(keys):.0f}", f"{middle / base[1]:.1f}"]
                )
            browser.close()
        print(table(["record", "opening ms", "ratio", "keystroke, median ms", "worst ms", "ratio"], rows))


def _keystrokes(page: Page, line: int) -> list[float]:
    page.locator(f"[data-line='{line}']").focus()
    page.keyboard.press("e")
    page.get_by_role("textbox", name=f"Line {line}").wait_for()
    page.evaluate(_WATCH)
    for sign in _TYPED:
        page.keyboard.press("Space" if sign == " " else sign)
        page.wait_for_timeout(60)
    took = page.evaluate("window.took")
    page.keyboard.press("Escape")
    return took
