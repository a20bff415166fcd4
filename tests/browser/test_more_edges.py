"""The other pages of the step Edges under the hand: reshape, widen, touch up, donors."""

from __future__ import annotations

import io
import json
import re
from collections.abc import Callable

import numpy as np
import pytest
from accessibility import violations
from bench import MAKING, drag, now, on_stage, says, settle, stored
from pictures import DEMO
from PIL import Image
from playwright.sync_api import Locator, Page, expect

pytestmark = pytest.mark.browser


def to_page(page: Page, name: str) -> None:
    """One of the pages of the step Edges."""
    page.get_by_role("navigation").get_by_role("button", name="Edges").click()
    page.get_by_role("group", name="Pages of the step Edges").get_by_role("button", name=name).click()


def export(page: Page) -> np.ndarray:
    """The exported PNG."""
    page.get_by_role("navigation").get_by_role("button", name="Export").click()
    page.get_by_role("button", name="PNG").click()
    with page.expect_download() as download:
        page.get_by_role("button", name="Export the picture").click()
    return np.asarray(Image.open(download.value.path()).convert("RGB"))


def touch_up(page: Page, number: int) -> Locator:
    return page.locator(f"[data-touch-up=t{number}]")


def brush(page: Page, start: tuple[float, float], end: tuple[float, float]) -> None:
    drag(page, on_stage(page, start), on_stage(page, end))


def test_reshape_the_shore(open_demo: Callable[[str], Page]) -> None:
    """One line along the far waterline, whose true ends are in the photo's truth; nothing is cut off, and the
    waterline is level to 0.2 degrees in the file, found there by its own contrast."""
    page = open_demo("shore")
    truth = json.loads((DEMO / "wendlow_shore.json").read_text())
    (water,) = (one for one in truth["lines"] if "far waterline" in one["id"])
    drag(page, on_stage(page, water["p0"]), on_stage(page, water["p1"]))
    says(page, "to the left")
    page.get_by_role("button", name="Corrected", exact=True).click()
    to_page(page, "Corners")
    expect(page.locator("[data-suits=reshape]")).to_contain_text("Reshape suits this picture")
    assert stored(page)["edges"]["mode"] == "trim"
    page.get_by_role("group", name="What to do with empty corners").get_by_role(
        "button", name=re.compile("^Reshape")
    ).click()
    says(page, "Nothing is cut off and no pixels are added")
    expect(page.get_by_text(re.compile("it starts to show at about"))).to_be_visible()
    page.get_by_role("button", name="Show where it is stretched").click()
    expect(page.locator("canvas[data-heat]")).to_be_visible()
    assert violations(page) == []
    there = now(page)
    assert there.cost.kept == pytest.approx(1) and there.cost.empty == 0
    assert len(there.recipe.edges.segments or []) > 10
    ends = there.warp.to_corrected(np.array([water["p0"], water["p1"]]))
    x, y = ends[1] - ends[0]
    assert abs(np.rad2deg(np.arctan2(y, x))) < 0.2
    page.get_by_role("button", name="Undo", exact=True).click()
    says(page, "Cropped to 3:2")
    page.get_by_role("button", name="Redo").click()
    says(page, "Nothing is cut off")
    file = export(page)
    assert file.shape == (there.camera.height, there.camera.width, 3)
    # Where the water begins it grows darker: half way, column by column, between the ends.
    low, high = sorted(int(end[0]) for end in ends)
    middle = int(ends[:, 1].mean())
    grey = file[middle - 12 : middle + 12, low + 40 : high - 40].astype(float).mean(axis=2)
    steps = np.abs(np.diff(grey.reshape(24, -1), axis=0))
    rows = (steps * np.arange(23)[:, None]).sum(axis=0) / steps.sum(axis=0)
    slope = np.polyfit(np.arange(len(rows)), rows, 1)[0]
    assert abs(np.rad2deg(np.arctan(slope))) < 0.2


def test_widen_the_mill_to_16_9(open_bench: Callable[..., Page]) -> None:
    mill = np.asarray(Image.open(DEMO / "wendlow_mill.jpg").reduce(4))
    page = open_bench(mill)
    to_page(page, "Extend")
    page.get_by_role("button", name="Right", exact=True).click()
    page.get_by_role("button", name="16:9", exact=True).click()
    says(page, "The whole picture is kept")
    expect(page.locator("[data-takes='1']")).to_be_visible(timeout=MAKING)
    page.get_by_role("group", name="Number of strips").get_by_role("button", name="2 strips").click()
    expect(page.get_by_text("in 2 strips")).to_be_visible()
    expect(page.locator("[data-takes='1']")).to_be_visible(timeout=MAKING)
    recipe = stored(page)
    assert recipe["edges"]["strips"] == 2 and len(recipe["edges"]["patches"]) == 1
    assert recipe["edges"]["patches"][0]["part"] == "right edge"
    assert violations(page) == []
    file = export(page)
    height, width = file.shape[:2]
    assert width / height == pytest.approx(16 / 9, abs=2e-3)
    difference = np.abs(file[:, : mill.shape[1]].astype(int) - mill)
    assert difference.mean() < 4
    assert file[:, mill.shape[1] :].std() > 20

    # Drawn out by hand: a side of the frame, and then too far to be believed.
    to_page(page, "Extend")
    frame = now(page).frame
    drag(
        page,
        on_stage(page, (frame.x, frame.y + frame.height / 2)),
        on_stage(page, (frame.x - 150, frame.y + frame.height / 2)),
    )
    settle(page)
    assert now(page).frame.x < frame.x - 50
    page.get_by_label("Amount (of the frame's width or height)").fill("40")
    page.get_by_label("Amount (of the frame's width or height)").press("Enter")
    page.get_by_role("button", name="Extend by this amount").click()
    expect(page.get_by_text("More than a quarter rarely looks believable").first).to_be_visible()


def test_remove_a_doubled_thing(open_bench: Callable[..., Page]) -> None:
    """The boat is on the water twice; brushed over, the second one is gone, and nothing else has changed."""
    shore = np.asarray(Image.open(DEMO / "wendlow_shore.jpg").reduce(4))
    doubled = shore.copy()
    boat = shore[315:385, 335:430]
    doubled[250:320, 560:655] = boat
    page = open_bench(doubled)
    to_page(page, "Touch up")
    page.get_by_label("Brush width", exact=True).fill("90")
    page.get_by_label("Brush width", exact=True).press("Enter")
    brush(page, (585, 285), (630, 285))
    expect(touch_up(page, 1)).to_have_attribute("data-state", "Done", timeout=MAKING)
    expect(page.locator("[data-touched='1'] img")).to_be_visible()
    assert violations(page) == []
    # Undone, it is no longer listed, but seen; undone once more, it is gone; and all of it comes back.
    stored(page)
    page.get_by_role("button", name="Undo", exact=True).click()
    assert stored(page)["edges"]["patches"] == []
    expect(page.locator("[data-touched='1'] img")).to_be_visible()
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(touch_up(page, 1)).to_have_count(0)
    page.get_by_role("button", name="Redo").click()
    page.get_by_role("button", name="Redo").click()
    assert len(stored(page)["edges"]["patches"]) == 1
    page.get_by_role("button", name="More takes").click()
    second = page.get_by_role("group", name="Takes for touch-up 1").get_by_role("button", name="Take 2")
    expect(second).to_be_visible(timeout=MAKING)
    second.click()
    expect(second).to_have_attribute("aria-pressed", "true")
    recipe = stored(page)
    assert recipe["edges"]["touch_ups"][0]["seed"] == 2 == recipe["edges"]["patches"][0]["seed"]
    file = export(page)
    place = np.s_[255:315, 565:650]
    was, left = (np.abs(one[place].astype(int) - shore[place]).mean() for one in (doubled, file))
    assert left < 0.75 * was
    to_page(page, "Touch up")
    page.get_by_role("button", name="Hide touch-up 1").click()
    expect(touch_up(page, 1)).to_have_attribute("data-state", "Hidden")
    expect(page.locator("[data-touched]")).to_have_count(0)
    page.get_by_role("button", name="Show touch-up 1").click()
    expect(touch_up(page, 1)).to_have_attribute("data-state", "Done", timeout=MAKING)
    page.get_by_label("Amount").fill("50")
    page.get_by_label("Amount").press("Enter")
    expect(page.locator("[data-touched] img")).to_have_css("opacity", "0.5")
    page.get_by_role("button", name="Remove touch-up 1").click()
    expect(touch_up(page, 1)).to_have_count(0)
    assert stored(page)["edges"]["patches"] == []


def test_drawn_around_by_clicks_and_by_keys(open_bench: Callable[..., Page]) -> None:
    page = open_bench(np.asarray(Image.open(DEMO / "wendlow_shore.jpg").reduce(6)))
    to_page(page, "Touch up")
    page.get_by_role("button", name="Outline").click()
    for point in ((100, 60), (160, 60), (160, 110), (100, 60)):
        page.mouse.click(*on_stage(page, point))
    expect(touch_up(page, 1)).to_have_attribute("data-state", "Done", timeout=MAKING)
    (area,) = stored(page)["edges"]["touch_ups"]
    assert area["radius"] is None and len(area["points"]) == 3
    # The pencil is put down, and up again; another step does not take it away.
    page.locator("[data-stage]").focus()
    page.keyboard.press("Escape")
    drag(page, on_stage(page, (300, 60)), on_stage(page, (340, 60)))
    page.get_by_role("navigation").get_by_role("button", name="Lines").click()
    page.get_by_role("navigation").get_by_role("button", name="Edges").click()
    assert len(stored(page)["edges"]["touch_ups"]) == 1
    # By keys: one in the middle of the stage, moved by the arrow keys.
    page.get_by_role("button", name="Brush").click()
    page.locator("[data-stage]").focus()
    page.keyboard.press("Enter")
    expect(touch_up(page, 2)).to_have_attribute("data-state", "Done", timeout=MAKING)
    before = stored(page)["edges"]["touch_ups"][1]["points"][0]
    page.get_by_role("button", name="Touch-up 2", exact=True).last.focus()
    page.keyboard.press("Shift+ArrowRight")
    page.wait_for_timeout(900)
    expect(touch_up(page, 2)).to_have_attribute("data-state", "Done", timeout=MAKING)
    after = stored(page)["edges"]["touch_ups"][1]["points"][0]
    assert after == [before[0] + 10, before[1]]


def test_donors_are_marked_with_their_words_and_steer(open_bench: Callable[..., Page]) -> None:
    page = open_bench(np.asarray(Image.open(DEMO / "wendlow_shore.jpg").reduce(6)))
    to_page(page, "Sources")
    page.get_by_role("button", name="Copy only from here", exact=True).click()
    brush(page, (330, 40), (420, 60))
    expect(page.get_by_text("1 marked")).to_be_visible()
    page.get_by_role("button", name="Never copy from here", exact=True).click()
    brush(page, (60, 260), (110, 270))
    expect(page.get_by_text("2 marked")).to_be_visible()
    words = page.locator("[data-areas] text")
    expect(words).to_have_text(["from here", "not from here"])
    assert violations(page) == []
    assert [one["kind"] for one in stored(page)["edges"]["donors"]] == ["from here", "not from here"]
    to_page(page, "Touch up")
    brush(page, (200, 280), (215, 280))
    expect(touch_up(page, 1)).to_have_attribute("data-state", "Done", timeout=MAKING)
    file = export(page)
    # From the sky alone: where dark water was it is bright now.
    assert file[276:284, 203:212].mean() > 120
    to_page(page, "Sources")
    page.get_by_role("button", name="Remove area 1").click()
    expect(page.get_by_text("1 marked")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Undo")).click()
    expect(page.get_by_text("2 marked")).to_be_visible()


def test_what_is_compared_has_its_touch_ups(open_bench: Callable[..., Page]) -> None:
    page = open_bench(np.asarray(Image.open(DEMO / "wendlow_shore.jpg").reduce(6)))
    to_page(page, "Touch up")
    brush(page, (230, 215), (265, 215))
    expect(touch_up(page, 1)).to_have_attribute("data-state", "Done", timeout=MAKING)
    page.get_by_role("button", name="Compare").click()
    expect(page.locator("[data-compare] [data-touched='1']")).to_be_visible()
    png = page.screenshot()
    assert np.asarray(Image.open(io.BytesIO(png))).std() > 10
