"""The page by keys: steps, photos, history, the contact sheet, and what a lost picture or part of the page does."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from bench import canvas_pixels, kept, says, settle
from clients import Importer
from pictures import jpeg_bytes, smooth_picture
from playwright.sync_api import Page, Route, expect

MOST_PRESSES = 10


@pytest.fixture
def opened(open_bench: Callable[..., Page]) -> Page:
    """A photo on the bench."""
    return open_bench(smooth_picture(900, 600))


@pytest.fixture
def three(watched: Page, address: str, bring: Importer) -> list[int]:
    """Three photos; the contact sheet is open."""
    photos = [bring(jpeg_bytes(smooth_picture(300 + n, 200)), f"{n} photo.jpg").photo_id for n in range(3)]
    watched.goto(address)
    expect(watched.locator("[data-photo]")).to_have_count(3)
    return photos


def test_a_line_is_laid_in_few_presses(opened: Page) -> None:
    """The kind, the first point at the left side, the second at the right one, a little lower."""
    page = opened
    page.locator("[data-stage]").focus()
    presses = ["h", "Enter", "Home", "Control+ArrowUp", "Enter", "End", "Shift+ArrowDown", "Enter"]
    assert len(presses) <= MOST_PRESSES
    for key in presses:
        page.keyboard.press(key)
    kept(page, 1)
    says(page, r"\d+\.\d+°.* to the (left|right)")


def test_keys_lead_everywhere_and_escape_closes(opened: Page) -> None:
    page = opened
    steps = page.get_by_role("navigation", name="Steps")
    for key, name in (("3", "Crop"), ("4", "Edges"), ("1", "Lens"), ("2", "Lines")):
        page.keyboard.press(key)
        expect(steps.get_by_role("button", name=name)).to_have_attribute("aria-current", "step")
    page.keyboard.press("5")
    expect(page.get_by_role("button", name="Export the picture")).to_be_visible()
    page.keyboard.press("y")
    expect(page.locator("[data-log]")).to_be_visible()
    page.keyboard.press("o")
    expect(page.locator("[data-compare]")).to_be_focused()
    page.keyboard.press("?")
    expect(page.get_by_role("complementary", name="Shortcuts")).to_be_focused()
    for gone in (
        page.get_by_role("complementary"),
        page.locator("[data-compare]"),
        page.locator("[data-log]"),
    ):
        page.keyboard.press("Escape")
        expect(gone).to_have_count(0)
    page.keyboard.press("q")
    expect(page).to_have_title("Contact sheet · Sequor")


def test_single_keys_obey_their_switch(opened: Page) -> None:
    page = opened
    page.keyboard.press("?")
    page.get_by_role("button", name="Letter shortcuts: on").click()
    page.keyboard.press("Escape")
    for key in ("3", "y", "q", "o", "a", "v", "Shift+P"):
        page.keyboard.press(key)
    settle(page)
    expect(
        page.get_by_role("navigation", name="Steps").get_by_role("button", name="Lines")
    ).to_have_attribute("aria-current", "step")
    expect(page.locator("[data-log], [data-compare], [data-by-hand]")).to_have_count(0)


def test_from_photo_to_photo_and_back_to_where_one_was(watched: Page, three: list[int]) -> None:
    page = watched
    page.get_by_role("link", name=re.compile("Open 1 photo")).dblclick()
    expect(page.get_by_text("2 of 3")).to_be_visible()
    expect(page.locator("main")).to_be_focused()
    page.keyboard.press("PageDown")
    expect(page).to_have_url(re.compile(f"/photos/{three[2]}$"))
    expect(page.get_by_text("3 of 3")).to_be_visible()
    expect(page.get_by_role("button", name="Next photo")).to_be_disabled()
    page.keyboard.press("PageUp")
    expect(page).to_have_url(re.compile(f"/photos/{three[1]}$"))
    page.keyboard.press("q")
    expect(page.get_by_role("link", name=re.compile("Open 1 photo"))).to_be_focused()


def test_a_photo_is_removed_by_key_and_put_back(watched: Page, three: list[int]) -> None:
    page = watched
    page.get_by_role("link", name=re.compile("Open 1 photo")).focus()
    page.keyboard.press("Delete")
    expect(page.locator("[data-photo]")).to_have_count(2)
    expect(page.get_by_role("status")).to_contain_text("Two photos")
    page.keyboard.press("Control+z")
    expect(page.locator("[data-photo]")).to_have_count(3)
    expect(page.get_by_role("alert")).to_have_count(0)


def test_a_photo_may_be_removed_while_its_picture_loads(watched: Page, address: str, bring: Importer) -> None:
    """On a slow machine a card's picture is asked for after its photo was removed; nothing is refused."""
    page = watched
    photo = bring(jpeg_bytes(smooth_picture(300, 200)), "photo.jpg").photo_id
    held: list[Route] = []

    def hold(route: Route) -> None:
        held.append(route)

    page.route("**/thumbnail/*.jpg", hold)
    page.goto(address)
    card = page.locator(f'[data-photo="{photo}"]')
    card.scroll_into_view_if_needed()
    while not held:
        page.wait_for_timeout(50)
    card.locator("a").focus()
    with page.expect_response("**/api/photos/remove"):
        page.keyboard.press("Delete")
    expect(card).to_have_count(0)
    with page.expect_response("**/thumbnail/*.jpg") as answered:
        held[0].continue_()
    assert answered.value.status == 200


def test_a_lost_picture_comes_back(opened: Page) -> None:
    """The browser may take the drawing surface away, when it is short of memory, and give it back."""
    page = opened
    before = canvas_pixels(page)
    lose = "() => (window.lost = document.querySelector('canvas').getContext('webgl2').getExtension('WEBGL_lose_context'))"
    page.evaluate(f"{lose.replace('() => ', '() => { ')}; lost.loseContext(); }}")
    page.wait_for_timeout(300)
    page.evaluate("() => lost.restoreContext()")
    assert canvas_pixels(page) == before


def test_one_part_that_fails_leaves_the_others(opened: Page) -> None:
    """Its own page cannot be loaded: the log says so in its place; the picture is still there to be worked on."""
    page = opened
    other = page.context.new_page()
    other.route("**/assets/LogPanel*", lambda route: route.fulfill(status=500))
    other.goto(page.url)
    other.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    other.get_by_role("button", name="History", exact=True).click()
    expect(other.get_by_role("alert")).to_contain_text("The settings failed")
    expect(other.locator("[data-stage] canvas")).to_be_visible()
    other.close()
