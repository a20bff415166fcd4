"""Two walls of a demo photo, and their middle on a line of the frame."""

from __future__ import annotations

import json
import re
from collections.abc import Callable

import numpy as np
import pytest
from bench import drag, kept, now, on_stage, says, stored, to_page
from pictures import DEMO
from playwright.sync_api import Page, expect

pytestmark = pytest.mark.browser


def test_the_middle_between_two_walls(open_demo: Callable[[str], Page]) -> None:
    """Three true edges of the mill; two of them are chosen, their middle is shown and put on the centre."""
    page = open_demo("mill")
    lines = json.loads((DEMO / "wendlow_mill.json").read_text())["lines"]
    page.get_by_role("button", name="Vertical", exact=True).click()
    for start in ("v6", "v5", "v7"):
        edge = next(one for one in lines if one["id"].startswith(start))
        page.keyboard.press("Escape")
        drag(page, on_stage(page, tuple(edge["p0"])), on_stage(page, tuple(edge["p1"])))
        page.wait_for_timeout(300)
    kept(page, 3)
    page.get_by_role("button", name=re.compile("^Crop 3:2")).click()
    expect(page.get_by_role("group", name="What each choice keeps")).to_be_visible()
    to_page(page, "Compose")
    page.get_by_role("group", name="Composition overlay").get_by_role(
        "button", name="Middle of two verticals"
    ).click()
    page.get_by_role("group", name="What to place").get_by_role(
        "button", name="Middle of two verticals"
    ).click()
    page.get_by_label("Second vertical").select_option(label="vertical: line 3")
    page.get_by_role("group", name="Which lines").get_by_role("button", name="Centre", exact=True).click()
    page.get_by_label("On the vertical line 50% from the left").click()
    says(page, "Cropped to 3:2")
    placed = now(page)
    points = [np.array(stored(page)["references"][at]["points"]) for at in (0, 2)]
    middles = [placed.warp.to_corrected(one)[:, 0].mean() for one in points]
    assert placed.frame.centre[0] == pytest.approx(np.mean(middles), abs=1)


def test_a_horizon_and_a_wall_agree_and_the_product_asks_for_the_line_that_helps(
    open_demo: Callable[[str], Page],
) -> None:
    """A wall of the boathouse alone says little of the tilt, which is said with the line that would help, and
    where; with the horizon nothing disagrees, the wall's lean tells the aim, and taking it out is offered
    with its cost."""
    page = open_demo("shore")
    lines = {one["id"][:2]: one for one in json.loads((DEMO / "wendlow_shore.json").read_text())["lines"]}

    def lay(kind: str, name: str) -> None:
        page.get_by_role("button", name=kind, exact=True).click()
        drag(page, on_stage(page, tuple(lines[name]["p0"])), on_stage(page, tuple(lines[name]["p1"])))

    lay("Vertical", "v6")
    kept(page, 1)
    advised = page.get_by_role("group", name="Advice")
    expect(advised).to_contain_text("This line is far from the middle")
    expect(page.locator("[data-advice=plumb]")).to_be_visible()
    page.get_by_role("button", name="Horizontal", exact=True).click()
    advised.get_by_role("button", name="Draw this line").click()
    expect(page.get_by_role("button", name="Vertical", exact=True)).to_have_attribute("aria-pressed", "true")
    lay("Horizontal", "h1")
    kept(page, 2)
    expect(page.locator("[data-advice]")).to_have_count(0)
    says(page, r"2\.\d\d° ± 0\.0\d° to the left; the camera pointed 2\.\d° ± 0\.\d° down\.")
    page.get_by_role("button", name=re.compile("^Tilt only")).click()
    says(page, r"Line \d leans 1\.\d° to the left because the camera pointed 2\.\d° ± 0\.\d° down\.")
    offer = page.get_by_role("group", name="Suggestion").get_by_role(
        "button", name=re.compile("^Correct verticals too: keeps")
    )
    offer.click()
    says(page, r"the camera pointed 2\.\d° ± 0\.\d° down\.")
    assert now(page).solution.sd["pitch"] is not None
