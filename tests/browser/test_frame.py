"""The step Frame under the hand: shapes, composing, printing; the log and its versions."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from accessibility import violations
from bench import drag, kept, now, on_stage, says, settle, stored, to_page
from pictures import horizon_picture
from PIL import Image
from playwright.sync_api import Locator, Page, expect

from sequor.core.frame.ratio import agrees_with_ratio

pytestmark = pytest.mark.browser
SIZE = (900, 600)
OpenBench = Callable[..., Page]


def choices(page: Page) -> Locator:
    """The strip under the picture."""
    return page.get_by_role("group", name="What each choice keeps")


@pytest.fixture
def page(open_bench: OpenBench) -> Page:
    """A photo with a tilted horizon, levelled, at the step Frame."""
    opened = open_bench(horizon_picture(*SIZE, -2.3))
    drag(opened, on_stage(opened, (50, 316)), on_stage(opened, (850, 284)))
    kept(opened, 1)
    opened.get_by_role("button", name="Crop 3:2").click()
    expect(choices(opened).get_by_role("button").first).to_be_visible()
    settle(opened)
    return opened


def mark(page: Page, start: tuple[float, float], end: tuple[float, float] | None = None) -> None:
    """Mark the subject: two corners of its box, or a point of the corrected picture."""
    to_page(page, "Compose")
    page.get_by_role("button", name=re.compile("^Mark (the subject|anew)$")).click()
    if end is None:
        page.mouse.click(*on_stage(page, start))
    else:
        drag(page, on_stage(page, start), on_stage(page, end))
    expect(page.locator("[data-subject]")).to_be_attached()


def target(page: Page, name: str) -> tuple[float, float]:
    """The middle of a corner or a side of the frame on the screen."""
    box = page.get_by_role("button", name=f"Crop frame, {name}").bounding_box()
    assert box is not None
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def version(page: Page, name: str) -> Locator:
    return page.locator(f"[data-version='{name}']")


def keep_version(page: Page, name: str) -> None:
    page.get_by_role("button", name="History", exact=True).click()
    page.get_by_label("Name for the current state").fill(name)
    page.get_by_role("button", name="Save as version").click()
    expect(version(page, name)).to_be_visible()
    page.get_by_role("button", name="History", exact=True).click()


def test_from_the_tilted_photo_to_two_prints(
    page: Page, start_again: Callable[[], str], tmp_path: Path
) -> None:
    """Straighten, choose a paper, put the subject on a third, two versions, back to an old state, start again, export."""
    to_page(page, "Print")
    page.get_by_role("button", name="inches").click()
    page.get_by_role("button", name="10 × 8 inch").click()
    says(page, r"10 × 8 inch: \d+ ppi, below 180 ppi it looks soft\. Filling the sheet cuts off 16\.\d%")
    expect(page.locator("[data-printed]")).to_be_attached()
    page.get_by_role("button", name="Crop to the paper's proportions").click()
    expect(page.get_by_text("Nothing: the crop has the proportions of the paper.")).to_be_visible()
    expect(page.locator("[data-printed]")).not_to_be_attached()
    mark(page, (380, 260), (470, 350))
    page.get_by_label("Where the lines at 33% from the left and 67% from the top cross").click()
    says(page, "Cropped to 10:8")
    placed = now(page)
    assert placed.subject is not None and placed.subject_inside
    assert placed.frame.at(1 / 3, 2 / 3) == pytest.approx(placed.subject.centre, abs=1)
    keep_version(page, "wide for the page")
    to_page(page, "Shape")
    page.get_by_role("button", name="Square", exact=True).click()
    says(page, "Cropped to 1:1")
    keep_version(page, "square for the wall")

    page.get_by_role("button", name="History", exact=True).click()
    page.get_by_role("button", name=re.compile("^Go back to .*Subject: marked")).click()
    says(page, "Cropped to 10:8")
    expect(page.locator("[data-log] [aria-current]")).to_contain_text("Went back to: Subject: marked")
    before = stored(page)

    number = page.url.rsplit("/", 1)[1]
    page.goto(f"{start_again()}/photos/{number}")
    page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    says(page, "Cropped to 10:8")
    assert stored(page) == before
    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Export").click()
    page.get_by_role("button", name="Print size, 10 × 8 inch").click()
    page.get_by_role("button", name="wide for the page").click()
    page.get_by_role("button", name="square for the wall").click()
    with page.expect_download() as download:
        page.get_by_role("button", name="Export 3 pictures").click()
    with zipfile.ZipFile(download.value.path()) as together:
        images = {name: Image.open(io.BytesIO(together.read(name))) for name in together.namelist()}
    assert list(images) == [
        "photo current.jpg",
        "photo wide for the page.jpg",
        "photo square for the wall.jpg",
    ]
    printed, wide, square = images.values()
    assert printed.size == (3000, 2400) and printed.info["dpi"] == pytest.approx((300, 300), abs=0.5)
    assert wide.size == (round(placed.frame.width), round(placed.frame.height))
    assert placed.printed is not None
    assert wide.info["dpi"][0] == pytest.approx(placed.printed.ppi, abs=0.6)
    assert agrees_with_ratio(*wide.size, (10, 8)) and square.width == square.height
    for image in images.values():
        # The photo is nowhere as bright as the paper that empty corners are written as.
        assert np.asarray(image).min(axis=2).max() < 230


def test_a_free_frame_slides_along_the_outline(page: Page) -> None:
    page.get_by_role("button", name="Free", exact=True).click()
    says(page, "Cropped to a free aspect ratio")
    for name, way in (
        ("bottom right corner", (-300, -60)),
        ("left edge", (90, 0)),
        ("bottom right corner", (300, -40)),
        ("top left corner", (-900, -900)),
    ):
        start = target(page, name)
        drag(page, start, (start[0] + way[0], start[1] + way[1]))
        settle(page)
    frame = now(page).frame
    assert page.get_by_role("alert").count() == 0
    assert frame.width / frame.height != pytest.approx(1.5, abs=0.02)
    inside = target(page, "bottom right corner")
    drag(page, (inside[0] - 80, inside[1] - 50), (inside[0] + 900, inside[1] + 30))
    moved = now(page).frame
    assert (moved.width, moved.height) == (frame.width, frame.height) and moved.x >= frame.x


def test_dragging_does_not_wait_for_the_server(page: Page) -> None:
    """While no answer comes at all, the frame follows the hand; on letting go the core has its word."""
    page.route("**/api/evaluate", lambda route: None)
    start = target(page, "bottom right corner")
    page.mouse.move(*start)
    page.mouse.down()
    for step in range(1, 5):
        page.mouse.move(start[0] - 30 * step, start[1] - 20 * step)
        page.wait_for_timeout(40)
        assert target(page, "bottom right corner")[0] == pytest.approx(start[0] - 30 * step, abs=2)
    page.unroute("**/api/evaluate")
    page.mouse.up()
    says(page, "Cropped to 3:2")
    assert agrees_with_ratio(round(now(page).frame.width), round(now(page).frame.height), (3, 2))


@pytest.mark.refused(422)
def test_ratios_typed_kept_and_upright(page: Page) -> None:
    own = page.get_by_label("Custom ratio, width to height")
    own.fill("quite wide")
    own.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("is not an aspect ratio. Type width and height")
    own.fill("13,6 x 9,9")
    own.press("Enter")
    says(page, "Cropped to 13.6:9.9")
    page.get_by_label("Name for 13.6:9.9").fill("album")
    page.get_by_role("button", name="Save", exact=True).click()
    album = page.get_by_role("button", name="album 13.6:9.9")
    expect(album).to_have_attribute("aria-pressed", "true")
    page.get_by_role("group", name="Ratio").get_by_role("button", name="Portrait").click()
    says(page, "Cropped to 9.9:13.6")
    page.get_by_role("button", name="16:9").click()
    says(page, "Cropped to 9:16")
    page.get_by_role("button", name="Original").click()
    says(page, "Cropped to 3:2")
    album.click()
    says(page, "Cropped to 13.6:9.9")
    page.get_by_role("button", name="Remove album").click()
    expect(album).not_to_be_attached()


def test_the_costs_are_true_and_a_way_is_taken(page: Page) -> None:
    wide = choices(page).get_by_role(
        "button", name=re.compile(r"^Fill, whole picture keeps 100% · 7\.9% new")
    )
    trim = choices(page).get_by_role("button", name=re.compile(r"^Crop to 3:2 keeps 89\.1%"))
    expect(trim).to_have_attribute("title", "849 × 566 pixels, keeps 89.1%")
    expect(trim).to_have_attribute("aria-pressed", "true")
    wide.hover()
    says(page, "The whole picture is kept. The exported file will say so: 7.9% of the frame is new")
    page.mouse.move(700, 30)
    says(page, "Cropped to 3:2, 89.1%")
    wide.click()
    says(page, "The whole picture is kept")
    expect(page.locator("[data-hatched]")).to_be_attached()
    expect(page.get_by_role("switch", name="Allow empty corners")).to_be_checked()
    assert stored(page)["frame"]["allow_empty"] is True
    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Export").click()
    expect(
        page.get_by_text(
            "Filled corners (7.9% of the frame) are marked in the file as added, not photographed."
        )
    ).to_be_visible()
    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Crop").click()
    page.get_by_role("switch", name="Allow empty corners").click()
    expect(page.locator("[data-hatched]")).not_to_be_attached()
    assert now(page).cost.empty == pytest.approx(0, abs=1e-6)


def test_place_and_size_are_typed(page: Page) -> None:
    width = page.get_by_label("Width", exact=True)
    width.fill("600")
    width.press("Enter")
    says(page, "Cropped to 3:2")
    assert (now(page).frame.width, now(page).frame.height) == (600, 400)
    page.get_by_label("From the left").fill("9000")
    page.get_by_label("From the left").press("Enter")
    expect(page.get_by_text("The picture ends here")).to_be_visible()
    width.fill("wide")
    width.press("Enter")
    expect(page.get_by_text("Width: enter a number from 16 to 65,500")).to_be_visible()
    page.get_by_role("button", name="Crop frame, 600 by 400 pixels").focus()
    left = now(page).frame.x
    page.keyboard.press("Shift+ArrowLeft")
    page.keyboard.press("ArrowLeft")
    page.wait_for_timeout(700)
    assert now(page).frame.x == pytest.approx(left - 11, abs=0.6)


def test_what_cannot_be_placed_says_why_and_offers_the_nearest(page: Page) -> None:
    mark(page, (200, 300), (700, 330))
    page.get_by_role("group", name="Which lines").get_by_role("button", name="Fifths").click()
    page.get_by_label("On the vertical line 20% from the left").click()
    told = page.get_by_text(
        re.compile("This cannot be done exactly: the whole subject must stay in the frame")
    )
    expect(told).to_be_visible()
    before = stored(page)
    page.get_by_role("button", name="Use the nearest possible").click()
    says(page, "Cropped to 3:2")
    after = now(page)
    assert stored(page) != before and after.subject_inside
    page.get_by_role("group", name="What to place").get_by_role("button", name="Horizon").click()
    page.get_by_label("On the horizontal line 40% from the top").click()
    page.wait_for_timeout(400)
    placed = now(page)
    horizon = placed.warp.to_corrected(np.array(stored(page)["references"][0]["points"]))[:, 1].mean()
    assert placed.frame.y + 0.4 * placed.frame.height == pytest.approx(horizon, abs=1)


def test_composing_by_keyboard(page: Page) -> None:
    to_page(page, "Compose")
    page.get_by_role("button", name="Use the middle of the frame").press("Enter")
    subject = page.get_by_role("button", name="Subject mark", exact=True)
    subject.focus()
    for key in ("Control+ArrowLeft", "ArrowUp", "ArrowUp"):
        page.keyboard.press(key)
    page.wait_for_timeout(700)
    x, y = stored(page)["frame"]["subject"]
    assert (x, y) == pytest.approx((350, 298), abs=1)
    for name in ("Golden sections", "Diagonals", "Spiral", "Margins"):
        page.get_by_role("group", name="Composition overlay").get_by_role("button", name=name).press("Enter")
    expect(page.locator("[data-compose='thirds golden diagonals spiral margins']")).to_be_attached()
    expect(page.locator("[data-compose] text").first).to_contain_text("left")
    page.get_by_label("Darken outside").press("End")
    expect(page.get_by_text("100%", exact=True).first).to_be_visible()
    page.get_by_label("Width of the mark").fill("80")
    page.get_by_label("Width of the mark").press("Enter")
    page.wait_for_timeout(400)
    assert stored(page)["frame"]["subject"][2:] == [80, 80]
    page.get_by_label("On the vertical line 67% from the left").press("Enter")
    page.wait_for_timeout(400)
    placed = now(page)
    assert placed.subject is not None
    assert placed.frame.at(2 / 3, 0)[0] == pytest.approx(placed.subject.centre[0], abs=1)


@pytest.mark.refused(409)
def test_the_log_shows_every_state_and_leaves_none(page: Page) -> None:
    page.get_by_role("button", name="2:1", exact=True).click()
    says(page, "Cropped to 2:1")
    keep_version(page, "banner")
    page.get_by_role("button", name="Golden section", exact=True).click()
    says(page, "Cropped to golden:1")
    page.get_by_role("button", name="History", exact=True).click()
    entries = page.locator("[data-log] ol > li")
    expect(entries).to_have_count(4)
    expect(entries.last).to_contain_text("1 Imported")
    for picture in page.locator("[data-log] img").all():
        assert (
            picture.evaluate(
                "async (one) => { one.loading = 'eager'; await one.decode(); return one.naturalWidth; }"
            )
            > 20
        )
    page.get_by_role("button", name="View banner").click()
    expect(page.locator("[data-title]")).to_have_text("banner")
    expect(page.get_by_label("Left picture").locator("optgroup[label=Versions] option")).to_have_count(1)
    page.get_by_role("button", name="Close comparison").click()
    says(page, "Cropped to golden:1")
    page.get_by_role("button", name="Update banner to the current state").click()
    expect(version(page, "banner")).to_contain_text("golden:1")
    page.get_by_role("button", name="Remove banner").click()
    expect(version(page, "banner")).not_to_be_attached()
    page.get_by_role("button", name="Undo removing banner").click()
    expect(version(page, "banner")).to_be_visible()
    page.get_by_label("Name for the current state").fill("banner")
    page.get_by_role("button", name="Save as version").click()
    expect(page.get_by_role("alert")).to_contain_text("Choose another name")
    page.get_by_role("button", name="Reset Crop").click()
    says(page, "Cropped to 3:2, 89.1%")
    page.get_by_role("button", name="Reset all").click()
    says(page, "Nothing measured yet")
    expect(entries).to_have_count(6)
    page.get_by_role("button", name=re.compile("Go back to 2, Line 1: drawn")).click()
    says(page, "to the left")
    page.get_by_role("link", name="Contact sheet").click()
    page.get_by_role("button", name="Large").click()
    expect(page.get_by_text(re.compile("· banner$"))).to_be_visible()


def test_each_side_of_the_frame_says_what_it_cuts_off(page: Page) -> None:
    page.get_by_role("button", name="2:1", exact=True).click()
    says(page, "Cropped to 2:1")
    settle(page)
    cut = now(page).cut_off
    for side, share in (("top", cut.top), ("bottom", cut.bottom)):
        words = f"{100 * share:.1f}".removesuffix(".0")
        expect(page.locator(f"[data-cut={side}]")).to_have_text(f"{words}% cut")
    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Lines").click()
    expect(page.locator("[data-cut]")).to_have_count(0)


def test_an_exact_size(page: Page) -> None:
    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Export").click()
    width = page.get_by_label("Custom width")
    width.fill("500")
    width.press("Enter")
    expect(page.get_by_text("500 × 333 px", exact=True)).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("button", name="Export the picture").click()
    with Image.open(download.value.path()) as image:
        assert image.size == (500, 333)


def test_accessible_on_every_page_and_in_the_log(page: Page) -> None:
    mark(page, (380, 260), (470, 350))
    keep_version(page, "wide")
    for name in ("Shape", "Compose", "Print"):
        to_page(page, name)
        if name == "Print":
            page.get_by_role("button", name="A4").click()
        settle(page)
        assert violations(page) == [], name
    page.get_by_role("button", name="History", exact=True).click()
    settle(page)
    assert violations(page) == []
