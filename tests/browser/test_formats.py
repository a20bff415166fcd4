"""What cameras make goes in, what prints and archives need comes out, in the real interface."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
import tifffile
from bench import MAKING, drag, kept, on_stage, stored
from originals import dng_bytes, smooth_raw, tiff_bytes
from pictures import horizon_picture, slope_of_edge
from PIL import Image
from playwright.sync_api import Page, expect

from sequor.imaging.colour import adobe_rgb, converted, display_p3
from sequor.imaging.decode import colour_profile

pytestmark = pytest.mark.browser

SLOPE = -2.3


def linear(picture: np.ndarray) -> np.ndarray:
    """The light of sRGB codes (IEC 61966-2-1)."""
    codes = picture / 255
    return np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4)


def exported(page: Page, name: str, folder: Path) -> Path:
    """The file that is written in a format, chosen at the step Export."""
    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Export").click()
    page.get_by_role("group", name="Format").get_by_role("button", name=name, exact=True).click()
    expect(
        page.get_by_role("group", name="Format").get_by_role("button", name=name, exact=True)
    ).to_have_attribute("aria-pressed", "true")
    with page.expect_download(timeout=MAKING) as download:
        page.get_by_role("button", name="Export the picture").click()
    out = folder / download.value.suggested_filename
    download.value.save_as(out)
    return out


@pytest.mark.parametrize("kind", ["dng", "tif"])
def test_a_deep_photo_is_levelled_and_written(watched: Page, address: str, tmp_path: Path, kind: str) -> None:
    """A DNG, and a TIFF of 16 bits in Adobe RGB: brought in, levelled by a line, written as TIFF and as AVIF; the level
    and the values are looked at in the files."""
    picture = horizon_picture(900, 600, SLOPE)
    content = (
        dng_bytes(linear(picture))
        if kind == "dng"
        else tiff_bytes(picture.astype(np.uint16) * 257, photometric="rgb", iccprofile=adobe_rgb())
    )
    path = tmp_path / f"evening.{kind}"
    path.write_bytes(content)
    page = watched
    page.goto(address)
    page.get_by_label("Photo files").set_input_files(path)
    page.get_by_role("link", name="Open Evening").dblclick(timeout=MAKING)
    page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    drag(page, on_stage(page, (50, 316)), on_stage(page, (850, 284)))
    kept(page, 1)
    deep = exported(page, "TIFF", tmp_path)
    assert deep.name == "evening-level.tif" and stored(page)["export"]["format"] == "tiff"
    values = tifffile.imread(deep)
    assert values.dtype == np.uint16 and values.shape[2] == 3
    assert slope_of_edge((values >> 8).astype(np.uint8), slice(None)) == pytest.approx(0, abs=0.2)
    assert (colour_profile(deep) == adobe_rgb()) == (kind == "tif")
    sky = values[20:60, 100:-100].reshape(-1, 3).mean(axis=0) / 257
    assert sky == pytest.approx(np.array([200, 215, 235]), abs=3 if kind == "dng" else 0.6)
    small = exported(page, "AVIF", tmp_path)
    with Image.open(small) as image:
        assert image.format == "AVIF" and image.size == (values.shape[1], values.shape[0])
        assert np.abs(np.asarray(image)[40, 200].astype(float) - sky).max() < 5


def test_a_raw_photo_is_given_another_white(watched: Page, address: str, tmp_path: Path) -> None:
    """A grey card under incandescent light, taken for daylight: its temperature is typed at the step Lens, it is grey on
    the screen and in the file, and one undo takes it back."""
    path = tmp_path / "card.dng"
    path.write_bytes(smooth_raw(grey_under=(0.44758, 0.40745)))
    page = watched
    page.goto(address)
    page.get_by_label("Photo files").set_input_files(path)
    page.get_by_role("link", name="Open Card").dblclick(timeout=MAKING)
    page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Lens").click()
    section = page.get_by_role("region", name="Raw photo")
    for label, typed in (("Temperature", "2856"), ("Tint", "0")):
        field = section.get_by_label(label)
        field.fill(typed)
        field.press("Enter")
    expect(section.get_by_role("button", name="White balance as shot")).to_be_enabled()
    page.wait_for_function("() => !document.documentElement.dataset.busy")
    assert stored(page)["develop"] == {"temperature": 2856, "tint": 0, "exposure": 0}
    with Image.open(exported(page, "PNG", tmp_path)) as image:
        red, green, blue = np.asarray(image).reshape(-1, 3).mean(axis=0)
    assert red == pytest.approx(green, abs=2) and blue == pytest.approx(green, abs=2)
    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Lens").click()
    section.get_by_role("button", name="White balance as shot").click()
    expect(section.get_by_role("button", name="White balance as shot")).to_be_disabled()


def test_an_exported_picture_opens_its_original_with_all_steps(
    watched: Page, address: str, tmp_path: Path
) -> None:
    """Levelled, named by a template, exported; undone on the bench; the exported file is dropped on the sheet: it offers
    the original with the steps, or to be a photo of its own."""
    path = tmp_path / "IMG_7.tif"
    path.write_bytes(tiff_bytes(horizon_picture(900, 600, SLOPE), photometric="rgb"))
    page = watched
    page.goto(address)
    files = page.get_by_label("Photo files")
    files.set_input_files(path)
    page.get_by_role("link", name="Open IMG 7", exact=True).dblclick(timeout=MAKING)
    page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    drag(page, on_stage(page, (50, 316)), on_stage(page, (850, 284)))
    kept(page, 1)
    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Export").click()
    name = page.get_by_label("File name")
    name.fill("{title} {camera}")
    name.press("Enter")
    expect(page.get_by_text("Only these can stand in braces")).to_be_visible()
    name.fill("{title} at {ratio}")
    name.press("Enter")
    expect(page.locator("[data-names]")).to_contain_text("IMG 7 at 3x2.jpg")
    out = exported(page, "PNG", tmp_path)
    assert out.name == "IMG 7 at 3x2.png"
    page.get_by_role("button", name="Undo").click()
    for _ in range(2):
        page.get_by_role("button", name="Undo").click()
        page.wait_for_function("() => !document.documentElement.dataset.busy")
    assert not stored(page)["references"]
    page.get_by_role("link", name="Contact sheet").click()
    files.set_input_files(out)
    offer = page.get_by_role("listitem").filter(has_text="was exported from “IMG 7”")
    offer.get_by_role("button", name="Open the original with these steps").click(timeout=MAKING)
    page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    assert len(stored(page)["references"]) == 1 and stored(page)["export"]["name"] == "{title} at {ratio}"
    page.get_by_role("link", name="Contact sheet").click()
    files.set_input_files(out)
    offer.get_by_role("button", name="Add as a photo of its own").click(timeout=MAKING)
    expect(page.get_by_role("link", name="Open IMG 7 at 3x2", exact=True)).to_be_visible(timeout=MAKING)


def test_a_wide_screen_shows_what_srgb_cannot(watched: Page, address: str, tmp_path: Path) -> None:
    """A green of Adobe RGB that sRGB does not hold: where the screen shows Display P3, the stage and the tiles are in it,
    with the codes that LittleCMS gives for it."""
    page = watched
    devtools = page.context.new_cdp_session(page)
    devtools.send("Emulation.setEmulatedMedia", {"features": [{"name": "color-gamut", "value": "p3"}]})
    path = tmp_path / "green.tif"
    green = np.full((400, 600, 3), (120, 230, 120), np.uint8)
    path.write_bytes(tiff_bytes(green, photometric="rgb", iccprofile=adobe_rgb()))
    page.goto(address)
    page.get_by_label("Photo files").set_input_files(path)
    page.get_by_role("link", name="Open Green").dblclick(timeout=MAKING)
    page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    wanted = converted(green[:1, :1], adobe_rgb(), display_p3())[0, 0].astype(int)
    in_srgb = converted(green[:1, :1], adobe_rgb(), None)[0, 0]
    assert in_srgb[0] == 0 and wanted[0] > 20
    seen = page.evaluate(
        """() => {
          const gl = document.querySelector("canvas[data-drawn]").getContext("webgl2");
          const pixel = new Uint8Array(4);
          const [x, y] = [gl.drawingBufferWidth / 2, gl.drawingBufferHeight / 2];
          gl.readPixels(x, y, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel);
          return [gl.drawingBufferColorSpace, ...pixel];
        }"""
    )
    assert seen[0] == "display-p3" and np.abs(np.array(seen[1:4]) - wanted).max() <= 4
    page.get_by_role("button", name="100%", exact=True).click()
    tile = page.locator("[data-tiles] img").first.get_attribute("src")
    assert tile is not None
    with Image.open(io.BytesIO(page.request.get(f"{address}{tile}").body())) as image:
        assert image.info["icc_profile"] == display_p3()
        assert np.abs(np.asarray(image)[128, 128] - wanted).max() <= 3
