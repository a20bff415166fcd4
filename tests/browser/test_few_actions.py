"""How few actions lead from the opened photo to the file: a press of a button, a drag, or something typed is one each."""

from __future__ import annotations

import re
from collections.abc import Callable
from io import BytesIO

import numpy as np
import pytest
from bench import MAKING, Point, drag, kept, on_stage, says, settle, stored
from PIL import Image
from playwright.sync_api import Locator, Page, expect
from scenes import scene

from sequor.pipeline.evaluated import evaluate
from sequor.recipe.parse import build

pytestmark = pytest.mark.browser

OpenDemo = Callable[[str], Page]


class Hand:
    """Works on a page and counts what it does."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.did = 0

    def press(self, button: Locator) -> None:
        """Press one button."""
        self.did += 1
        button.click()

    def draw(self, start: Point, end: Point) -> None:
        """Drag between two points of the picture."""
        self.did += 1
        drag(self.page, on_stage(self.page, start), on_stage(self.page, end))
        settle(self.page)

    def step(self, name: str) -> None:
        """Go to a step by the route."""
        self.press(self.page.get_by_role("navigation", name="Steps").get_by_role("button", name=name))

    def write(self) -> Image.Image:
        """Export by the primary action; the picture that was written."""
        self.step("Export")
        with self.page.expect_download(timeout=MAKING) as download:
            self.press(self.page.locator("[data-primary]"))
        return Image.open(BytesIO(download.value.path().read_bytes()))


def ends(name: str, start: str) -> tuple[Point, Point]:
    """The ends of a true line of a demo photo."""
    (ax, ay), (bx, by) = scene(name).line(start).tolist()
    return (ax, ay), (bx, by)


def test_a_horizon_in_three(open_demo: OpenDemo) -> None:
    hand = Hand(open_demo("shore"))
    hand.draw(*ends("shore", "waterline"))
    kept(hand.page, 1)
    written = hand.write()
    assert hand.did == 3
    assert written.width / written.height == pytest.approx(1.5, abs=2e-3)
    assert written.width < 3000


def test_a_recognised_lens_costs_none(open_demo: OpenDemo) -> None:
    """The mill's lens is corrected on import, which the route and the finding say, and one undo takes it off."""
    hand = Hand(open_demo("mill"))
    page = hand.page
    lens = page.get_by_role("navigation", name="Steps").get_by_role("button", name="Lens")
    expect(lens).to_contain_text("profile: IO 12-33mm")
    says(page, "The lens is corrected by its profile.")
    hand.draw(*ends("mill", "v6"))
    kept(page, 1)
    expect(page.get_by_text("lens not corrected")).to_have_count(0)
    written = hand.write()
    assert hand.did == 3
    assert written.width < 3000
    assert stored(page)["lens"]["source"] == "profile"
    hand.step("Lines")
    page.get_by_role("button", name="Undo", exact=True).click()
    settle(page)
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(lens).to_contain_text("not corrected")


def test_an_uncorrected_lens_is_said_beside_the_uncertainty_and_corrected_by_one_click(
    open_demo: OpenDemo,
) -> None:
    page = open_demo("mill")
    page.get_by_role("button", name="Undo", exact=True).click()
    lens = page.get_by_role("navigation", name="Steps").get_by_role("button", name="Lens")
    expect(lens).to_contain_text("not corrected")
    for wall in ("v6", "v7"):
        page.keyboard.press("Escape")
        drag(page, *(on_stage(page, end) for end in ends("mill", wall)))
    kept(page, 2)
    beside = page.locator("[data-taken-out]")
    expect(beside).to_contain_text("lens not corrected")
    says(page, "Lens not corrected: the ± allows for that.")
    settle(page)
    wide = stored_uncertainty(page)
    beside.get_by_role("button", name="Correct it").click()
    expect(lens).to_contain_text("profile: IO 12-33mm")
    expect(beside).not_to_contain_text("lens not corrected")
    settle(page)
    assert stored_uncertainty(page) < wide


def stored_uncertainty(page: Page) -> float:
    """The standard deviation of the tilt, as the core has it for the stored recipe."""
    sd = evaluate(build(stored(page))).solution.sd["roll"]
    assert sd is not None
    return sd


def test_a_subject_on_a_third_in_three(open_demo: OpenDemo) -> None:
    """Marked by a double click and dragged to where two thirds cross; what gave way is told beside the frame."""
    page = open_demo("shore")
    hand = Hand(page)
    hand.step("Crop")
    boat = on_stage(page, (1500, 1235))
    hand.did += 1
    page.mouse.dblclick(*boat)
    mark = page.get_by_role("button", name="Subject mark", exact=True)
    expect(mark).to_be_attached()
    settle(page)
    frame = page.get_by_role("button", name=re.compile("^Crop frame, .* pixels$")).bounding_box()
    assert frame is not None
    hand.did += 1
    there = frame["x"] + frame["width"] / 3 + 5, frame["y"] + frame["height"] * 2 / 3 - 5
    page.mouse.move(*boat)
    page.mouse.down()
    page.mouse.move(boat[0] - 30, boat[1] + 10)
    page.mouse.move(*there)
    expect(page.locator("[data-towards='0.33 0.67']")).to_be_attached()
    page.mouse.up()
    says = page.locator("[data-frame-says]")
    expect(says).to_contain_text("The frame was reduced to")
    assert hand.did == 3
    placed = evaluate(build(stored(page)))
    assert placed.subject is not None
    assert placed.frame.at(1 / 3, 2 / 3) == pytest.approx(placed.subject.centre, abs=1)
    says.get_by_role("button", name="Keep its size, fill the corners").click()
    expect(says).to_have_count(0)
    settle(page)
    filled = evaluate(build(stored(page)))
    assert filled.subject is not None and filled.recipe.frame.allow_empty
    assert filled.frame.width > placed.frame.width
    assert filled.frame.at(1 / 3, 2 / 3) == pytest.approx(filled.subject.centre, abs=1)


def test_leaning_walls_in_four(open_demo: OpenDemo) -> None:
    hand = Hand(open_demo("mill"))
    for wall in ("v6", "v7"):
        hand.page.keyboard.press("Escape")
        hand.draw(*ends("mill", wall))
    kept(hand.page, 2)
    hand.write()
    assert hand.did == 4
    kept_way = hand.page.get_by_role("group", name="What to correct").get_by_role(
        "button", name="Verticals too"
    )
    hand.step("Lines")
    expect(kept_way).to_have_attribute("aria-pressed", "true")


def test_a_rectangle_in_six(open_demo: OpenDemo) -> None:
    hand = Hand(open_demo("glasshouse"))
    left, right = ends("glasshouse", "door opening left"), ends("glasshouse", "door opening right")
    hand.press(hand.page.get_by_role("button", name="More kinds of line"))
    hand.press(hand.page.get_by_role("button", name="Rectangle", exact=True))
    corners = np.array([*left, *right])
    hand.draw(tuple(corners.min(axis=0)), tuple(corners.max(axis=0)))
    kept(hand.page, 1)
    square = hand.page.get_by_role("group", name="What to correct").get_by_role("button", name="Square-on")
    if square.get_attribute("aria-pressed") != "true":
        hand.press(square)
    settle(hand.page)
    hand.write()
    assert hand.did <= 6


def test_a_fill_and_its_take_in_three(open_demo: OpenDemo) -> None:
    page = open_demo("shore")
    hand = Hand(page)
    hand.draw(*ends("shore", "waterline"))
    hand.did = 0
    hand.step("Edges")
    hand.press(
        page.get_by_role("group", name="What to do with empty corners").get_by_role("button", name="Fill")
    )
    take = page.get_by_role("button", name="Take 2", exact=True)
    expect(take).to_be_visible(timeout=MAKING)
    hand.press(take)
    expect(take).to_have_attribute("aria-pressed", "true")
    assert hand.did == 3


def test_a_touch_up_in_three_and_a_version_in_two(open_demo: OpenDemo) -> None:
    page = open_demo("shore")
    hand = Hand(page)
    hand.step("Edges")
    hand.press(
        page.get_by_role("group", name="Pages of the step Edges").get_by_role("button", name="Touch up")
    )
    hand.draw((1230, 1240), (1400, 1240))
    expect(page.locator("[data-touch-up=t1]")).to_be_visible()
    assert hand.did == 3
    hand.did = 0
    hand.press(page.get_by_role("button", name="History", exact=True))
    name = page.get_by_label("Name for the current state")
    name.fill("without the boat")
    name.press("Enter")
    hand.did += 1
    expect(page.locator("[data-version='without the boat']")).to_be_visible()
    assert hand.did == 2
