"""Export: pixels, ratio, metadata, profile; all or nothing."""

from __future__ import annotations

import io
import json
import shutil
from collections import namedtuple
from pathlib import Path

import cv2
import numpy as np
import pyexiv2
import pytest
from pictures import (
    DEMO,
    camera_exif,
    horizon_picture,
    jpeg_bytes,
    line,
    recipe,
    slope_of_edge,
    smooth_picture,
    srgb_profile,
)
from PIL import Image

from sequor.imaging.formats.registry import FORMATS
from sequor.operations.export_names import check_ending
from sequor.operations.exporting import NoRoomError, export
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.parse import RecipeError, build

SHIFT = np.array([[1, 0, -0.5], [0, 1, -0.5], [0, 0, 1]])


def quiet(share: float, words: str) -> None:
    """Nobody listens."""


def test_pixels_against_opencv(tmp_path: Path) -> None:
    """The exported PNG against cv2.warpPerspective with the half-pixel shift and the frame's offset."""
    picture = smooth_picture(360, 240)
    original = tmp_path / "photo.png"
    Image.fromarray(picture).save(original)
    made = build(recipe(360, 240, references=[line("r1", "level", (10, 120), (350, 106))]))
    out = tmp_path / "out.png"
    done = export(original, check_ending(out, made, False), out, quiet)
    frame, warp = evaluate(made).frame, evaluate(made).warp
    offset = np.array([[1, 0, -frame.x], [0, 1, -frame.y], [0, 0, 1]])
    matrix = SHIFT @ offset @ warp.homography @ np.linalg.inv(SHIFT)
    expected = cv2.warpPerspective(
        picture, matrix, (done.width, done.height), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE
    )
    ours = np.asarray(Image.open(out))
    assert ours.shape == expected.shape
    difference = np.abs(ours.astype(int) - expected)
    assert difference.max() <= 3 and difference.mean() < 0.3


def test_a_lens_is_taken_out_as_opencv_does_it(tmp_path: Path) -> None:
    """The exported PNG against cv2.initUndistortRectifyMap and remap with the same Brown terms, r in focal lengths."""
    picture = smooth_picture(360, 240)
    original = tmp_path / "photo.png"
    Image.fromarray(picture).save(original)
    terms = {"k1": -0.09, "k2": 0.02, "p1": 0.003, "p2": -0.002}
    made = build(recipe(360, 240, lens={"source": "manual", "unit_px": 200.0, **terms}))
    out = tmp_path / "out.png"
    done = export(original, check_ending(out, made, False), out, quiet)
    # OpenCV counts from pixel centres, so the middle of 360 x 240 lies at (179.5, 119.5).
    matrix = np.array([[200.0, 0, 179.5], [0, 200.0, 119.5], [0, 0, 1]])
    frame, size = evaluate(made).frame, (done.width, done.height)
    framed = matrix - [[0, 0, frame.x], [0, 0, frame.y], [0, 0, 0]]
    maps = cv2.initUndistortRectifyMap(
        matrix, np.array(list(terms.values())), None, framed, size, cv2.CV_32FC1
    )
    expected = cv2.remap(picture, *maps, cv2.INTER_CUBIC)
    difference = np.abs(np.asarray(Image.open(out)).astype(int) - expected)[4:-4, 4:-4]
    assert difference.max() <= 4 and difference.mean() < 0.4


@pytest.mark.parametrize("slope", [-2.3, 1.7, 4.0])
def test_a_levelled_horizon_is_level(tmp_path: Path, slope: float) -> None:
    """Found again in the exported file by its edge, column by column, by numpy's least squares: within 0.05 degrees."""
    original = tmp_path / "photo.jpg"
    original.write_bytes(jpeg_bytes(horizon_picture(1200, 800, slope)))
    rise = 1100 * np.tan(np.deg2rad(slope))
    made = build(
        recipe(1200, 800, references=[line("r1", "level", (50, 400 - rise / 2), (1150, 400 + rise / 2))])
    )
    export(original, made, tmp_path / "out.jpg", quiet)
    assert slope_of_edge(np.asarray(Image.open(tmp_path / "out.jpg")), slice(None)) == pytest.approx(
        0, abs=0.05
    )


def test_the_demo_shore_comes_out_level(tmp_path: Path) -> None:
    """The real demo photo, by the truth of its far waterline; measured again in the file where haze meets water by
    the strongest vertical gradient near where it should be, with a robust line (cv2.fitLine, Huber)."""
    truth = json.loads((DEMO / "wendlow_shore.json").read_text())
    water = next(one for one in truth["lines"] if "waterline" in one["id"])
    made = build(recipe(references=[line("r1", "level", tuple(water["p0"]), tuple(water["p1"]))]))
    assert evaluate(made).solution.attitude.roll == pytest.approx(truth["roll_deg"], abs=0.02)
    export(DEMO / "wendlow_shore.jpg", made, tmp_path / "out.jpg", quiet)
    grey = np.asarray(Image.open(tmp_path / "out.jpg").convert("L")).astype(float)
    frame, warp = evaluate(made).frame, evaluate(made).warp
    expected = warp.to_corrected(np.array([water["p0"], water["p1"]])) - [frame.x, frame.y]
    row = int(expected[:, 1].mean())
    columns = np.arange(1500, 2700)
    band = cv2.GaussianBlur(grey[row - 14 : row + 15], (0, 0), sigmaX=12, sigmaY=1)
    gradient = np.abs(np.diff(band, axis=0))[:, columns]
    peak = gradient.argmax(axis=0).clip(1, gradient.shape[0] - 2)
    left, here, right = (gradient[peak + k, np.arange(len(columns))] for k in (-1, 0, 1))
    rows = peak + 0.5 * (left - right) / (left - 2 * here + right - 1e-9)
    dx, dy, *_ = cv2.fitLine(
        np.column_stack([columns, rows]).astype(np.float32), cv2.DIST_HUBER, 0, 0.01, 0.01
    ).ravel()
    assert np.rad2deg(np.arctan2(dy, dx)) == pytest.approx(0, abs=0.05)


def test_metadata_and_profile_are_kept_and_made_true(tmp_path: Path) -> None:
    """Read back with Exiv2: orientation 1, true pixel dimensions, no stale small picture, the same profile bytes."""
    picture = smooth_picture(240, 360)
    exif = camera_exif(orientation=6, gps=True, width=240, height=360)
    original = tmp_path / "photo.jpg"
    original.write_bytes(jpeg_bytes(picture, exif=exif, icc_profile=srgb_profile()))
    with pyexiv2.Image(str(original)) as file:
        file.modify_xmp({"Xmp.dc.title": "Wendlow", "Xmp.tiff.Orientation": "6"})
        file.modify_iptc({"Iptc.Application2.Caption": "Shore"})
        file.modify_thumbnail(jpeg_bytes(smooth_picture(16, 24)))
    before = original.read_bytes()
    made = build(recipe(360, 240, references=[line("r1", "level", (10, 120), (350, 106))]))
    done = export(original, made, tmp_path / "out.jpg", quiet)
    with pyexiv2.Image(str(tmp_path / "out.jpg")) as file:
        kept, thumbnail = file.read_exif(), file.read_thumbnail()
        xmp, iptc = file.read_xmp(), file.read_iptc()
    assert kept["Exif.Image.Model"] == "IO-1" and kept["Exif.Photo.FocalLengthIn35mmFilm"] == "31"
    assert kept["Exif.Image.Orientation"] == "1"
    assert (kept["Exif.Photo.PixelXDimension"], kept["Exif.Photo.PixelYDimension"]) == (
        str(done.width),
        str(done.height),
    )
    assert "Exif.GPSInfo.GPSLatitude" in kept and done.keeps_place
    assert Image.open(io.BytesIO(thumbnail)).width == 160 and "Xmp.tiff.Orientation" not in xmp
    assert xmp["Xmp.dc.title"] and iptc["Iptc.Application2.Caption"] == "Shore"
    with Image.open(tmp_path / "out.jpg") as image:
        assert image.info["icc_profile"] == srgb_profile()
    assert abs(done.width / done.height - 1.5) < 0.01
    assert original.read_bytes() == before


def test_an_orientation_that_only_xmp_records_does_not_outlive_the_turn(tmp_path: Path) -> None:
    original = tmp_path / "photo.jpg"
    original.write_bytes(jpeg_bytes(smooth_picture(90, 60)))
    with pyexiv2.Image(str(original)) as file:
        file.modify_xmp({"Xmp.tiff.Orientation": "6", "Xmp.dc.title": "Wendlow"})
    export(original, build(recipe(60, 90)), tmp_path / "out.jpg", quiet)
    with pyexiv2.Image(str(tmp_path / "out.jpg")) as file:
        xmp = file.read_xmp()
    assert "Xmp.tiff.Orientation" not in xmp and xmp["Xmp.dc.title"]


def test_png_keeps_them_too(tmp_path: Path) -> None:
    original = tmp_path / "photo.jpg"
    original.write_bytes(jpeg_bytes(smooth_picture(90, 60), exif=camera_exif(), icc_profile=srgb_profile()))
    made = build(recipe(90, 60, export={"format": "png"}))
    export(original, made, tmp_path / "out.png", quiet)
    with Image.open(tmp_path / "out.png") as image:
        assert image.getexif()[0x0110] == "IO-1" and image.info["icc_profile"] == srgb_profile()


def test_a_photo_of_another_size_is_refused(tmp_path: Path) -> None:
    original = tmp_path / "photo.jpg"
    original.write_bytes(jpeg_bytes(smooth_picture(90, 60)))
    with pytest.raises(RecipeError, match="90 × 60"):
        export(original, build(recipe(91, 60)), tmp_path / "out.jpg", quiet)


def test_a_full_disk_leaves_nothing(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    original = tmp_path / "photo.jpg"
    original.write_bytes(jpeg_bytes(smooth_picture(90, 60)))
    out = tmp_path / "out" / "picture.jpg"
    out.parent.mkdir()

    def full(*arguments: object, **more: object) -> None:
        raise OSError(28, "No space left on device")

    with monkeypatch.context() as patch:
        patch.setattr(FORMATS["jpeg"], "write", full)
        with pytest.raises(NoRoomError, match="^The file could not be saved: No space left on device"):
            export(original, build(recipe(90, 60)), out, quiet)
    usage = namedtuple("usage", "total used free")
    monkeypatch.setattr(shutil, "disk_usage", lambda path: usage(1, 1, 1000))
    with pytest.raises(NoRoomError, match="is almost full: 0 MB are free"):
        export(original, build(recipe(90, 60)), out, quiet)
    assert list(out.parent.iterdir()) == []


def test_the_ending_decides_the_format() -> None:
    made = build(recipe())
    assert check_ending(Path("a.PNG"), made, False).export.format == "png"
    with pytest.raises(RecipeError, match="disagree"):
        check_ending(Path("a.png"), made, True)
    with pytest.raises(RecipeError, match="must end in"):
        check_ending(Path("a.gif"), made, False)
