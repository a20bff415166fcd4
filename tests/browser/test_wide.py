"""Wide views in the real interface: the yard made right line by line, a fisheye by its law, and what was said of it."""

from __future__ import annotations

import json
import re
from collections.abc import Callable

import numpy as np
import pytest
from accessibility import violations
from bench import arrived, canvas_pixels, drag, now, on_stage, says, settle, stored
from pictures import DEMO
from PIL import Image
from playwright.sync_api import Page, expect

from sequor.core.references.line import bend, slope_of
from sequor.core.warp.wide.view import WideWarp
from sequor.core.warp.wide.wish import arc

pytestmark = pytest.mark.browser
OpenDemo = Callable[[str], Page]
OpenBench = Callable[..., Page]
Line = tuple[tuple[float, float], tuple[float, float]]


def true_line(name: str, start: str) -> Line:
    lines = json.loads((DEMO / f"wendlow_{name}.json").read_text())["lines"]
    found = next(one for one in lines if one["id"].startswith(start + " "))
    return tuple(found["p0"]), tuple(found["p1"])


def to_wide(page: Page) -> None:
    page.get_by_role("navigation", name="Steps").get_by_role("button", name=re.compile("^Lens")).click()
    page.get_by_role("button", name="Wide view").click()
    expect(page.get_by_role("heading", name="How wide it looks")).to_be_visible()


def view(page: Page, name: str) -> None:
    """Choose a way to put it on paper by its small picture."""
    ways = page.get_by_role("group", name="How it is put on paper")
    ways.get_by_role("button", name=re.compile(f"^{name} ")).click()
    arrived(page)


def lay(page: Page, ends: Line, number: int) -> None:
    """Draw a line on the photo as taken, whole on the stage."""
    page.get_by_role("button", name="As taken").click()
    page.get_by_role("button", name="Whole", exact=True).click()
    page.wait_for_timeout(300)
    drag(page, on_stage(page, ends[0]), on_stage(page, ends[1]))
    expect(page.locator("[data-wish]")).to_have_count(number)
    arrived(page)


def slid(page: Page, name: str, to: int) -> None:
    """Lead a slider by the keys to a place in 200 steps."""
    slider = page.get_by_role("slider", name=name)
    slider.fill(str(to))
    slider.press("Tab")
    arrived(page)


def test_the_yard_is_made_right_by_four_lines(open_demo: OpenDemo) -> None:
    """Four lines, one wall left 1 degree inwards, looking like 35 mm, the courses level, the corners filled."""
    page = open_demo("yard")
    to_wide(page)
    for number, name in enumerate(("v9", "v7", "h3", "h6"), 1):
        lay(page, true_line("yard", name), number)
    page.get_by_role("button", name="Corrected", exact=True).click()
    settle(page)
    before = canvas_pixels(page)
    view(page, "Round")
    expect(page.get_by_role("slider", name="Looks like")).to_have_attribute("aria-valuetext", "35 mm")
    settle(page)
    assert canvas_pixels(page) != before
    page.get_by_role("button", name="All", exact=True).click()
    says(page, r"Stretched at most 1\.\d+ × near the border")
    lean = page.locator("[data-wish]").nth(1).get_by_label("Lean to the right, in degrees")
    lean.fill("-1")
    lean.press("Enter")
    expect(page.get_by_role("button", name="Let all go")).to_be_enabled()
    settle(page)
    assert violations(page) == []
    evaluation = now(page)
    warp = evaluation.warp
    assert isinstance(warp, WideWarp)
    for part, slope in zip(evaluation.recipe.references, (90.0, 89.0, 0.0, 0.0), strict=True):
        exact = warp.map.exact
        path = exact.photo_of(arc(exact.rays_of(np.array(part.points)), np.linspace(0, 1, 100)))
        points = warp.to_corrected(path)
        assert bend(points) < 0.3, part.id
        assert abs((slope_of(points[-1] - points[0]) - slope + 90) % 180 - 90) < 0.02, part.id
    page.get_by_role("navigation", name="Steps").get_by_role("button", name=re.compile("^Edges")).click()
    page.get_by_role("group", name="What to do with empty corners").get_by_role(
        "button", name=re.compile("^Fill")
    ).click()
    arrived(page)
    recipe = stored(page)
    assert recipe["edges"]["mode"] == "fill"
    assert recipe["view"] == {"kind": "round", "looks_like_35mm": 35.0, "uprights": 3.0}
    assert [one["become"]["off_deg"] for one in recipe["references"]] == [0.0, -1.0, 0.0, 0.0]
    takes = page.get_by_role("group", name="Takes for everywhere")
    expect(takes.get_by_role("button", name="Take 1")).to_have_attribute(
        "aria-pressed", "true", timeout=120_000
    )


def test_a_fisheye_by_its_law(open_bench: OpenBench) -> None:
    """No profile: the law and the focal length are said; the picture is cut where it would be stretched too far, and a
    round view shows all of it."""
    picture = np.asarray(Image.open(DEMO / "wendlow_fisheye.jpg").reduce(3))
    page = open_bench(picture)
    page.get_by_role("navigation", name="Steps").get_by_role("button", name=re.compile("^Lens")).click()
    page.get_by_role("button", name="Fisheye", exact=True).click()
    expect(page.locator("[data-bending]")).to_contain_text("fisheye, 15.3 mm full-frame equivalent")
    says(page, "stretched too far and is left out")
    page.get_by_role("combobox", name="Lens type").select_option("stereographic")
    arrived(page)
    assert stored(page)["lens"]["model"] == "stereographic"
    page.get_by_role("combobox", name="Lens type").select_option("equisolid")
    focal = page.get_by_label("Focal length, full-frame equivalent")
    focal.fill("15.3")
    focal.press("Enter")
    arrived(page)
    page.get_by_role("button", name="Wide view").click()
    view(page, "Round")
    expect(page.locator("[data-finding]")).not_to_contain_text("left out")
    kept_round = page.get_by_role("group", name="How it is put on paper").get_by_role(
        "button", name=re.compile("^Round ")
    )
    expect(kept_round).to_have_attribute("aria-pressed", "true")
    assert stored(page)["lens"]["focal_px"] == pytest.approx(15.3 * np.hypot(1000, 667) / 43.27, abs=0.5)
    assert violations(page) == []
    page.get_by_role("button", name="Distortion", exact=True).click()
    page.get_by_role("button", name="Off", exact=True).click()
    arrived(page)
    assert stored(page)["lens"]["focal_px"] is None


def test_how_wide_it_looks_follows_the_hand(open_demo: OpenDemo) -> None:
    """From flat to round by one slider; letting go is one action, and undo takes it back."""
    page = open_demo("yard")
    page.get_by_role("button", name="Corrected", exact=True).click()
    to_wide(page)
    settle(page)
    flat = canvas_pixels(page)
    slid(page, "Looks like", 200)
    settle(page)
    assert canvas_pixels(page) != flat
    assert stored(page)["view"]["kind"] == "round"
    expect(page.get_by_role("slider", name="Looks like")).to_have_attribute("aria-valuetext", "round")
    slid(page, "Keep verticals upright", 0)
    assert stored(page)["view"]["uprights"] == 0
    page.get_by_role("switch", name="Keep the border a rectangle").click()
    arrived(page)
    says(page, "The whole picture is kept")
    for _ in range(3):
        page.get_by_role("button", name="Undo", exact=True).click()
        arrived(page)
    settle(page)
    assert stored(page)["view"]["kind"] == "flat"
    assert canvas_pixels(page) == flat


def test_what_cannot_be_met_is_said_beside_its_line(open_demo: OpenDemo) -> None:
    """A level course that is to become upright would fold the picture: it goes as far as it can."""
    page = open_demo("yard")
    to_wide(page)
    lay(page, true_line("yard", "h2"), 1)
    lay(page, true_line("yard", "h3"), 2)
    page.get_by_role("combobox", name="What line 1 becomes").select_option("level")
    page.get_by_role("combobox", name="What line 2 becomes").select_option("upright")
    told = page.locator("[data-wish]").nth(1).get_by_role("status")
    expect(told).to_contain_text(re.compile(r"Line 2 goes to \d+(\.\d)?% of what was asked"))
    says(page, "Line 2 goes to")
    page.get_by_role("combobox", name="What line 2 becomes").select_option("")
    expect(told).to_have_count(0)
