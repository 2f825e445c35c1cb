from __future__ import annotations

import os
from contextlib import suppress

import pytest
from playwright.sync_api import expect, sync_playwright

from house.postgres import Cluster
from tests.live import CHROMIUM, FLAGS, PASSWORD, House, until

# How long something takes is a matter of the machine and of what else runs on it; only that it comes to it is tested here.
expect.set_options(timeout=30_000)

RUNNING: list[House] = []
"""Those that have workers."""


@pytest.fixture(scope="session")
def house(tmp_path_factory):
    running = House(Cluster("test-postgres", durable=False), "browser", tmp_path_factory.mktemp("browser"))
    running.load_people()
    running.start_worker()
    RUNNING.append(running)
    yield running
    running.close()


@pytest.fixture(scope="module", autouse=True)
def at_rest():
    """What one file of tests has left to do is done before the next one begins, so that they do not slow each other."""
    yield
    for running in RUNNING:
        with suppress(TimeoutError):
            until(lambda running=running: not running.rows("select 1 from procrastinate_jobs where status = 'doing' and task_name <> 'listen'"), 120)


@pytest.fixture(scope="session")
def demo_house(tmp_path_factory):
    """With the demo loaded, and no worker: nothing changes behind a test's back."""
    running = House(Cluster("test-postgres", durable=False), "browser_demo", tmp_path_factory.mktemp("demo"))
    running.manage("load_demo")
    yield running
    running.close()


@pytest.fixture(scope="session")
def playwright():
    # Playwright's own loop and Django's guard against calls from a loop do not know of each other.
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"
    with sync_playwright() as running:
        yield running


@pytest.fixture(scope="session")
def chromium(playwright):
    browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
    yield browser
    browser.close()


@pytest.fixture
def enter(chromium):
    """A page in which somebody has signed in through the form; errors in the console fail the test."""
    contexts, complaints = [], []

    def go(house: House, email: str, size=(1280, 800), to: str = "/"):
        context = chromium.new_context(viewport={"width": size[0], "height": size[1]}, timezone_id="Europe/London", locale="en-GB")
        contexts.append(context)
        page = context.new_page()
        page.on("pageerror", lambda error: complaints.append(str(error)))
        page.on(
            "console",
            lambda message: (
                complaints.append(message.text) if message.type == "error" and "Failed to load resource" not in message.text else None
            ),
        )
        page.goto(house.url + to)
        page.get_by_label("E-mail").fill(email)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        expect(page.get_by_role("navigation", name="Main")).to_be_visible()
        return page

    yield go
    for context in contexts:
        context.close()
    assert complaints == []
