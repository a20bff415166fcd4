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
    page.get_by_role("button", name="Plumb", exact=True).click()
    for start in ("v6", "v5", "v7"):
        edge = next(one for one in lines if one["id"].startswith(start))
        drag(page, on_stage(page, tuple(edge["p0"])), on_stage(page, tuple(edge["p1"])))
        page.wait_for_timeout(300)
    kept(page, 3)
    page.get_by_role("button", name=re.compile("^Frame 3:2")).click()
    expect(page.get_by_role("group", name="Walls upright")).to_be_visible()
    to_page(page, "Compose")
    page.get_by_role("group", name="Lines in the frame").get_by_role("button", name="Between walls").click()
    page.get_by_role("group", name="What is placed").get_by_role("button", name="Between walls").click()
    page.get_by_label("The other wall").select_option(label="wall: line 3")
    page.get_by_role("group", name="On lines of").get_by_role("button", name="Centre").click()
    page.get_by_label("On the upright line at 50 % from the left").click()
    says(page, "The frame at 3:2 keeps")
    placed = now(page)
    points = [np.array(stored(page)["references"][at]["points"]) for at in (0, 2)]
    middles = [placed.mapping.to_corrected(one)[:, 0].mean() for one in points]
    assert placed.frame.centre[0] == pytest.approx(np.mean(middles), abs=1)
