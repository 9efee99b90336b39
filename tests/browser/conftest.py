"""Headless Chromium on the real pages: no console error and no request elsewhere may happen."""

from __future__ import annotations

import os
from collections.abc import Iterator

import pytest
from django.test import Client
from playwright.sync_api import Browser, ConsoleMessage, Page, expect, sync_playwright
from pytest_django.live_server_helper import LiveServer

from unkett.web.workshop.models import User

FLAGS = (
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
)
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")  # Playwright runs a loop in the test's thread

PATIENCE_MS = int(
    os.environ.get("PATIENCE_MS", "240000")
)  # a limit means "never": a slow machine fails no test
expect.set_options(timeout=PATIENCE_MS)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=list(FLAGS))
        yield chromium
        chromium.close()


@pytest.fixture(scope="session")
def site(browser: Browser) -> Iterator[LiveServer]:
    """One server for all browser tests of a process; which database it asks is each test's own."""
    server = LiveServer("localhost")
    with server._live_server_modified_settings:
        yield server
    server.stop()


SLOW = "was preloaded using link preload but not used within"  # how long drawing took on a busy machine: no fault


@pytest.fixture
def expected_faults() -> list[str]:
    """Words of console messages that a test means to cause."""
    return []


@pytest.fixture
def page(browser: Browser, db: None, site: LiveServer, expected_faults: list[str]) -> Iterator[Page]:
    """A page at 1280 × 800 that fails its test on any console error or request to elsewhere."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=site.url)
    context.set_default_timeout(PATIENCE_MS)
    page = context.new_page()
    faults: list[str] = []

    def hear(said: ConsoleMessage) -> None:
        if said.type in ("error", "warning") and SLOW not in said.text:
            faults.append(said.text)

    page.on("console", hear)
    page.on("pageerror", lambda error: faults.append(str(error)))
    page.on("request", lambda asked: None if asked.url.startswith(site.url) else faults.append(asked.url))
    go_to = page.goto

    def go_when_answered(url: str) -> None:
        """Open an address once no answer is awaited: leaving earlier would drop what was pressed last."""
        expect(page.locator(".htmx-request")).to_have_count(0)
        go_to(url)

    page.goto = go_when_answered  # type: ignore[assignment]
    yield page
    context.close()
    assert [fault for fault in faults if not any(words in fault for words in expected_faults)] == []


def sign_in(page: Page, client: Client, site: LiveServer, name: str) -> Page:
    """Sign somebody in by cookie and open the yard; the form of the sign-in page has a test of its own."""
    client.force_login(User.objects.get(username=name))
    page.context.add_cookies(
        [{"name": "sessionid", "value": client.cookies["sessionid"].value, "url": site.url}]
    )
    page.goto("/")
    page.get_by_role("heading", name="Yard").wait_for()
    return page


@pytest.fixture
def signed_in(page: Page, client: Client, site: LiveServer, owner: User) -> Page:
    """The owner of a small workshop at the yard."""
    return sign_in(page, client, site, owner.username)


@pytest.fixture
def island(page: Page, client: Client, site: LiveServer) -> Page:
    """The demonstration's owner at the yard."""
    return sign_in(page, client, site, "rona")


def open_page(page: Page, bike: str, tab: str) -> None:
    """From the yard to one page of one bike's work."""
    page.goto("/")
    page.get_by_role("link", name=bike, exact=True).click()
    page.get_by_role("navigation", name="Work on this bike").get_by_role("link", name=tab).click()
    page.get_by_role("heading", level=1).first.wait_for()
