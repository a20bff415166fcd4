"""The step Lines under the hand: every kind of line, by mouse, keyboard and touch."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from bench import choose_kind, click_points, drag, kept, on_stage, says, settle
from pictures import horizon_picture
from playwright.sync_api import Page, expect

pytestmark = pytest.mark.browser
OpenDemo = Callable[[str], Page]


@pytest.fixture
def page_on_bench(open_bench: Callable[..., Page]) -> Page:
    page = open_bench(horizon_picture(900, 600, -2.3))
    page.get_by_role("button", name="As taken").click()
    return page


def test_snapping_can_be_switched_off_and_undone_for_one_line(page_on_bench: Page) -> None:
    page = page_on_bench
    drag(page, on_stage(page, (80, 318)), on_stage(page, (820, 286)))
    kept(page, 1)
    says(page, r"drops 2\.3\d?° .*to the left")
    page.get_by_role("button", name="Undo snap").click()
    says(page, r"drops 2\.[45]\d?°")
    page.get_by_role("button", name="Snap to edge", exact=True).click()
    says(page, r"drops 2\.3\d?° .*to the left")
    page.keyboard.press("n")
    expect(page.get_by_role("switch", name="Snap to edges")).not_to_be_checked()
    drag(page, on_stage(page, (100, 120)), on_stage(page, (700, 100)))
    kept(page, 2)
    expect(page.get_by_text("Not snapped")).not_to_be_attached()
    page.get_by_role("button", name="Snap to edge", exact=True).click()
    expect(page.get_by_text("Not snapped: there is no edge along most of the line.")).to_be_visible()


def test_a_straight_thing_is_laid_and_pulled(page_on_bench: Page) -> None:
    page = page_on_bench
    choose_kind(page, "Straight")
    click_points(page, [(80, 200), (450, 210), (800, 200)])
    page.mouse.click(*on_stage(page, (800, 200)))
    kept(page, 1)
    row = page.get_by_role("button", name=re.compile("^1 straight edge"))
    expect(row).to_contain_text("curved by 6.7 px")
    drag(page, on_stage(page, (450, 210)), on_stage(page, (450, 200)))
    expect(row).to_contain_text("straight")
    page.get_by_role("button", name="Add a point").click()
    expect(page.get_by_role("button", name="Line 1, point 4")).to_be_attached()


def test_rows_and_lines_light_each_other_up(page_on_bench: Page) -> None:
    page = page_on_bench
    drag(page, on_stage(page, (80, 318)), on_stage(page, (820, 286)))
    kept(page, 1)
    page.keyboard.press("k")
    drag(page, on_stage(page, (200, 100)), on_stage(page, (700, 120)))
    kept(page, 2)
    expect(page.locator("li.entry[data-chosen=true]")).to_contain_text("check line")
    page.get_by_role("button", name=re.compile("^2 check line")).click()
    page.mouse.move(640, 20)
    lit = page.locator("g[data-lit=true]")
    expect(lit).to_have_count(0)
    page.get_by_role("button", name=re.compile("^1 horizontal")).hover()
    expect(lit).to_have_count(1)
    page.mouse.move(*on_stage(page, (300, 104)))
    expect(page.locator("li[data-pointed=true]")).to_contain_text("check line")


def test_weights_groups_clearing_and_the_field_book_as_files(page_on_bench: Page, tmp_path: Path) -> None:
    page = page_on_bench
    page.keyboard.press("n")
    choose_kind(page, "Receding")
    for index, x in enumerate((150, 600)):
        drag(page, on_stage(page, (x, 580)), on_stage(page, (x + 120, 330)))
        kept(page, index + 1)
    page.get_by_label("Parallel to").select_option("2")
    expect(page.get_by_role("button", name=re.compile("^2 receding 2"))).to_contain_text(
        "needs a second parallel line"
    )
    page.get_by_label("Parallel to").select_option("1")
    expect(page.get_by_role("button", name=re.compile("^2 receding 1"))).not_to_contain_text(
        "needs a second parallel line"
    )
    weight = page.get_by_label("Weight of this line; 1 is normal, 2 counts double")
    weight.fill("2.5")
    weight.press("Enter")
    expect(weight).to_have_value("2.5 ×")
    for kind in ("CSV", "JSON"):
        with page.expect_download() as download:
            page.get_by_role("link", name=f"Download your lines as {kind}").click()
        text = Path(download.value.path()).read_text()
        if kind == "CSV":
            assert text.splitlines()[2].startswith("2,r2,receding,1,")
        else:
            assert json.loads(text)[1]["weight"] == 2.5
    page.get_by_role("button", name="Delete all").click()
    expect(page.locator("li.entry")).to_have_count(0)
    page.keyboard.press("Control+z")
    kept(page, 2)


def test_every_kind_by_keyboard_alone(page_on_bench: Page) -> None:
    """Enter places point after point under the magnifier: a rectangle takes four."""
    page = page_on_bench
    page.keyboard.press("n")
    page.keyboard.press("c")
    stage = page.locator("[data-stage]")
    stage.focus()
    page.keyboard.press("Enter")
    for move in ("Control+ArrowLeft", "Control+ArrowRight", "Control+ArrowDown", "Control+ArrowLeft"):
        page.keyboard.press(move)
        expect(page.locator("[data-magnifier]")).to_be_visible()
        page.keyboard.press("Enter")
    kept(page, 1)
    expect(page.get_by_role("button", name=re.compile("^1 rectangle"))).to_be_visible()
    page.get_by_role("button", name="Line 1, bottom left corner").focus()
    page.keyboard.press("ArrowDown")
    page.wait_for_timeout(700)
    settle(page)
    page.keyboard.press("Delete")
    expect(page.locator("li.entry")).to_have_count(0)


def test_a_line_is_laid_by_touch(page_on_bench: Page) -> None:
    """A finger is less sure than a mouse: the same line has three times its uncertainty."""
    page = page_on_bench
    page.keyboard.press("n")
    wide = []
    for kind in ("mouse", "touch"):
        page.evaluate(
            """async ([kind, a, b]) => {
              const stage = document.querySelector("[data-stage]");
              stage.setPointerCapture = () => {};
              const send = (type, [x, y]) => {
                stage.dispatchEvent(new PointerEvent(type,
                  {bubbles: true, clientX: x, clientY: y, pointerId: 7, pointerType: kind, button: 0, isPrimary: true}));
                return new Promise(resolve => setTimeout(resolve, 40));
              };
              await send("pointerdown", a); await send("pointermove", [(a[0] + b[0]) / 2, b[1]]);
              await send("pointermove", b); await send("pointerup", b);
            }""",
            [kind, on_stage(page, (80, 318)), on_stage(page, (820, 286))],
        )
        kept(page, 1)
        text = page.get_by_role("button", name=re.compile("^1 horizontal")).text_content() or ""
        wide.append(float(re.findall(r"± ([\d.]+)°", text)[0]))
        page.keyboard.press("Control+z")
        expect(page.locator("li.entry")).to_have_count(0)
    assert wide[1] / wide[0] == pytest.approx(3, rel=0.15)
    assert np.isfinite(wide).all()
