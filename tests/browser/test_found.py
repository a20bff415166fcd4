"""Sequor looks first: what it finds is shown, left out line by line, taken in one press, and taken back in one."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from accessibility import violations
from bench import MAKING, drag, kept, on_stage, stored
from pictures import image_bytes
from PIL import Image
from playwright.sync_api import Locator, Page, expect
from scenes import scene
from scipy import ndimage, stats
from skimage import data

from sequor.store.database import Store

pytestmark = pytest.mark.browser

OpenDemo = Callable[[str], Page]


def step(page: Page, name: str) -> None:
    """Open a step."""
    page.get_by_role("navigation", name="Steps").get_by_role("button", name=name).click()


def found_by_sequor(page: Page) -> Locator:
    """What was found, once it is shown."""
    found = page.get_by_role("region", name="Found by Sequor")
    expect(found.get_by_role("status")).to_be_visible(timeout=MAKING)
    return found


def leans_by(picture: Image.Image) -> float:
    """How many degrees off upright most of the edges run that are nearly so, by the directions of a picture's gradients
    (a histogram of scipy's, none of our own code)."""
    grey = ndimage.gaussian_filter(np.asarray(picture.convert("L"), float), 2.5)
    across, down = ndimage.sobel(grey, axis=1), ndimage.sobel(grey, axis=0)
    strength = np.hypot(across, down)
    strong = strength > np.percentile(strength, 97)
    angle = np.degrees(np.arctan(down[strong] / (across[strong] + 1e-9)))
    counts, borders = np.histogram(angle, np.arange(-6, 6.01, 0.1), weights=strength[strong])
    return float(borders[ndimage.gaussian_filter1d(counts, 2).argmax()] + 0.05)


def rises_by(picture: Image.Image) -> float:
    """How many degrees the far border of the reservoir rises to the right: the strongest step from the dark wood to the
    light water, column by column, and the line through them (Theil's of scipy, none of our own code)."""
    grey = ndimage.gaussian_filter(np.asarray(picture.convert("L"), float), 3)
    height, width = grey.shape
    step = ndimage.sobel(grey, axis=0)[int(0.35 * height) : int(0.455 * height), width // 2 :]
    rows = step.argmax(axis=0)[::5]
    return float(-np.degrees(np.arctan(stats.theilslopes(rows, 5 * np.arange(len(rows)))[0])))


OFF_LEVEL = {"mill": leans_by, "shore": rises_by}


@pytest.mark.parametrize("name", ["mill", "shore"])
def test_a_photo_opens_with_what_was_found_and_enter_takes_it(open_demo: OpenDemo, name: str) -> None:
    """The lines are drawn and nothing is changed; taken, they lead to how the picture was taken (as it was rendered), and
    what is exported stands upright, or level, by its own pixels."""
    page = open_demo(name)
    before = stored(page)
    found = found_by_sequor(page)
    expect(found.get_by_text("Nothing is changed until you take them")).to_be_visible()
    expect(page.locator("[data-found] g").first).to_be_attached()
    count = page.locator("[data-found] g").count()
    assert count >= 6 and stored(page) == before
    assert violations(page) == []
    lines = found.get_by_role("list", name="Lines that were found")
    lines.get_by_role("button").first.hover()
    expect(page.locator("[data-found] g[data-lit]")).to_have_count(1)
    lines.get_by_role("button").first.click()
    expect(page.locator("[data-found] g")).to_have_count(count - 1)
    choices = page.get_by_role("group", name="Take the proposal")
    expect(choices.get_by_role("button")).to_have_count(3)
    expect(choices.get_by_role("button", name="Verticals too")).to_contain_text("suggested")
    page.get_by_role("heading", name="Found by Sequor").click()
    page.keyboard.press("Enter")
    expect(found).to_have_count(0)
    page.wait_for_function("() => !document.documentElement.dataset.busy")
    recipe = stored(page)
    truth = scene(name).truth
    assert len(recipe["references"]) == count - 1
    assert recipe["correction"]["roll"] == pytest.approx(truth["roll_deg"], abs=0.1)
    assert recipe["correction"]["pitch"] == pytest.approx(truth["pitch_deg"], abs=0.3)
    expect(page.locator("[data-found]")).to_have_count(0)
    expect(page.locator("[data-primary]")).to_contain_text("Go on to")
    step(page, "Export")
    with page.expect_download(timeout=MAKING) as download:
        page.locator("[data-primary]").click()
    assert abs(OFF_LEVEL[name](Image.open(download.value.path()))) < 0.2
    assert abs(OFF_LEVEL[name](Image.fromarray(scene(name).picture))) > 1.4
    step(page, "Lines")
    page.get_by_role("button", name="Undo").click()
    found_by_sequor(page)
    assert not stored(page)["references"]


def test_only_the_tilt_can_be_taken_in_one_press(open_demo: OpenDemo) -> None:
    page = open_demo("mill")
    found_by_sequor(page)
    page.get_by_role("group", name="Take the proposal").get_by_role("button", name="Tilt only").click()
    page.wait_for_function("() => !document.documentElement.dataset.busy")
    expect(page.get_by_role("region", name="Found by Sequor")).to_have_count(0)
    correction = stored(page)["correction"]
    assert correction["roll"] == pytest.approx(scene("mill").truth["roll_deg"], abs=0.1)
    assert correction["pitch"] == 0


def test_a_line_of_ones_own_puts_it_aside_and_so_does_a_press(open_demo: OpenDemo) -> None:
    page = open_demo("mill")
    found = found_by_sequor(page)
    expect(page.locator("[data-primary]")).to_contain_text("Take the proposal")
    found.get_by_role("button", name="Put aside").click()
    expect(page.locator("[data-found]")).to_have_count(0)
    expect(page.locator("[data-primary]")).to_contain_text("Go on to")
    page.get_by_role("button", name="Find lines for me").click()
    found_by_sequor(page)
    expect(page.locator("[data-found] g").first).to_be_attached()
    start, end = scene("mill").line("v6")
    drag(page, on_stage(page, tuple(start)), on_stage(page, tuple(end)))
    kept(page, 1)
    expect(page.locator("[data-found]")).to_have_count(0)
    expect(page.get_by_role("region", name="Found by Sequor")).to_have_count(0)


def test_what_was_found_ahead_is_there_at_once(open_demo: OpenDemo, store: Store) -> None:
    """A look is kept by what it is made of: the page asks for nothing anew that a worker has found."""
    page = open_demo("mill")
    found_by_sequor(page)
    (kept_look,) = list(store.looks.iterdir())
    written = kept_look.stat().st_mtime_ns
    page.reload()
    found_by_sequor(page)
    assert [one.stat().st_mtime_ns for one in store.looks.iterdir()] == [written]


@pytest.mark.parametrize("kind", ["grass", "canyon"])
def test_where_there_is_nothing_to_go_by_that_is_said(
    watched: Page, address: str, tmp_path: Path, kind: str
) -> None:
    """Grass that scikit-image ships, and walls of rock as a canyon has them: heaps of edges, none of them level or
    upright."""
    path = tmp_path / "meadow.png"
    path.write_bytes(
        image_bytes(Image.fromarray(np.asarray(data.grass()) if kind == "grass" else canyon()), "PNG")
    )
    page = watched
    page.goto(address)
    page.get_by_label("Photo files").set_input_files(path)
    page.get_by_role("link", name="Open Meadow").dblclick(timeout=MAKING)
    found = page.get_by_role("region", name="Found by Sequor")
    expect(found.get_by_role("status")).to_contain_text("Draw a line", timeout=MAKING)
    expect(page.get_by_role("group", name="Take the proposal")).to_have_count(0)
    expect(page.locator("[data-found]")).to_have_count(0)
    expect(page.locator("[data-primary]")).to_contain_text("Go on to")


def canyon() -> np.ndarray:
    """Two walls of strata that fall to either side of a gap, weathered, under a sky."""
    random = np.random.default_rng(11)
    y, x = np.mgrid[:800, :1200].astype(float)
    rough = sum(
        ndimage.zoom(random.normal(size=(800 // size + 2, 1200 // size + 2)), size, order=3)[:800, :1200]
        * size
        for size in (8, 20, 50, 110)
    )
    depth = np.where(x < 600, 0.6, -0.5) * (x - 600) + y + 1.3 * rough
    light = 120 + 40 * np.sin(depth / 17) + 25 * np.sin(depth / 5.3) + random.normal(0, 9, depth.shape)
    sky = y < 160 + 0.35 * np.abs(x - 600) + 1.4 * rough
    return np.clip(np.where(sky, 205 - y / 8, light), 0, 255).astype(np.uint8)
