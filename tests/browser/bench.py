"""How a hand works on the bench: photo points on the stage, lines, waiting for what is kept."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any

from playwright.sync_api import Locator, Page, expect

from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.recipe.parse import build

Point = tuple[float, float]

MAKING = 120_000
"""Milliseconds within which a take is made, also on a machine that is four times as slow."""


def on_stage(page: Page, point: Point) -> Point:
    """Where a point of the corrected picture lies on the screen; as taken, that is a point of the photo."""
    stage = page.locator("[data-stage]")
    box = stage.bounding_box()
    assert box is not None
    scale = float(stage.get_attribute("data-scale") or 1)
    x, y = (float(value) for value in (stage.get_attribute("data-middle") or "").split())
    return (
        box["x"] + box["width"] / 2 + (point[0] - x) * scale,
        box["y"] + box["height"] / 2 + (point[1] - y) * scale,
    )


def drag(page: Page, start: Point, end: Point, let_go: bool = True) -> None:
    """Press, move in steps, let go."""
    page.mouse.move(*start)
    page.mouse.down()
    for share in (0.2, 0.6, 1.0):
        page.mouse.move(start[0] + (end[0] - start[0]) * share, start[1] + (end[1] - start[1]) * share)
    if let_go:
        page.mouse.up()


def choose_kind(page: Page, name: str) -> None:
    """The kind of line that is laid next."""
    kinds = page.get_by_role("group", name=re.compile("[kK]inds? of line to draw"))
    if not kinds.get_by_role("button", name=name, exact=True).count():
        page.get_by_role("button", name="More kinds of line").click()
        kinds = page.get_by_role("group", name="More kinds of line to draw")
    kinds.get_by_role("button", name=name, exact=True).click()


def click_points(page: Page, points: Iterable[Point]) -> None:
    """Click one point of the picture after the other, each apart from the last in time."""
    for point in points:
        page.mouse.move(*on_stage(page, point))
        page.mouse.click(*on_stage(page, point))


def finding(page: Page) -> Locator:
    """The sentence at the foot."""
    return page.locator("[data-finding]")


def says(page: Page, words: str) -> None:
    """Wait until the finding holds these words (a regular expression)."""
    try:
        expect(finding(page)).to_contain_text(re.compile(words))
    except AssertionError as error:
        told = [*page.get_by_role("alert").all_inner_texts(), *page.get_by_role("status").all_inner_texts()]
        error.add_note(f"The page tells: {told}")
        raise


def kept(page: Page, count: int) -> None:
    """Wait until so many lines stand in the field book and the last action is stored."""
    expect(page.locator("li.entry")).to_have_count(count)
    expect(page.get_by_role("button", name="Undo", exact=True)).to_be_enabled()
    arrived(page)
    page.wait_for_load_state("networkidle", timeout=MAKING)


def arrived(page: Page) -> None:
    """Wait until the server has all that was done on the page."""
    page.wait_for_function("() => !document.documentElement.hasAttribute('data-busy')", timeout=MAKING)


def canvas_pixels(page: Page) -> str:
    """The drawn preview once it rests, as a string that differs when a pixel does."""
    alike: list[str] = []
    for _ in range(40):
        settle(page)
        alike = [*alike, page.evaluate("document.querySelector('canvas').toDataURL()")][-3:]
        if len(alike) == 3 and len(set(alike)) == 1:
            break
    return alike[-1]


def settle(page: Page) -> None:
    """Let what was done arrive, answers come in and the easing end."""
    arrived(page)
    page.wait_for_load_state("networkidle", timeout=MAKING)
    page.wait_for_timeout(260)


def stored(page: Page) -> dict[str, Any]:
    """The recipe as the server has it, once nothing changes it any more."""
    number = page.url.rsplit("/", 1)[1]
    address = f"{page.url.rsplit('/photos', 1)[0]}/api/photos/{number}"
    arrived(page)
    before: dict[str, Any] = {}
    for _ in range(30):
        page.wait_for_timeout(350)
        now = page.request.get(address).json()["recipe"]
        if now == before:
            return now
        before = now
    raise AssertionError("the recipe does not come to rest")


def to_page(page: Page, name: str) -> None:
    """One of the three pages of the step."""
    page.get_by_role("group", name="Pages of the step Crop").get_by_role("button", name=name).click()


def now(page: Page) -> Evaluated:
    """What is stored, as the core sees it."""
    return evaluate(build(stored(page)))
