"""The whole job in the browser, from the file to the file."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pyexiv2
import pytest
from bench import drag, kept, on_stage, says, settle
from pictures import camera_exif, horizon_picture, jpeg_bytes, slope_of_edge, srgb_profile
from PIL import Image
from playwright.sync_api import Page, expect

pytestmark = pytest.mark.browser
SIZE = (1500, 1000)
SLOPE = -2.3


def shore(tmp_path: Path) -> Path:
    """A photo of our own making with a tilted horizon, a place and a profile."""
    path = tmp_path / "evening_shore.jpg"
    exif = camera_exif(gps=True, width=SIZE[0], height=SIZE[1])
    path.write_bytes(jpeg_bytes(horizon_picture(*SIZE, SLOPE), exif=exif, icc_profile=srgb_profile()))
    return path


def end_of_horizon(x: float) -> tuple[float, float]:
    return x, SIZE[1] / 2 + np.tan(np.deg2rad(SLOPE)) * (x - SIZE[0] / 2)


def test_from_the_file_to_the_file(watched: Page, address: str, tmp_path: Path) -> None:
    page = watched
    original = shore(tmp_path)
    page.goto(address)
    page.get_by_label("Photo files").set_input_files(original)
    expect(page.get_by_role("heading", name="Evening shore")).to_be_visible()
    expect(page.get_by_text("not measured", exact=True)).to_be_visible()

    page.get_by_role("link", name="Open Evening shore").dblclick()
    page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    says(page, "Nothing measured yet")
    drag(page, on_stage(page, end_of_horizon(60)), on_stage(page, end_of_horizon(1440)))
    kept(page, 1)
    says(page, r"drops? 2\.[23]\d?° ± 0\.\d+° to the left")
    says(page, "There is only one line, so nothing checks it")
    expect(page.get_by_role("button", name="1 horizontal", exact=False).first).to_be_visible()

    page.get_by_role("button", name="Crop 3:2").click()
    settle(page)
    frame = page.get_by_role("button", name="Crop frame, bottom right corner").bounding_box()
    assert frame is not None
    corner = (frame["x"] + 20, frame["y"] + 20)
    drag(page, corner, (corner[0] - 90, corner[1] - 60))
    says(page, "Cropped to 3:2")

    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Export").click()
    expect(page.get_by_text("So is the location (GPS).")).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("button", name="Export the picture").click()
    assert download.value.suggested_filename == "evening_shore-level.jpg"
    written = Path(download.value.path()).read_bytes()
    with Image.open(io.BytesIO(written)) as image:
        pixels = np.asarray(image)
        assert image.info["icc_profile"] == srgb_profile()
    height, width = pixels.shape[:2]
    assert abs(width / height - 1.5) < 1.5 / height
    assert slope_of_edge(pixels, slice(None)) == pytest.approx(0, abs=0.2)
    with pyexiv2.ImageData(written) as file:
        exif = file.read_exif()
    assert exif["Exif.Image.Model"] == "IO-1" and exif["Exif.Image.Orientation"] == "1"
    assert (exif["Exif.Photo.PixelXDimension"], exif["Exif.Photo.PixelYDimension"]) == (
        str(width),
        str(height),
    )
    assert any(key.startswith("Exif.GPSInfo") for key in exif)

    page.reload()
    kept(page, 1)
    says(page, "Cropped to 3:2")
    page.get_by_role("link", name="Contact sheet").click()
    expect(page.get_by_text("level", exact=True)).to_be_visible()


def press(page: Page, key: str, times: int = 1) -> None:
    for _ in range(times):
        page.keyboard.press(key)


def reach(page: Page, name: str, limit: int = 60) -> None:
    """Go on with the Tab key until the element of this accessible name has the focus."""
    for _ in range(limit):
        press(page, "Tab")
        here = page.evaluate(
            """(e => e === document.body ? "" : e.getAttribute("aria-label") ?? e.textContent)(document.activeElement)"""
        )
        if name in here:
            return
    raise AssertionError(f"{name!r} cannot be reached by the Tab key")


def test_the_whole_path_by_keyboard_alone(watched: Page, address: str, tmp_path: Path) -> None:
    page = watched
    # Listened to from the start: a key pressed right after asking for it can be quicker than the asking.
    page.on("filechooser", lambda chooser: None)
    page.goto(address)
    expect(page.get_by_role("status")).to_contain_text("No photos yet")
    reach(page, "Add photos")
    with page.expect_file_chooser() as chooser:
        press(page, "Enter")
    chooser.value.set_files(shore(tmp_path))
    expect(page.get_by_role("heading", name="Evening shore")).to_be_visible()
    reach(page, "Open Evening shore")
    press(page, "Enter")
    page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    says(page, "Nothing measured yet")

    reach(page, "Picture. Press Enter")
    press(page, "Enter")  # a point in the middle; from there to the left end, along the horizon
    press(page, "Control+ArrowLeft", 6)
    press(page, "Shift+ArrowDown", 2)
    press(page, "ArrowDown", 4)
    press(page, "Enter")
    press(page, "Control+ArrowRight", 12)
    press(page, "Shift+ArrowUp", 5)
    press(page, "ArrowUp")
    press(page, "Enter")
    kept(page, 1)
    says(page, r"drops 2\.\d+° ± 0\.\d+° to the left")

    reach(page, "Line 1, second end")
    press(page, "Alt+ArrowUp", 3)
    expect(page.get_by_role("button", name="Undo", exact=True)).to_be_enabled()
    settle(page)
    press(page, "Control+z")
    settle(page)

    page.locator("body").press("Home")
    reach(page, "Tilt corrected")
    press(page, "Shift+ArrowRight", 2)
    press(page, "ArrowLeft", 3)
    page.wait_for_timeout(700)
    expect(page.get_by_text("partly by hand")).to_be_visible()
    press(page, "Backspace")
    expect(page.get_by_text("from your lines")).to_be_visible()

    reach(page, "Crop3:2")
    press(page, "Enter")
    reach(page, "Crop frame, bottom right corner")
    press(page, "Control+ArrowLeft")
    says(page, "Cropped to 3:2")
    page.wait_for_timeout(700)
    reach(page, "ExportJPEG")
    press(page, "Enter")
    reach(page, "Export the picture")
    with page.expect_download() as download:
        press(page, "Enter")
    with Image.open(download.value.path()) as image:
        assert slope_of_edge(np.asarray(image), slice(None)) == pytest.approx(0, abs=0.3)
