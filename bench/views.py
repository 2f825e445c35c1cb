"""First useful paint and API calls of each main view, with the demo and a three-hour meeting in the library."""

from __future__ import annotations

import statistics
import time
from pathlib import Path

from playwright.sync_api import sync_playwright

from bench.house import running
from bench.tables import table
from tests.live import CHROMIUM, FLAGS, PASSWORD, Client, House

MAREN = "maren@larkmoor.example"
_OF_MEETINGS = ("Today", "Library", "search", "Ledger", "a series", "an answer")
"""Views of which links to meetings are what is useful."""
_REST = 2500  # milliseconds after which a page no longer asks for anything


def three_hours() -> str:
    """A WebVTT transcript of 4,000 turns over three hours, from the demo's own sentences."""
    folder = Path(__file__).resolve().parent.parent / "demo" / "transcripts"
    said = [
        line for path in sorted(folder.glob("*.vtt")) for line in path.read_text(encoding="utf-8").splitlines() if line.startswith("<v ")
    ]
    cues = ["WEBVTT", ""]
    for number in range(4000):
        start, end = 2.7 * number, 2.7 * number + 2.4
        stamp = " --> ".join(f"{int(s // 3600):02}:{int(s % 3600 // 60):02}:{s % 60:06.3f}" for s in (start, end))
        cues += [stamp, said[number * 7 % len(said)], ""]
    return "\n".join(cues)


def run() -> None:
    """Print medians; the baseline of the calls is /api/health, of the paints the empty sign-in page."""
    with running("bench") as house:
        house.manage("load_demo")
        house.start_worker()
        maren = Client(house, MAREN)
        (house.folder / "long.vtt").write_text(three_hours(), encoding="utf-8")
        began = time.perf_counter()
        long = maren.give(house.folder / "long.vtt")
        state = maren.ready(long, 300)["state"]
        print(f"three hours of transcript, 4,000 turns: {state} after {time.perf_counter() - began:.1f} s\n")
        meeting = str(house.rows("select id from meetings_meeting where title like 'What happened%%'")[0][0])
        _calls(maren, meeting, long)
        _paints(house, meeting, long)


def _calls(maren: Client, meeting: str, long: str) -> None:
    paths = ["/api/health", "/api/me", "/api/today", "/api/library", "/api/search?q=boiler", "/api/choices"]
    paths += [f"/api/meetings/{one}{part}" for one in (meeting, long) for part in ("", "/record", "/minutes")]
    rows, base = [], 0.0
    for path in paths:
        times = []
        for _ in range(15):
            began = time.perf_counter()
            assert maren.call("GET", path).status == 200
            times.append((time.perf_counter() - began) * 1000)
        middle = statistics.median(times)
        base = base or middle
        named = path.replace(meeting, "frost-night").replace(long, "three-hours")
        rows.append([named, f"{middle:.0f}", f"{max(times):.0f}", f"{middle / base:.1f}"])
    print(table(["call", "median ms", "worst of 15 ms", "times /api/health"], rows))


def _paints(house: House, meeting: str, long: str) -> None:
    views = {"Today": "/", "Library": "/library", "search": "/library?q=boiler", "spread": f"/meetings/{meeting}",
             "spread, three hours": f"/meetings/{long}", "give a file": "/give", "settings": f"/meetings/{meeting}/settings", "account": "/account"}  # fmt: skip
    paints(house, views)


def paints(house: House, views: dict[str, str]) -> None:
    """Print how long it takes until each view, by its name, shows something useful, beside the empty sign-in page."""
    rows, base = [], 0.0
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
        for name, path in {"sign-in": "/sign-in", **views}.items():
            if base and len(rows) == 1:
                enter(page)
            times = [useful_paint(page, house.url + path, name) for _ in range(5)]
            middle = statistics.median(times)
            base = base or middle
            rows.append([name, f"{middle:.0f}", f"{max(times):.0f}", f"{middle / base:.1f}"])
        browser.close()
    print("\n" + table(["view", "first useful paint, median ms", "worst of 5 ms", "times sign-in"], rows))


def enter(page) -> None:
    """Sign in through the form."""
    page.get_by_label("E-mail").fill(MAREN)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="Today").wait_for()


# Looks at every frame whether what is useful is there; two frames later it has been drawn.
_USEFUL = """(useful) => new Promise((done, broken) => {
    const look = () => requestAnimationFrame(() => {
        if (performance.now() > 30_000) return broken(new Error("nothing useful is drawn"));
        if (!document.querySelector(useful)) return look();
        requestAnimationFrame(() => done(performance.now()));
    });
    look();
})"""


def useful_paint(page, address: str, name: str) -> float:
    """Milliseconds from asking for the address until the view's own content is drawn: a heading, and for a spread a line of the record.

    The page before has come to rest by then, as it has when a person goes on; and the page itself says when, since a browser that is
    asked from outside whether something is to be seen lays it out for that.
    """
    useful = "[data-line]" if name.startswith("spread") else "main a[href^='/meetings/']" if name in _OF_MEETINGS else "h1"
    page.wait_for_timeout(_REST)
    page.goto(address, wait_until="commit")
    return page.evaluate(_USEFUL, useful)
