"""What the bench does under the hand."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator

import pytest
from bench import canvas_pixels, drag, finding, kept, on_stage, says, settle
from pictures import horizon_picture, smooth_picture
from playwright.sync_api import Browser, Locator, Page, expect

pytestmark = pytest.mark.browser
SIZE = (900, 600)
OpenBench = Callable[..., Page]


@pytest.fixture
def page_on_bench(open_bench: OpenBench) -> Page:
    """A photo with a tilted horizon, ready on the bench."""
    return open_bench(horizon_picture(*SIZE, -2.3))


def row(page: Page, start: str) -> Locator:
    """The row of the field book that begins with these words."""
    return page.get_by_role("button", name=re.compile(f"^{start}"))


def lay(page: Page, start: tuple[float, float], end: tuple[float, float]) -> None:
    drag(page, on_stage(page, start), on_stage(page, end))


def test_the_picture_holds_still_while_a_line_is_laid(page_on_bench: Page) -> None:
    """The readings and a ghost of the coming outline follow; on letting go the picture turns."""
    page = page_on_bench
    before = canvas_pixels(page)
    drag(page, on_stage(page, (50, 316)), on_stage(page, (850, 284)), let_go=False)
    says(page, "drops 2")
    expect(page.locator("[data-ghost]")).to_be_attached()
    expect(page.locator("[data-magnifier]")).to_be_visible()
    assert canvas_pixels(page) == before
    page.mouse.up()
    kept(page, 1)
    assert canvas_pixels(page) != before
    expect(page.locator("[data-ghost]")).not_to_be_attached()


def test_two_clicks_lay_a_line_and_escape_drops_it(page_on_bench: Page) -> None:
    page = page_on_bench
    page.mouse.click(*on_stage(page, (50, 316)))
    page.mouse.move(*on_stage(page, (500, 300)))
    says(page, "to the left")
    page.keyboard.press("Escape")
    says(page, "Nothing measured yet|Only check lines")
    page.mouse.click(*on_stage(page, (50, 316)))
    page.mouse.click(*on_stage(page, (850, 284)))
    kept(page, 1)


def test_kinds_ends_and_deleting(page_on_bench: Page) -> None:
    page = page_on_bench
    page.get_by_role("button", name="As taken").click()
    lay(page, (450, 560), (440, 60))
    kept(page, 1)
    expect(row(page, "1 vertical")).to_be_visible()
    page.get_by_label("Kind of line 1").select_option("witness")
    expect(row(page, "1 check line")).to_be_visible()
    says(page, "Nothing measured yet|Only check lines")
    page.get_by_label("Kind of line 1").select_option("plumb")
    says(page, "1.1")
    lay(page, (440, 60), (420, 60))  # an end is grabbed, not a new line laid
    says(page, "3.4")
    kept(page, 1)
    page.keyboard.press("Delete")
    expect(page.locator("li.entry")).to_have_count(0)
    for _ in range(3):
        page.keyboard.press("Control+z")
        settle(page)
    says(page, "Nothing measured yet|Only check lines")
    expect(row(page, "1 check line")).to_be_visible()


def test_a_kind_that_was_chosen_stays_and_wins(page_on_bench: Page) -> None:
    page = page_on_bench
    page.keyboard.press("v")
    expect(page.get_by_role("button", name="Vertical", exact=True)).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="As taken").click()
    lay(page, (100, 100), (400, 380))
    kept(page, 1)
    expect(row(page, "1 vertical")).to_be_visible()


def test_the_vernier_leads_the_picture(page_on_bench: Page) -> None:
    page = page_on_bench
    before = canvas_pixels(page)
    box = page.get_by_role("slider", name="Tilt corrected").bounding_box()
    assert box is not None
    y = box["y"] + box["height"] * 0.8
    page.mouse.move(box["x"] + 100, y)
    page.mouse.down()
    page.mouse.move(box["x"] + 170, y, steps=4)
    says(page, "0.70° of tilt to the left corrected by hand")
    assert canvas_pixels(page) != before
    expect(page.get_by_role("button", name="Undo", exact=True)).to_be_disabled()
    page.mouse.up()
    expect(page.get_by_role("button", name="Undo", exact=True)).to_be_enabled()
    field = page.get_by_label("Tilt in degrees")
    field.fill("1.7")
    field.press("Enter")
    says(page, "1.70° of tilt to the left corrected by hand")
    field.fill("-1.7")
    field.press("Enter")
    says(page, "1.70° of tilt to the right corrected by hand")
    field.fill("about two")
    field.press("Enter")
    says(page, "1.70° of tilt to the right corrected by hand")
    page.get_by_role("slider", name="Tilt corrected").press("Backspace")
    says(page, "Nothing measured yet|Only check lines")
    assert canvas_pixels(page) == before


def test_no_rule_of_the_correction_lives_in_the_page(
    page_on_bench: Page, stretched_core: Callable[[], None]
) -> None:
    """A term changed in the core, and the preview moves."""
    page = page_on_bench
    lay(page, (50, 316), (850, 284))
    kept(page, 1)
    before = canvas_pixels(page)
    stretched_core()
    page.get_by_label("Kind of line 1").select_option("witness")
    says(page, "Only check lines so far")
    page.get_by_label("Kind of line 1").select_option("level")
    says(page, "2.3")
    assert canvas_pixels(page) != before


def test_the_frame_cannot_leave_the_picture(page_on_bench: Page) -> None:
    page = page_on_bench
    lay(page, (50, 316), (850, 284))
    kept(page, 1)
    page.get_by_role("button", name="Crop 3:2").click()
    settle(page)
    for side, way in (
        ("bottom right corner", (-200, -140)),
        ("top edge", (0, -900)),
        ("left edge", (-900, 0)),
    ):
        box = page.get_by_role("button", name=f"Crop frame, {side}").bounding_box()
        assert box is not None
        start = (box["x"] + 20, box["y"] + 20)
        drag(page, start, (start[0] + way[0], start[1] + way[1]))
        says(page, "Cropped to 3:2")
        settle(page)
    box = page.get_by_role("button", name="Crop frame, bottom right corner").bounding_box()
    assert box is not None
    drag(page, (box["x"] - 60, box["y"] - 60), (box["x"] + 2000, box["y"] - 900))
    settle(page)
    expect(page.get_by_text("none in the frame")).to_be_visible()
    assert page.get_by_role("alert").count() == 0
    page.get_by_role("button", name="Largest that fits").click()
    says(page, "Cropped to 3:2")


def test_zoom_shows_real_pixels_and_the_grid_stays(page_on_bench: Page) -> None:
    page = page_on_bench
    stage = page.locator("[data-stage]")
    page.keyboard.press("g")
    grid = page.locator("[data-grid] path").first.get_attribute("d")
    page.keyboard.press("Shift+P")
    assert float(stage.get_attribute("data-scale") or 0) == pytest.approx(2)
    expect(page.locator("[data-tiles] img").first).to_be_visible()
    page.mouse.move(600, 350)
    page.mouse.wheel(0, -300)
    assert float(stage.get_attribute("data-scale") or 0) > 2.5
    assert page.locator("[data-grid] path").first.get_attribute("d") == grid
    page.keyboard.press("f")
    expect(page.get_by_role("button", name="Fit", exact=True)).to_have_attribute("aria-pressed", "true")


def test_before_is_flicked_and_the_letters_can_be_switched_off(page_on_bench: Page) -> None:
    page = page_on_bench
    before = canvas_pixels(page)
    lay(page, (50, 316), (850, 284))
    kept(page, 1)
    page.keyboard.press("b")
    assert canvas_pixels(page) == before
    page.keyboard.press("b")
    assert canvas_pixels(page) != before
    page.keyboard.press("?")
    page.get_by_role("button", name="Letter shortcuts: on").click()
    page.keyboard.press("b")
    expect(page.get_by_role("button", name="Corrected", exact=True)).to_have_attribute("aria-pressed", "true")


def test_quarter_turns(page_on_bench: Page) -> None:
    page = page_on_bench
    page.get_by_role("button", name="Adjust by hand").click()
    page.get_by_role("button", name="Rotate right 90°").click()
    expect(page.get_by_role("button", name="Crop 2:3")).to_be_visible()
    page.get_by_role("button", name="Rotate left 90°").click()
    expect(page.get_by_role("button", name="Crop 3:2")).to_be_visible()


@pytest.fixture
def elsewhere(page_on_bench: Page, browser: Browser) -> Iterator[Page]:
    """The same photo in another browser, which nobody tells of anything."""
    context = browser.new_context(viewport={"width": 1100, "height": 700})
    other = context.new_page()
    other.goto(page_on_bench.url)
    other.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    says(other, "Nothing measured yet")
    yield other
    context.close()


def test_a_second_tab_is_told_before_its_next_edit(page_on_bench: Page) -> None:
    """Tabs of one browser tell each other at once: what is done next is done to what is true by then."""
    page = page_on_bench
    other = page.context.new_page()
    other.goto(page.url)
    other.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    says(other, "Nothing measured yet")
    lay(page, (50, 316), (850, 284))
    kept(page, 1)
    expect(other.get_by_role("alert")).to_contain_text("changed in another window")
    kept(other, 1)
    other.get_by_role("button", name="Close").click()
    lay(other, (50, 500), (850, 480))
    kept(other, 2)
    kept(page, 2)
    assert finding(other).text_content() == finding(page).text_content()


def test_a_page_that_is_come_back_to_reads_the_photo_anew(page_on_bench: Page, elsewhere: Page) -> None:
    """Whoever comes back sees the newest before doing anything to it."""
    page, other = page_on_bench, elsewhere
    lay(page, (50, 316), (850, 284))
    kept(page, 1)
    other.evaluate("window.dispatchEvent(new Event('focus'))")
    expect(other.get_by_role("alert")).to_contain_text("You now see the latest")
    kept(other, 1)


def test_two_at_once_do_not_overwrite_each_other(page_on_bench: Page, elsewhere: Page) -> None:
    """Who works on what is no longer true hears that it was not kept, and is shown the newest."""
    page, other = page_on_bench, elsewhere
    lay(page, (50, 316), (850, 284))
    kept(page, 1)
    lay(other, (50, 500), (850, 480))
    expect(other.get_by_role("alert")).to_contain_text("changed in another window")
    other.get_by_role("button", name="Load the latest").click()
    kept(other, 1)
    assert finding(other).text_content() == finding(page).text_content()


def test_a_vertical_photo_and_a_tiny_one(open_bench: OpenBench) -> None:
    page = open_bench(smooth_picture(400, 700))
    expect(
        page.get_by_role("button", name="Crop 2:3").or_(page.get_by_role("button", name="Crop 4:7"))
    ).to_be_visible()
    page = open_bench(smooth_picture(12, 9))
    says(page, "The whole picture is kept")
    # Shown at 800 %, its real pixels are as wide as they are high.
    tile = page.locator("[data-tiles] img").last.bounding_box()
    assert tile is not None
    assert (tile["width"], tile["height"]) == pytest.approx((256 * 8, 256 * 8), abs=1)
