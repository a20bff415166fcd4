"""What React draws anew while the hand moves something: counts, not times."""

from __future__ import annotations

import base64
import io
import json
from collections.abc import Callable

import numpy as np
import pytest
from bench import canvas_pixels, kept, on_stage, settle
from pictures import DEMO
from PIL import Image
from playwright.sync_api import Page, Route
from renders import count_renders, drawn, middle_of

MOVES = 12

MOST_A_MOVE = 10

MOST_A_STEP = 120

PIXELS = "document.querySelector('canvas').toDataURL()"


@pytest.fixture
def page(watched: Page, open_demo: Callable[[str], Page]) -> Page:
    """A demo photo with a horizon and a wall laid, its components counted."""
    count_renders(watched)
    opened = open_demo("shore")
    lines = {one["id"][:2]: one for one in json.loads((DEMO / "wendlow_shore.json").read_text())["lines"]}
    for count, (kind, name) in enumerate((("Horizontal", "h1"), ("Vertical", "v6")), 1):
        opened.get_by_role("button", name=kind, exact=True).click()
        opened.mouse.move(*on_stage(opened, tuple(lines[name]["p0"])))
        opened.mouse.down()
        opened.mouse.move(*on_stage(opened, tuple(lines[name]["p1"])), steps=3)
        opened.mouse.up()
        kept(opened, count)
    opened.get_by_role("button", name="Corrected", exact=True).click()
    settle(opened)
    return opened


def each_move(page: Page, at: tuple[float, float], button: str = "left") -> float:
    """How many components a move draws, once what is held has begun to move."""
    x, y = at
    page.mouse.move(x, y)
    page.mouse.down(button=button)  # type: ignore[arg-type]
    page.mouse.move(x + 6, y)
    settle(page)
    drawn(page)
    for move in range(MOVES):
        page.mouse.move(x + 7 + move, y)
        settle(page)
    total, names = drawn(page)
    page.mouse.up(button=button)  # type: ignore[arg-type]
    settle(page)
    print(names)
    return total / MOVES


def test_a_move_of_the_hand_draws_few_components(page: Page) -> None:
    assert 1 <= each_move(page, middle_of(page.get_by_role("slider").first, 0.8)) <= MOST_A_MOVE
    assert 1 <= each_move(page, middle_of(page.locator('[data-line="r1"][data-part="1"]'))) <= MOST_A_MOVE
    stage = middle_of(page.locator("[data-stage]"))
    assert 1 <= each_move(page, stage, "middle") <= MOST_A_MOVE
    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Crop").click()
    page.get_by_role("button", name="Crop frame, bottom right corner").press("Control+ArrowLeft")
    page.wait_for_timeout(700)
    assert 1 <= each_move(page, stage) <= MOST_A_MOVE


def test_a_change_of_the_step_draws_no_more_than_its_page(page: Page) -> None:
    for step in ("Crop", "Edges", "Lens", "Lines", "Export"):
        drawn(page)
        page.get_by_role("navigation", name="Steps").get_by_role("button", name=step).click()
        settle(page)
        total, names = drawn(page)
        assert 1 <= total <= MOST_A_STEP, names


def test_the_picture_does_not_wait_for_the_server(page: Page) -> None:
    """With two answers known the next picture is foreseen: it follows the hand while no answer comes at all, and
    is as good as the exact one that comes then."""
    x, y = middle_of(page.get_by_role("slider").first, 0.8)
    before = canvas_pixels(page)
    page.mouse.move(x, y)
    page.mouse.down()
    settle(page)
    asked: list[Route] = []

    def hold(request: Route) -> None:
        asked.append(request)

    page.route("**/api/evaluate", hold)
    page.mouse.move(x + 30, y)
    page.wait_for_timeout(100)
    foreseen = page.evaluate(PIXELS)
    for request in asked:
        request.continue_()
    page.unroute("**/api/evaluate")
    exact = canvas_pixels(page)
    page.mouse.up()
    assert exact != before
    away, apart = difference(foreseen, before), difference(foreseen, exact)
    assert away > 2 and apart < away / 5


def difference(one: str, other: str) -> float:
    """How far two drawn pictures are apart in the mean, in code values."""
    first, second = (
        np.asarray(Image.open(io.BytesIO(base64.b64decode(each.split(",")[1]))).convert("RGB"), float)
        for each in (one, other)
    )
    return float(np.abs(first - second).mean())
