"""The outside painter on the page: off unless it was set up, then asked from words, its failures told."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np
import pytest
from bench import MAKING, says, stored
from pictures import DEMO
from PIL import Image
from playwright.sync_api import Page, expect
from serving import served

from sequor.painter.client import Painter
from sequor.store.database import Store

pytestmark = pytest.mark.browser


@pytest.fixture
def address(store: Store, stand_in: Painter) -> Iterator[str]:
    """The application, set up with the stand-in."""
    with served(store, None, stand_in) as where:
        yield where


def widened(page: Page) -> None:
    """Room above the picture."""
    page.get_by_role("navigation").get_by_role("button", name="Edges").click()
    page.get_by_role("group", name="Pages of the step Edges").get_by_role("button", name="Extend").click()
    page.get_by_role("button", name="Above").click()
    page.get_by_role("button", name="Extend by this amount").click()
    says(page, "of the frame is new")
    page.get_by_role("group", name="Pages of the step Edges").get_by_role("button", name="Corners").click()


def test_the_hint_sky(open_bench: Callable[..., Page]) -> None:
    page = open_bench(np.asarray(Image.open(DEMO / "wendlow_shore.jpg").reduce(6)))
    widened(page)
    hint = page.get_by_label("The corners: description for the painting service")
    hint.fill("sky")
    page.get_by_role("button", name="Paint").click()
    expect(page.get_by_role("button", name="Fill from the picture")).to_be_visible()
    expect(page.get_by_role("button", name="Take 1", exact=True)).to_be_visible(timeout=MAKING)
    expect(page.locator("[data-takes='1']")).to_be_visible(timeout=MAKING)
    recipe = stored(page)
    assert recipe["edges"]["hint"] == "sky" and len(recipe["edges"]["patches"]) == 1
    page.get_by_role("navigation").get_by_role("button", name="Export").click()
    page.get_by_role("button", name="PNG").click()
    with page.expect_download() as download:
        page.get_by_role("button", name="Export the picture").click()
    with Image.open(download.value.path()) as image:
        assert "compositeWithTrainedAlgorithmicMedia" in str(image.info)
        sky = np.asarray(image.convert("RGB"))[:25].astype(int)
    assert (sky[..., 2] > sky[..., 0] + 10).mean() > 0.8


def test_words_that_it_does_not_know_are_told_and_nothing_is_lost(open_bench: Callable[..., Page]) -> None:
    page = open_bench(np.asarray(Image.open(DEMO / "wendlow_shore.jpg").reduce(6)))
    widened(page)
    page.get_by_label("The corners: description for the painting service").fill("a unicorn")
    page.get_by_role("button", name="Paint").click()
    expect(page.get_by_text("it paints only these")).to_be_visible(timeout=MAKING)
    page.get_by_role("button", name="Fill from the picture").click()
    expect(page.locator("[data-takes='1']")).to_be_visible(timeout=MAKING)
    assert stored(page)["edges"]["hint"] is None


def test_without_a_painter_nothing_of_it_is_on_the_page(
    page: Page, start_again: Callable[[], str], open_bench: Callable[..., Page]
) -> None:
    opened = open_bench(np.asarray(Image.open(DEMO / "wendlow_shore.jpg").reduce(6)))
    number = opened.url.rsplit("/", 1)[1]
    page.goto(f"{start_again()}/photos/{number}")
    page.wait_for_selector("[data-finding]:not(:empty)")
    widened(page)
    expect(page.get_by_role("button", name="Take 1", exact=True)).to_be_visible(timeout=MAKING)
    expect(page.get_by_text("painting service")).to_have_count(0)
