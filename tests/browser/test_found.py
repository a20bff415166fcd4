"""Sequor looks first: what it finds is shown, left out line by line, taken in one press, and taken back in one."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from accessibility import violations
from bench import MAKING, stored
from pictures import image_bytes
from PIL import Image
from playwright.sync_api import Page, expect
from scenes import scene
from skimage import data

pytestmark = pytest.mark.browser

OpenDemo = Callable[[str], Page]


def step(page: Page, name: str) -> None:
    """Open a step."""
    page.get_by_role("navigation", name="Steps").get_by_role("button", name=name).click()


@pytest.mark.parametrize("name", ["mill", "shore"])
def test_a_photo_is_measured_in_two_presses(open_demo: OpenDemo, name: str) -> None:
    """The lines are drawn and nothing is changed; taken, they lead to how the picture was taken (as it was rendered)."""
    page = open_demo(name)
    step(page, "Lines")
    before = stored(page)
    page.get_by_role("button", name="Find lines for me").click()
    found = page.get_by_role("region", name="Found by Sequor")
    expect(found.get_by_text("Nothing is changed until you take them")).to_be_visible(timeout=MAKING)
    expect(page.locator("[data-found] g").first).to_be_attached()
    count = page.locator("[data-found] g").count()
    assert count >= 6 and stored(page) == before
    assert violations(page) == []
    lines = found.get_by_role("list", name="Lines that were found")
    lines.get_by_role("button").first.hover()
    expect(page.locator("[data-found] g[data-lit]")).to_have_count(1)
    lines.get_by_role("button").first.click()
    expect(page.locator("[data-found] g")).to_have_count(count - 1)
    found.get_by_role("button", name="Take: Verticals too").click()
    expect(found).to_have_count(0)
    page.wait_for_function("() => !document.documentElement.dataset.busy")
    recipe = stored(page)
    truth = scene(name).truth
    assert len(recipe["references"]) == count - 1
    assert recipe["correction"]["roll"] == pytest.approx(truth["roll_deg"], abs=0.1)
    assert recipe["correction"]["pitch"] == pytest.approx(truth["pitch_deg"], abs=0.3)
    expect(page.locator("[data-found]")).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Find lines for me")).to_be_visible()
    assert not stored(page)["references"]


def test_where_there_is_nothing_to_go_by_that_is_said(watched: Page, address: str, tmp_path: Path) -> None:
    path = tmp_path / "meadow.png"
    path.write_bytes(image_bytes(Image.fromarray(np.asarray(data.grass())), "PNG"))
    page = watched
    page.goto(address)
    page.locator("input[type=file]").set_input_files(path)
    page.get_by_role("link", name="Open Meadow").click(timeout=MAKING)
    step(page, "Lines")
    page.get_by_role("button", name="Find lines for me").click()
    found = page.get_by_role("region", name="Found by Sequor")
    expect(found.get_by_role("status")).to_contain_text("Draw a line", timeout=MAKING)
    expect(found.get_by_role("button", name="Take")).to_have_count(0)
    expect(page.locator("[data-found]")).to_have_count(0)
