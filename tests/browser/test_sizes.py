"""Windows of four sizes, and text twice as large: nothing is cut off, and axe finds nothing."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from accessibility import violations
from bench import MAKING, drag, kept, on_stage
from clients import Importer
from pictures import jpeg_bytes, smooth_picture
from playwright.sync_api import Page, expect
from scenes import scene

SIZES = [(390, 844), (820, 1180), (1280, 800), (1920, 1080)]

CUT_OFF = """() => [...document.querySelectorAll('button, input, select, a, [role=slider]')]
  .filter(one => !one.closest('[data-stage]') || one.closest('[data-controls]'))
  .filter(one => { const box = one.getBoundingClientRect();
    return box.width > 1 && (box.left < -0.5 || box.right > innerWidth + 0.5); })
  .map(one => one.outerHTML.slice(0, 100))"""


def cut_off(page: Page) -> list[str]:
    """Controls that reach out of the window to the left or right."""
    found: list[str] = page.evaluate(CUT_OFF)
    wide = page.evaluate("document.documentElement.scrollWidth - innerWidth")
    return [*found, *([f"the page is {wide} px wider than its window"] if wide > 0 else [])]


@pytest.mark.parametrize(("width", "height"), SIZES)
def test_every_step_fits(open_bench: Callable[..., Page], width: int, height: int) -> None:
    page = open_bench(smooth_picture(900, 600))
    page.set_viewport_size({"width": width, "height": height})
    page.wait_for_timeout(400)
    page.locator("[data-stage]").scroll_into_view_if_needed()
    drag(page, on_stage(page, (100, 318)), on_stage(page, (800, 286)))
    kept(page, 1)
    for step in ("Lens", "Lines", "Crop", "Edges", "Export"):
        page.get_by_role("navigation", name="Steps").get_by_role("button", name=step).click()
        page.wait_for_timeout(300)
        assert cut_off(page) == [], step
        assert violations(page) == [], step
    page.get_by_role("button", name="History", exact=True).click()
    expect(page.locator("[data-log]")).to_be_visible()
    assert cut_off(page) == []
    assert violations(page) == []


@pytest.mark.parametrize(("width", "height"), SIZES)
def test_the_contact_sheet_fits(
    watched: Page, address: str, bring: Importer, width: int, height: int
) -> None:
    for number in range(3):
        bring(jpeg_bytes(smooth_picture(300 + number, 200)), f"a photo with a rather long name {number}.jpg")
    watched.set_viewport_size({"width": width, "height": height})
    watched.goto(address)
    expect(watched.get_by_role("status")).to_contain_text("Three photos")
    expect(watched.locator("main img")).to_have_count(3)
    assert cut_off(watched) == []
    assert violations(watched) == []


SCROLLS = """() => [...document.querySelectorAll('*')]
  .filter(one => ['auto', 'scroll'].includes(getComputedStyle(one).overflowY) && one.scrollHeight > one.clientHeight + 1)
  .map(one => `${one.className || one.tagName}: ${one.scrollHeight} in ${one.clientHeight}`)"""


def test_nothing_scrolls_with_ten_lines_and_the_picture_is_large(open_demo: Callable[[str], Page]) -> None:
    page = open_demo("mill")
    page.set_viewport_size({"width": 1280, "height": 800})
    page.wait_for_timeout(300)
    page.get_by_role("switch", name="Snap to edges").click()
    page.get_by_role("button", name="As taken", exact=True).click()
    page.wait_for_timeout(300)
    lines = [one for one in scene("mill").truth["lines"] if one["id"][0] in "vh"][:10]
    for number, one in enumerate(lines, 1):
        page.keyboard.press("Escape")
        (ax, ay), (bx, by) = scene("mill").line(one["id"].split()[0]).tolist()
        drag(page, on_stage(page, (ax, ay)), on_stage(page, (bx, by)))
        kept(page, number)
    stage = page.locator("[data-stage]").bounding_box()
    assert stage is not None
    assert stage["width"] * stage["height"] >= 0.6 * 1280 * 800
    for step in ("Lens", "Lines", "Crop", "Edges", "Export"):
        page.get_by_role("navigation", name="Steps").get_by_role("button", name=step).click()
        page.wait_for_timeout(600)
        assert page.evaluate(SCROLLS) == [], step
    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Crop").click()
    for leaf in ("Compose", "Print"):
        page.get_by_role("group", name="Pages of the step Crop").get_by_role("button", name=leaf).click()
        page.wait_for_timeout(300)
        assert page.evaluate(SCROLLS) == [], leaf
    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Edges").click()
    page.get_by_role("group", name="What to do with empty corners").get_by_role("button", name="Fill").click()
    expect(page.get_by_role("button", name="Take 2", exact=True)).to_be_visible(timeout=MAKING)
    assert page.evaluate(SCROLLS) == []
    for leaf in ("Extend", "Touch up", "Sources"):
        page.get_by_role("group", name="Pages of the step Edges").get_by_role("button", name=leaf).click()
        page.wait_for_timeout(300)
        assert page.evaluate(SCROLLS) == [], leaf


def test_text_twice_as_large_fits(open_bench: Callable[..., Page]) -> None:
    """Sizes of text follow the browser's own: with that doubled, every control can still be reached."""
    page = open_bench(smooth_picture(900, 600))
    page.set_viewport_size({"width": 1280, "height": 800})
    page.evaluate("document.documentElement.style.fontSize = '32px'")
    for step in ("Lens", "Lines", "Crop", "Edges", "Export"):
        page.get_by_role("navigation", name="Steps").get_by_role("button", name=step).click()
        page.wait_for_timeout(300)
        assert cut_off(page) == [], step


def test_what_is_read_first_is_seen_first(open_bench: Callable[..., Page]) -> None:
    """In a narrow window the picture stands above the field book, for the eye and for the ear."""
    page = open_bench(smooth_picture(900, 600))
    first = "() => document.querySelector('main').firstElementChild.tagName"
    assert page.evaluate(first) == "SECTION"
    page.set_viewport_size({"width": 390, "height": 844})
    page.wait_for_timeout(300)
    assert page.evaluate(first) == "DIV"
    stage, book = (
        page.locator("[data-stage]").bounding_box(),
        page.locator("main section.page").bounding_box(),
    )
    assert stage is not None and book is not None and stage["y"] < book["y"]


def test_chosen_states_show_in_forced_colours(open_bench: Callable[..., Page]) -> None:
    """Where the system's colours are forced, shadows are not drawn: a border says what is chosen."""
    page = open_bench(smooth_picture(900, 600))
    page.emulate_media(forced_colors="active")
    chosen = page.get_by_role("button", name="Either")
    assert chosen.evaluate("one => getComputedStyle(one).outlineStyle") == "solid"
    other = page.get_by_role("button", name="Horizontal", exact=True)
    assert other.evaluate("one => getComputedStyle(one).outlineStyle") == "none"
