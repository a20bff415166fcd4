"""The step Edges under the hand: fill, takes, a mix of them, leave; with the worker in its own process."""

from __future__ import annotations

import io
import re
from collections.abc import Callable, Iterator

import numpy as np
import pytest
from accessibility import violations
from bench import MAKING, drag, now, on_stage, says, settle, stored
from pictures import DEMO
from PIL import Image
from playwright.sync_api import Locator, Page, expect
from serving import served

from sequor.launch import background
from sequor.launch.background import Services
from sequor.store.database import Store

pytestmark = pytest.mark.browser
VILLAGE = np.asarray(Image.open(DEMO / "wendlow_village.jpg").reduce(4))
"""750 x 500 pixels."""


@pytest.fixture
def address(store: Store, services: Services) -> Iterator[str]:
    """The application, with its worker."""
    with served(store, services.background) as where:
        yield where


@pytest.fixture
def page(open_bench: Callable[..., Page]) -> Page:
    """A photo turned by hand, at the step Edges."""
    opened = open_bench(VILLAGE)
    opened.keyboard.press("a")
    turn(opened, 4)
    to_edges(opened)
    return opened


def turn(page: Page, degrees: float) -> None:
    page.get_by_label("Tilt in degrees").fill(str(degrees))
    page.keyboard.press("Enter")
    says(page, f"{degrees:.2f}°")
    settle(page)


def to_edges(page: Page) -> None:
    page.get_by_role("navigation").get_by_role("button", name="Edges").click()
    expect(page.get_by_role("group", name="What to do with empty corners")).to_be_visible()


def way(page: Page, name: str) -> Locator:
    return page.get_by_role("group", name="What to do with empty corners").get_by_role(
        "button", name=re.compile(f"^{name}")
    )


def take(page: Page, number: int) -> Locator:
    return page.get_by_role("button", name=f"Take {number}", exact=True)


def fill(page: Page) -> None:
    """Fill, and wait for three takes to be there and the first to be listed."""
    way(page, "Fill").click()
    for number in (1, 2, 3):
        expect(take(page, number)).to_be_visible(timeout=MAKING)
    says(page, "of the frame is new")
    settle(page)


def seeds(page: Page) -> dict[str, int]:
    return {patch["part"]: patch["seed"] for patch in stored(page)["edges"]["patches"]}


def test_turn_fill_three_takes_mix_them_export_reopen(page: Page) -> None:
    expect(page.get_by_text("none in the frame")).to_be_visible()
    expect(way(page, "Crop")).to_have_attribute("aria-pressed", "true")
    fill(page)
    expect(page.locator("[data-hatched]")).to_have_count(0)
    expect(page.locator("[data-takes='4'] img")).to_have_count(4)
    corners = seeds(page)
    assert list(corners) == [
        "top left corner",
        "top right corner",
        "bottom right corner",
        "bottom left corner",
    ]
    assert set(corners.values()) == {1}

    # Looked at by pointing, taken by touching; one take for one corner and another for the next.
    before = {img.get_attribute("src") for img in page.locator("[data-takes] img").all()}
    take(page, 3).hover()
    expect(page.locator("[data-takes] img").first).not_to_have_attribute("src", next(iter(before)))
    page.mouse.move(5, 5)
    page.get_by_label("Takes for", exact=True).select_option("top right corner")
    take(page, 2).click()
    expect(take(page, 2)).to_have_attribute("aria-pressed", "true")
    page.get_by_label("Takes for", exact=True).select_option("bottom left corner")
    take(page, 3).click()
    expect(take(page, 3)).to_have_attribute("aria-pressed", "true")
    mixed = {"top left corner": 1, "top right corner": 2, "bottom right corner": 1, "bottom left corner": 3}
    assert seeds(page) == mixed
    page.mouse.move(5, 5)
    settle(page)
    page.get_by_role("button", name="Mark new pixels").click()
    expect(page.locator("[data-new]")).to_have_count(0)
    shown = Image.open(io.BytesIO(page.screenshot()))

    page.get_by_role("navigation").get_by_role("button", name="Export").click()
    page.get_by_role("button", name="PNG").click()
    with page.expect_download() as download:
        page.get_by_role("button", name="Export the picture").click()
    with Image.open(download.value.path()) as image:
        written = np.asarray(image)
        assert "compositeSynthetic" in str(image.info)
    with page.expect_download() as download:
        page.get_by_role("button", name="Download a mask of the new pixels").click()
    mask = np.asarray(Image.open(download.value.path())) > 0
    assert mask.shape == written.shape[:2] and mask.mean() == pytest.approx(0.035, abs=0.003)

    # What was on the screen is what was written, in the corners too.
    frame = now(page).frame
    (left, top), (right, bottom) = (
        on_stage(page, (x, y)) for x, y in ((frame.x, frame.y), (frame.right, frame.bottom))
    )
    seen = np.asarray(
        shown.convert("RGB").crop((round(left), round(top), round(right), round(bottom))), float
    )
    expected = np.asarray(Image.fromarray(written).resize(seen.shape[1::-1], Image.Resampling.BOX), float)
    new = np.array(Image.fromarray(mask).resize(seen.shape[1::-1], Image.Resampling.NEAREST))
    new[:12], new[-12:], new[:, :12], new[:, -12:] = False, False, False, False
    off = np.abs(seen - expected).mean(axis=2)
    assert new.sum() > 300 and off[new].mean() < 14

    page.reload()
    page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    to_edges(page)
    assert seeds(page) == mixed
    page.get_by_label("Takes for", exact=True).select_option("bottom left corner")
    expect(take(page, 3)).to_have_attribute("aria-pressed", "true")
    expect(page.locator("[data-takes='4']")).to_be_visible()


def test_a_change_makes_the_takes_stale_until_they_are_made_anew(page: Page) -> None:
    fill(page)
    page.get_by_label("Takes for", exact=True).select_option("top left corner")
    take(page, 2).click()
    expect(take(page, 2)).to_have_attribute("aria-pressed", "true")
    settle(page)
    page.get_by_role("button", name=re.compile("^Lines")).click()
    turn(page, 3)
    edges = page.get_by_role("navigation").get_by_role("button", name="Edges")
    expect(edges).to_contain_text("new, out of date")
    expect(page.locator("[data-hatched]")).to_have_count(1)
    to_edges(page)
    expect(take(page, 2)).to_be_visible(timeout=MAKING)
    expect(edges).not_to_contain_text("out of date", timeout=MAKING)
    assert seeds(page)["top left corner"] == 2
    assert set(seeds(page).values()) == {1, 2}


def test_more_takes_and_a_stop(page: Page) -> None:
    fill(page)
    page.get_by_role("button", name="More takes").click()
    page.get_by_role("button", name="Cancel take 6").click()
    expect(page.get_by_role("button", name="Make take 6 again")).to_be_visible()
    for number in (4, 5):
        expect(take(page, number)).to_be_visible(timeout=MAKING)
    page.get_by_role("button", name="Make take 6 again").click()
    expect(take(page, 6)).to_be_visible(timeout=MAKING)


def test_redis_gone_is_said_on_the_page(
    page: Page, services: Services, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(background, "AGAIN_SECONDS", 50.0)
    services.redis.process.kill()
    services.redis.process.wait()
    way(page, "Fill").click()
    expect(
        page.get_by_role("alert").filter(has_text="The background service (Redis) is not answering")
    ).to_be_visible()
    assert stored(page)["edges"]["mode"] == "fill"
    expect(take(page, 3)).to_be_visible(timeout=MAKING)
    expect(page.get_by_role("alert").filter(has_text="Redis")).to_have_count(0)


def test_the_frame_reaches_as_far_as_is_asked(page: Page) -> None:
    fill(page)
    page.get_by_role("button", name=re.compile("^Whole picture")).click()
    says(page, "The whole picture is kept")
    share = page.get_by_label("Empty area, at most")
    share.fill("2")
    share.press("Enter")
    says(page, "(1.9|2.0)% of the frame is new")
    assert now(page).cost.empty == pytest.approx(0.02, abs=1.5e-3)
    way(page, "Crop").click()
    says(page, "Cropped to 3:2")
    assert now(page).cost.empty == pytest.approx(0, abs=1e-9)


def test_corners_are_left_clear_or_in_a_colour(page: Page) -> None:
    way(page, "Leave").click()
    expect(page.get_by_text("The export format is now PNG")).to_be_visible()
    expect(page.locator("[data-hatched]")).to_have_count(1)
    assert stored(page)["export"]["format"] == "png"
    page.get_by_role("button", name="Black").click()
    says(page, "stays in one colour")
    expect(page.locator("[data-left]")).to_have_css("background-color", "rgb(0, 0, 0)")
    page.get_by_role("button", name="Undo", exact=True).click()
    says(page, "stays transparent")


def test_nothing_at_this_step_bars_anyone(page: Page) -> None:
    """axe-core on the page with its takes."""
    fill(page)
    assert violations(page) == []


def test_more_takes_of_a_touch_up_by_the_worker(page: Page) -> None:
    page.get_by_role("group", name="Pages of the step Edges").get_by_role("button", name="Touch up").click()
    drag(page, on_stage(page, (300, 200)), on_stage(page, (340, 210)))
    touched = page.locator("[data-touch-up=t1]")
    expect(touched).to_have_attribute("data-state", "Done", timeout=MAKING)
    page.get_by_role("button", name="More takes").click()
    expect(take(page, 3)).to_be_visible(timeout=MAKING)
    take(page, 3).click()
    expect(take(page, 3)).to_have_attribute("aria-pressed", "true")
    assert seeds(page) == {"touch-up t1": 3}
