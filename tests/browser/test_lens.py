"""The lens, work by hand, and looking closely, in the real interface."""

from __future__ import annotations

import json
import re
from collections.abc import Callable

import numpy as np
import pytest
from accessibility import violations
from bench import MAKING, canvas_pixels, click_points, drag, kept, on_stage, says, settle, stored
from pictures import DEMO, horizon_picture, smooth_picture
from playwright.sync_api import Locator, Page, expect

pytestmark = pytest.mark.browser
OpenDemo = Callable[[str], Page]
OpenBench = Callable[..., Page]


def route_word(page: Page, step: str) -> Locator:
    return page.get_by_role("navigation", name="Steps").get_by_role("button", name=re.compile(f"^{step}"))


def go_to_lens(page: Page) -> None:
    route_word(page, "Lens").click()
    expect(page.locator("[data-lens-step]")).to_be_visible()


def corrected(page: Page) -> None:
    page.get_by_role("button", name="Corrected", exact=True).click()
    page.wait_for_timeout(260)


def tiles_drawn(page: Page) -> None:
    """Wait until every tile in sight has come."""
    page.wait_for_function(
        "() => { const all = [...document.querySelectorAll('[data-tiles] img')];"
        " return all.length > 0 && all.every((one) => one.complete && one.naturalWidth === 256); }"
    )


def parapet() -> list[tuple[float, float]]:
    """Eight points of the viaduct's bowed coping, as truth has it."""
    lines = json.loads((DEMO / "wendlow_viaduct.json").read_text())["lines"]
    return [tuple(point) for point in next(one for one in lines if one["bow_px"] > 70)["polyline"][1:-1:2]]


def test_the_bowed_viaduct_by_its_profile(open_demo: OpenDemo) -> None:
    """Found by what the camera recorded; taken by one click, off by another; the picture changes and comes back."""
    page = open_demo("viaduct")
    corrected(page)
    expect(route_word(page, "Lens")).to_contain_text("profile: IO 12-33mm")
    go_to_lens(page)
    page.get_by_role("button", name="Off", exact=True).click()
    expect(route_word(page, "Lens")).to_contain_text("not corrected")
    settle(page)
    before = canvas_pixels(page)
    page.get_by_role("button", name="Profile", exact=True).click()
    page.get_by_role("button", name="IO 12-33mm").click()
    expect(route_word(page, "Lens")).to_contain_text("profile: IO 12-33mm")
    expect(page.locator("[data-bending]")).to_contain_text("barrel distortion, 16.0")
    says(page, "stretched too far and is left out")
    assert canvas_pixels(page) != before
    lens = stored(page)["lens"]
    assert (lens["source"], lens["model"], lens["profile"]["terms"][0]) == (
        "profile",
        "poly5",
        pytest.approx(-0.04923, abs=1e-5),
    )
    assert violations(page) == []
    page.get_by_role("button", name="Off", exact=True).click()
    expect(route_word(page, "Lens")).to_contain_text("not corrected")
    assert canvas_pixels(page) == before


def test_the_bowed_viaduct_by_hand(open_demo: OpenDemo) -> None:
    """A vernier against a grid that stands still; the value stays when something else is tried, and goes back to zero."""
    page = open_demo("viaduct")
    corrected(page)
    go_to_lens(page)
    page.get_by_role("button", name="By hand", exact=True).click()
    expect(route_word(page, "Lens")).to_contain_text("by hand")
    page.get_by_role("group", name="Grid").get_by_role("button", name="Wide").click()
    grid = page.locator("[data-grid=coarse]")
    where = grid.bounding_box()
    page.get_by_label("Distortion in per cent").fill("16")
    page.keyboard.press("Enter")
    expect(page.locator("[data-bending]")).to_contain_text("16.00% at the corners")
    assert stored(page)["lens"]["k1"] == pytest.approx(-0.16)
    assert grid.bounding_box() == where
    page.get_by_role("slider", name="Distortion corrected").focus()
    page.keyboard.press("Shift+ArrowLeft")
    page.wait_for_timeout(900)
    assert stored(page)["lens"]["k1"] == pytest.approx(-0.159)
    page.get_by_role("button", name="Off", exact=True).click()
    expect(route_word(page, "Lens")).to_contain_text("not corrected")
    page.get_by_role("button", name="By hand", exact=True).click()
    expect(page.get_by_label("Distortion in per cent")).to_have_value("15.90%")
    page.get_by_role("button", name="Reset distortion").click()
    expect(page.locator("[data-bending]")).to_contain_text("no distortion")


def test_the_bowed_viaduct_by_straight_things(open_demo: OpenDemo) -> None:
    """Eight clicks along the parapet: k1 within 5 % of the truth, the edge straight afterwards, its line still on it."""
    page = open_demo("viaduct")
    go_to_lens(page)
    page.get_by_role("button", name="Straight edges").click()
    expect(route_word(page, "Lens")).to_contain_text("no straight edge yet")
    points = parapet()
    click_points(page, [*points, points[-1]])
    expect(route_word(page, "Lens")).to_contain_text("from 1 straight edge")
    expect(page.get_by_text("1 drawn")).to_be_visible()
    lens = stored(page)["lens"]
    assert lens["source"] == "straight" and lens["k1"] == pytest.approx(-0.16, rel=0.05)
    expect(page.locator("[data-bending]")).to_contain_text(
        re.compile(r"barrel distortion, 1\d\.\d ± \d\.\d%")
    )
    corrected(page)
    page.wait_for_timeout(300)
    middles = [
        box["y"] + box["height"] / 2
        for box in (page.locator(f"[data-line] >> nth={n}").bounding_box() for n in range(1, 9))
        if box
    ]
    bow = np.polyfit(range(8), middles, 1, full=True)[1][0]
    assert len(middles) == 8 and bow < 8
    page.get_by_role("button", name="Delete straight edge 1").click()
    expect(route_word(page, "Lens")).to_contain_text("no straight edge yet")
    assert stored(page)["lens"]["k1"] == 0


def test_a_photo_of_an_unknown_lens(open_bench: OpenBench) -> None:
    """The route says so, the step says why and what else there is; a lens of the database can be looked for by name."""
    page = open_bench(smooth_picture(900, 600))
    expect(route_word(page, "Lens")).to_contain_text("no lens profile found")
    go_to_lens(page)
    page.get_by_role("button", name="Profile", exact=True).click()
    expect(page.get_by_text("No profile found: the file does not say which camera took it.")).to_be_visible()
    page.get_by_label("Lens name").fill("wendlow 99mm")
    page.get_by_role("button", name="Search", exact=True).click()
    expect(page.get_by_text("no lens named “wendlow 99mm”")).to_be_visible()
    page.get_by_role("button", name="By hand", exact=True).click()
    expect(route_word(page, "Lens")).to_contain_text("by hand")


def test_work_by_hand_against_what_stands_still(open_bench: OpenBench) -> None:
    """No line at all: the horizon is levelled by a still line that tells what lies under it; one by one and all back."""
    page = open_bench(horizon_picture(900, 600, -2.0))
    page.get_by_role("button", name="Adjust by hand", exact=True).click()
    expect(page.locator("[data-by-hand]")).to_be_visible()
    page.get_by_role("button", name="Add level guide").click()
    words = page.locator("[data-by-hand] li")
    grip = page.locator("[data-grip]")
    stage = page.locator("[data-stage]").bounding_box()
    assert stage is not None
    middle = on_stage(page, (450, 301))
    box = grip.bounding_box()
    assert box is not None
    drag(page, (box["x"] + 16, box["y"] + 20), (box["x"] + 16, middle[1]))
    expect(words).to_contain_text("Edge: drops 2.0")
    page.get_by_label("Tilt in degrees").fill("2.0")
    page.keyboard.press("Enter")
    expect(words).to_contain_text("Edge: level")
    expect(words).to_contain_text("as taken: drops 2.00° to the left")
    before = grip.bounding_box()
    grip.focus()
    page.keyboard.press("Shift+ArrowDown")
    after = grip.bounding_box()
    assert before and after and after["y"] == pytest.approx(before["y"] + 10, abs=0.6)
    for name, value in (("Verticals", "6"), ("Horizontals", "-4"), ("Proportions", "5")):
        page.get_by_label(re.compile(f"^{name} in")).fill(value)
        page.keyboard.press("Enter")
        page.wait_for_timeout(300)
    made = stored(page)["correction"]
    assert made["by_hand"] == {"roll": 2.0, "pitch": 6.0, "yaw": -4.0} and made["proportion"] == 1.05
    assert violations(page) == []
    page.get_by_role("button", name="Reset verticals").click()
    page.wait_for_timeout(300)
    assert stored(page)["correction"]["by_hand"]["pitch"] == 0
    page.get_by_role("button", name="Reset all").click()
    page.wait_for_timeout(300)
    made = stored(page)["correction"]
    assert set(made["by_hand"].values()) == {0} and made["proportion"] == 1
    page.keyboard.press("u")
    expect(page.locator("[data-still=upright]")).to_be_attached()
    page.get_by_role("button", name="Remove guide A").click()
    expect(page.locator("[data-still]")).to_have_count(1)


def test_compare_in_three_ways_and_with_a_revision(open_bench: OpenBench) -> None:
    page = open_bench(horizon_picture(900, 600, -2.3))
    drag(page, on_stage(page, (50, 316)), on_stage(page, (850, 284)))
    kept(page, 1)
    page.get_by_role("button", name="Adjust by hand", exact=True).click()
    page.get_by_label("Tilt in degrees").fill("10")
    page.keyboard.press("Enter")
    page.wait_for_load_state("networkidle", timeout=MAKING)
    page.get_by_role("button", name="Compare").click()
    panes = page.locator("[data-pane] canvas[data-drawn]:not([data-drawn='0'])")
    expect(panes).to_have_count(2)
    expect(page.locator("[data-title]")).to_have_text(["As taken", "Current state"])
    settle(page)
    left, right = (pane.evaluate("node => node.toDataURL()") for pane in panes.all())
    assert left != right
    assert violations(page) == []
    compare = page.locator("[data-compare]")
    place = compare.get_attribute("data-middle")
    compare.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("+")
    assert compare.get_attribute("data-middle") != place
    page.get_by_role("combobox", name="Left picture").select_option(label="2 · Line 1: drawn, horizontal")
    expect(page.locator("[data-title]")).to_have_text(["2 · Line 1: drawn, horizontal", "Current state"])
    page.get_by_role("button", name="Wipe").click()
    divider = page.get_by_role("slider", name="Divider between the two pictures")
    divider.focus()
    page.keyboard.press("Shift+ArrowRight")
    expect(divider).to_have_attribute("aria-valuenow", "60")
    page.get_by_role("button", name="Flick", exact=True).click()
    expect(panes).to_have_count(1)
    shown = page.get_by_role("button", name="Swap (showing right)")
    expect(shown).to_be_visible()
    page.keyboard.press("b")
    expect(page.get_by_role("button", name="Swap (showing left)")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.locator("[data-stage]")).to_be_visible()
    assert stored(page)["correction"]["by_hand"]["roll"] == pytest.approx(10 - 2.29, abs=0.05)


def test_real_pixels_at_a_hundred_per_cent_through_the_lens(open_demo: OpenDemo) -> None:
    """Tiles of what is visible, rendered by the core through the same map, on the bench and in the comparison."""
    page = open_demo("mill")
    corrected(page)
    go_to_lens(page)
    expect(route_word(page, "Lens")).to_contain_text("profile")
    page.get_by_role("group", name="View").get_by_role("button", name="100%").click()
    tiles = page.locator("[data-tiles] img")
    expect(tiles.first).to_be_attached()
    tiles_drawn(page)
    assert 6 <= tiles.count() <= 40
    page.get_by_role("button", name="Compare").click()
    page.locator("[data-compare]").get_by_role("button", name="100%").click()
    expect(page.locator("[data-pane] [data-tiles]")).to_have_count(2)
    tiles_drawn(page)
    maps = page.evaluate(
        "[...document.querySelectorAll('[data-pane] [data-tiles]')].map(one => one.querySelector('img').src.split('/').at(-3))"
    )
    assert len(set(maps)) == 2


def test_a_wall_can_be_measured_where_a_straight_thing_lies(open_bench: OpenBench) -> None:
    """What tells the lens is not in the way of the hand at the step Lines."""
    page = open_bench(horizon_picture(900, 600, -2.0))
    go_to_lens(page)
    page.get_by_role("button", name="Straight edges").click()
    expect(route_word(page, "Lens")).to_contain_text("no straight edge yet")
    click_points(page, [(50, 314), (450, 300), (850, 286), (850, 286)])
    expect(page.get_by_text("1 drawn")).to_be_visible()
    things = stored(page)["references"]
    route_word(page, "Lines").click()
    drag(page, on_stage(page, (50, 314)), on_stage(page, (850, 286)))
    kept(page, 2)
    after = stored(page)["references"]
    assert after[0] == things[0] and after[1]["kind"] == "level"
