"""Headless Chromium on the real pages: no console error and no request elsewhere may happen."""

from __future__ import annotations

import os
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, sync_playwright

FLAGS = (
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
)
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")  # Playwright runs a loop in the test's thread


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=list(FLAGS))
        yield chromium
        chromium.close()


@pytest.fixture
def expected_faults() -> list[str]:
    """Words of console messages that a test means to cause."""
    return []


@pytest.fixture
def page(browser: Browser, live_server, expected_faults: list[str]) -> Iterator[Page]:
    """A page at 1280 × 800 that fails its test on any console error or request to elsewhere."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=live_server.url)
    page = context.new_page()
    faults: list[str] = []
    page.on("console", lambda said: faults.append(said.text) if said.type in ("error", "warning") else None)
    page.on("pageerror", lambda error: faults.append(str(error)))
    page.on(
        "request", lambda asked: None if asked.url.startswith(live_server.url) else faults.append(asked.url)
    )
    yield page
    context.close()
    assert [fault for fault in faults if not any(words in fault for words in expected_faults)] == []


@pytest.fixture
def signed_in(page: Page, owner) -> Page:
    page.goto("/sign-in/")
    page.get_by_label("Name").fill("olla")
    page.get_by_label("Password").fill("a long pass phrase")
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="Yard").wait_for()
    return page


@pytest.fixture
def island(page: Page, client, live_server, transactional_db) -> Page:
    """The demonstration's owner at the yard, signed in by cookie."""
    from django.core.management import call_command

    from unkett.web.workshop.models import User

    call_command("load_demo", verbosity=0)
    client.force_login(User.objects.get(username="rona"))
    cookie = client.cookies["sessionid"].value
    page.context.add_cookies([{"name": "sessionid", "value": cookie, "url": live_server.url}])
    page.goto("/")
    return page


def open_page(page: Page, bike: str, tab: str) -> None:
    """From the yard to one page of one bike's work."""
    page.goto("/")
    page.get_by_role("link", name=bike, exact=True).click()
    page.get_by_role("navigation", name="Work on this bike").get_by_role("link", name=tab).click()
    page.get_by_role("heading", level=1).first.wait_for()
