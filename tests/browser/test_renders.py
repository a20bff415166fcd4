"""What React draws anew while the hand moves something: counts, not times."""

from __future__ import annotations

import json
from collections.abc import Callable

import pytest
from bench import kept, on_stage, settle
from pictures import DEMO
from playwright.sync_api import Locator, Page
from renders import HOOK, drawn

MOVES = 12

MOST_A_MOVE = 10

MOST_A_STEP = 120


@pytest.fixture
def page(watched: Page, open_demo: Callable[[str], Page]) -> Page:
    """A demo photo with a horizon and a wall laid, its components counted."""
    watched.add_init_script(HOOK)
    opened = open_demo("shore")
    lines = {one["id"][:2]: one for one in json.loads((DEMO / "wendlow_shore.json").read_text())["lines"]}
    for count, (kind, name) in enumerate((("Level", "h1"), ("Plumb", "v6")), 1):
        opened.get_by_role("button", name=kind, exact=True).click()
        opened.mouse.move(*on_stage(opened, tuple(lines[name]["p0"])))
        opened.mouse.down()
        opened.mouse.move(*on_stage(opened, tuple(lines[name]["p1"])), steps=3)
        opened.mouse.up()
        kept(opened, count)
    opened.get_by_role("button", name="as corrected").click()
    settle(opened)
    return opened


def middle_of(target: Locator, down: float = 0.5) -> tuple[float, float]:
    box = target.bounding_box()
    assert box is not None
    return box["x"] + box["width"] / 2, box["y"] + box["height"] * down


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
    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Frame").click()
    page.get_by_role("button", name="Frame, bottom right corner").press("Control+ArrowLeft")
    page.wait_for_timeout(700)
    assert 1 <= each_move(page, stage) <= MOST_A_MOVE


def test_a_change_of_the_step_draws_no_more_than_its_page(page: Page) -> None:
    for step in ("Frame", "Edges", "Lens", "Lines", "Export"):
        drawn(page)
        page.get_by_role("navigation", name="Steps").get_by_role("button", name=step).click()
        settle(page)
        total, names = drawn(page)
        assert 1 <= total <= MOST_A_STEP, names
