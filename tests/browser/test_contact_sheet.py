"""The contact sheet, and both screens looked over by axe."""

from __future__ import annotations

from pathlib import Path

import pytest
from accessibility import violations
from bench import drag, kept, on_stage
from clients import Importer
from pictures import horizon_picture, jpeg_bytes, smooth_picture
from playwright.sync_api import Page, expect

pytestmark = pytest.mark.browser


def test_several_at_once_and_a_bad_one_never_stops_the_others(
    watched: Page, address: str, tmp_path: Path
) -> None:
    page = watched
    names = ["first.jpg", "broken.jpg", "second.jpg"]
    for index, name in enumerate(names):
        content = jpeg_bytes(smooth_picture(300, 200, seed=index))
        (tmp_path / name).write_bytes(content[:-2000] if name == "broken.jpg" else content)
    page.goto(address)
    expect(page.get_by_role("status")).to_contain_text("No photos yet")
    page.get_by_label("Photo files").set_input_files([tmp_path / name for name in names])
    expect(page.get_by_role("heading", name="First")).to_be_visible()
    expect(page.get_by_role("heading", name="Second")).to_be_visible()
    expect(page.get_by_role("alert")).to_contain_text("incomplete or damaged")
    page.get_by_role("button", name="Close", exact=True).click()
    expect(page.get_by_role("alert")).not_to_be_attached()
    page.get_by_label("Photo files").set_input_files(tmp_path / "first.jpg")
    expect(page.get_by_role("alert")).to_contain_text("already on the contact sheet")


def test_dropping_a_file(watched: Page, address: str) -> None:
    page = watched
    page.goto(address)
    content = list(jpeg_bytes(smooth_picture(120, 80)))
    data = page.evaluate_handle(
        """bytes => { const data = new DataTransfer();
        data.items.add(new File([new Uint8Array(bytes)], "dropped.jpg", {type: "image/jpeg"})); return data; }""",
        content,
    )
    page.dispatch_event("main", "drop", {"dataTransfer": data})
    expect(page.get_by_role("heading", name="Dropped")).to_be_visible()


def test_titles_and_removal(watched: Page, address: str, bring: Importer) -> None:
    page = watched
    bring(jpeg_bytes(smooth_picture(300, 200)), "img_1.jpg")
    page.goto(address)
    page.get_by_role("button", name="Edit title of Img 1").click()
    page.get_by_role("textbox", name="Title").fill("Viaduct at noon")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Viaduct at noon")).to_be_visible()
    page.get_by_role("link", name="Open Viaduct at noon").click()
    page.get_by_role("button", name="Remove 1").click()
    expect(page.get_by_role("heading", name="Viaduct at noon")).not_to_be_attached()
    page.get_by_role("alert").get_by_role("button", name="Undo").click()
    expect(page.get_by_role("heading", name="Viaduct at noon")).to_be_visible()


def test_axe_finds_nothing(watched: Page, address: str, bring: Importer) -> None:
    page = watched
    photo = bring(jpeg_bytes(horizon_picture(900, 600, -2.3))).photo_id
    page.goto(address)
    page.wait_for_selector("main img")
    assert violations(page) == []
    page.goto(f"{address}/photos/{photo}")
    page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    drag(page, on_stage(page, (50, 316)), on_stage(page, (850, 284)))
    kept(page, 1)
    assert violations(page) == []
    for step in ("Lens", "Crop 3:2", "Export"):
        page.get_by_role("button", name=step).first.click()
        assert violations(page) == []
    page.get_by_role("button", name="Shortcuts").click()
    assert violations(page) == []


def test_every_step_of_the_route_is_there_with_its_word(watched: Page, address: str, bring: Importer) -> None:
    photo = bring(jpeg_bytes(smooth_picture(300, 200))).photo_id
    watched.goto(f"{address}/photos/{photo}")
    steps = watched.get_by_role("navigation", name="Steps")
    for words in (
        "Lens no lens profile found",
        "Lines no lines yet",
        "Crop 3:2 · keeps 100%",
        "Edges no empty corners",
    ):
        expect(steps.get_by_role("button", name=words)).to_be_enabled()
    expect(steps.get_by_role("button")).to_have_count(5)
