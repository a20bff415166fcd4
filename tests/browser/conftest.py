"""The real interface in the system's Chromium, over a server of its own."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from clients import Importer
from pictures import DEMO, jpeg_bytes
from playwright.sync_api import ConsoleMessage, Page, expect
from serving import served

from sequor.store.database import Store

# How long something may take until it is seen: a busy machine, or one that is four times as slow, is no fault.
expect.set_options(timeout=40_000)


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args: dict[str, Any]) -> dict[str, Any]:
    """Debian's Chromium, drawing in software."""
    flags = ["--enable-unsafe-swiftshader", "--force-color-profile=srgb", "--disable-dev-shm-usage"]
    return {**browser_type_launch_args, "executable_path": "/usr/bin/chromium", "args": flags}


@pytest.fixture(scope="session")
def browser_context_args(browser_context_args: dict[str, Any]) -> dict[str, Any]:
    """A small window: drawing in software costs by the pixel."""
    return {**browser_context_args, "viewport": {"width": 1100, "height": 700}}


@pytest.fixture
def address(store: Store) -> Iterator[str]:
    """The application, served."""
    with served(store) as where:
        yield where


@pytest.fixture
def start_again(store: Store) -> Iterator[Callable[[], str]]:
    """The application started anew on what the first one stored."""
    with contextlib.ExitStack() as running:
        yield lambda: running.enter_context(served(store))


@pytest.fixture
def watched(page: Page, address: str, request: pytest.FixtureRequest) -> Iterator[Page]:
    """A page on which nothing may go wrong unseen: no script error, nothing refused by the policy.

    It is judged while the program still runs: what a page asks for after that would be refused. The mark
    ``refused`` names the statuses of answers that a test makes the page hear.
    """
    wrong: list[str] = []
    mark = request.node.get_closest_marker("refused")
    expected = [
        f"the server responded with a status of {status}" for status in (412, *(mark.args if mark else ()))
    ]

    def hear(message: ConsoleMessage) -> None:
        if message.type == "error" and not any(words in message.text for words in expected):
            wrong.append(message.text)

    # What was drawn is read back, for which the browser has to keep it.
    page.add_init_script("window.sequorReadsPictures = true")
    page.on("console", hear)
    page.on("pageerror", lambda error: wrong.append(str(error)))
    yield page
    assert wrong == []


@pytest.fixture
def open_bench(watched: Page, address: str, bring: Importer) -> Callable[..., Page]:
    """Import a picture and open it on the bench, drawn and ready."""

    def open_it(picture: Any, **options: Any) -> Page:
        photo = bring(jpeg_bytes(picture, **options)).photo_id
        watched.goto(f"{address}/photos/{photo}")
        watched.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
        watched.wait_for_selector("[data-finding]:not(:empty)")
        return watched

    return open_it


@pytest.fixture
def open_demo(watched: Page, address: str, bring: Importer) -> Callable[[str], Page]:
    """A demo photo on the bench, drawn and ready, shown as taken so that its true lines are where they are told."""

    def open_it(name: str) -> Page:
        photo = bring((DEMO / f"wendlow_{name}.jpg").read_bytes()).photo_id
        watched.goto(f"{address}/photos/{photo}")
        watched.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
        watched.wait_for_selector("[data-finding]:not(:empty)")
        watched.get_by_role("button", name="As taken").click()
        watched.wait_for_timeout(260)
        return watched

    return open_it
