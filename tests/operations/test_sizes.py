"""The file that is written: its size, its resolution, its empty corners, several at once."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pyexiv2
import pytest
from pictures import camera_exif, jpeg_bytes, line, recipe, smooth_picture
from PIL import Image

from sequor.core.frame.ratio import agrees_with_ratio
from sequor.operations.exporting import NoRoomError, export, export_together
from sequor.pipeline.evaluated import evaluate
from sequor.pipeline.frame import ratio_of
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError, build

RISING = line("r1", "level", (10, 120), (350, 106))
PRINT = {"paper": [6, 4], "unit": "in"}


def quiet(share: float, words: str) -> None:
    """Nobody listens."""


@pytest.fixture
def original(tmp_path: Path) -> Path:
    """A photo of 360 x 240."""
    file = tmp_path / "photo.jpg"
    file.write_bytes(jpeg_bytes(smooth_picture(360, 240), exif=camera_exif()))
    return file


def made(**parts: Any) -> Recipe:
    return build(recipe(360, 240, references=[RISING], **parts))


@pytest.mark.parametrize("kind", ["jpeg", "png"])
def test_the_file_carries_the_prints_resolution(original: Path, tmp_path: Path, kind: str) -> None:
    """Read back with Pillow (JFIF density, PNG pHYs in whole pixels per metre) and Exiv2 (XResolution, unit inch)."""
    wanted = made(frame={"print": PRINT}, export={"format": kind, "size": "print"})
    done = export(original, wanted, tmp_path / "out", quiet)
    assert (done.width, done.height) == (1800, 1200)
    with Image.open(tmp_path / "out") as image:
        assert image.size == (1800, 1200)
        assert image.info["dpi"] == pytest.approx((300, 300), abs=0.02)
    with pyexiv2.Image(str(tmp_path / "out")) as file:
        exif = file.read_exif()
    across, below = map(int, exif["Exif.Image.XResolution"].split("/"))
    assert across / below == pytest.approx(300, abs=0.01)
    assert exif["Exif.Image.YResolution"] == exif["Exif.Image.XResolution"]
    assert exif["Exif.Image.ResolutionUnit"] == "2"


def test_without_resampling_it_is_the_effective_one(original: Path, tmp_path: Path) -> None:
    wanted = made(frame={"print": PRINT})
    done = export(original, wanted, tmp_path / "out", quiet)
    printed = evaluate(wanted).printed
    assert printed is not None
    with Image.open(tmp_path / "out") as image:
        assert image.info["dpi"][0] == pytest.approx(round(printed.ppi), abs=0.51)
    assert done.width == pytest.approx(6 * printed.ppi, abs=2)


def test_an_exact_size_is_the_frame_resampled_once(original: Path, tmp_path: Path) -> None:
    """Half the size against cv2.resize by area of the same frame at its own size: the same picture."""
    plain, half = made(export={"format": "png"}), made(export={"format": "png", "size": [166, 111]})
    export(original, plain, tmp_path / "plain", quiet)
    done = export(original, half, tmp_path / "half", quiet)
    assert (done.width, done.height) == (166, 111)
    whole = np.asarray(Image.open(tmp_path / "plain"))
    expected = cv2.resize(whole, (166, 111), interpolation=cv2.INTER_AREA).astype(int)
    difference = np.abs(np.asarray(Image.open(tmp_path / "half")).astype(int) - expected)
    assert difference.mean() < 0.7 and difference.max() <= 6
    larger = made(export={"format": "png", "size": [664, 443]})
    export(original, larger, tmp_path / "larger", quiet)
    expected = cv2.resize(whole, (664, 443), interpolation=cv2.INTER_CUBIC).astype(int)
    difference = np.abs(np.asarray(Image.open(tmp_path / "larger")).astype(int) - expected)
    assert difference[8:-8, 8:-8].mean() < 1


def test_a_size_of_another_ratio_is_refused(original: Path, tmp_path: Path) -> None:
    with pytest.raises(RecipeError, match="not in the ratio of the frame"):
        export(original, made(export={"size": [300, 300]}), tmp_path / "out", quiet)
    assert list(tmp_path.iterdir()) == [original]


def test_empty_corners_are_bare_paper(original: Path, tmp_path: Path) -> None:
    wide = made(frame={"allow_empty": True, "rect": [0, 0, 360, 240]}, export={"format": "png"})
    export(original, wide, tmp_path / "out", quiet)
    pixels = np.asarray(Image.open(tmp_path / "out"))
    white = np.all(pixels == 255, axis=2)
    assert white.mean() == pytest.approx(evaluate(wide).cost.empty, abs=0.004)
    assert white[0, 0] or white[0, -1]


RATIOS = ["original", "free", "1:1", "16:9", "1:sqrt2", "golden:1", "13.6:9.9"]


@pytest.mark.parametrize("case", range(28))
def test_a_trimmed_export_has_no_empty_pixel(tmp_path: Path, case: int) -> None:
    """Any attitude, lens and ratio: a black photo on white paper stays black to the last corner, its ratio to a pixel."""
    rng = np.random.default_rng(case)
    width, height = [(360, 240), (240, 360), (300, 300), (400, 120)][case % 4]
    file = tmp_path / "black.png"
    Image.new("RGB", (width, height)).save(file)
    roll, pitch, yaw = (float(one) for one in rng.uniform(-1, 1, 3) * [12, 15, 12])
    lens = {
        "lens": {
            "source": "manual",
            "k1": float(rng.uniform(-0.1, 0.1)),
            "k2": float(rng.uniform(-0.02, 0.02)),
        }
    }
    wanted = build(
        recipe(
            width, height,
            correction={"free": ["roll"], "by_hand": {"roll": roll, "pitch": pitch, "yaw": yaw}},
            frame={"ratio": RATIOS[case % 7]}, export={"format": "png"}, **(lens if case % 3 else {}),
        )
    )  # fmt: skip
    done = export(file, wanted, tmp_path / "out", quiet)
    with Image.open(tmp_path / "out") as image:
        assert image.getextrema() == ((0, 0),) * 3
        assert image.size == (done.width, done.height)
    ratio = ratio_of(wanted)
    assert ratio is None or agrees_with_ratio(done.width, done.height, ratio)


def test_several_are_written_into_one_file(original: Path, tmp_path: Path) -> None:
    heard: list[float] = []
    named = [
        ("photo wide.jpg", made()),
        ("photo square.png", made(frame={"ratio": "1:1"}, export={"format": "png"})),
    ]
    export_together(original, named, tmp_path / "all.zip", lambda share, words: heard.append(share))
    assert heard == sorted(heard) and heard[-1] == 1
    with zipfile.ZipFile(tmp_path / "all.zip") as together:
        assert together.testzip() is None
        assert together.namelist() == ["photo wide.jpg", "photo square.png"]
        square = Image.open(io.BytesIO(together.read("photo square.png")))
        assert square.width == square.height
    assert sorted(one.name for one in tmp_path.iterdir()) == ["all.zip", "photo.jpg"]


def test_of_several_nothing_is_left_when_one_fails(original: Path, tmp_path: Path) -> None:
    named = [("good", made()), ("bad", made(export={"size": [10, 300]}))]
    with pytest.raises(RecipeError):
        export_together(original, named, tmp_path / "all.zip", quiet)
    assert list(tmp_path.iterdir()) == [original]


def test_of_several_nothing_is_left_on_a_full_disk(
    original: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def full(*arguments: object, **more: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(zipfile.ZipFile, "write", full)
    with pytest.raises(NoRoomError, match="could not be saved"):
        export_together(original, [("good", made())], tmp_path / "all.zip", quiet)
    assert list(tmp_path.iterdir()) == [original]


def test_empty_corners_are_filled_and_declared(original: Path, tmp_path: Path) -> None:
    """Known pixels are those of the same frame left white, to the bit; the file says what kind of picture it is (IPTC
    Photo Metadata Standard, Digital Source Type) and how much of it is new, read back with Exiv2."""
    frame = {"allow_empty": True, "rect": [0, 0, 360, 240]}
    left = made(frame=frame, export={"format": "png"})
    wanted = made(frame=frame, export={"format": "png"}, edges={"mode": "fill", "seed": 3})
    assert export(original, left, tmp_path / "left.png", quiet).filled == 0
    done = export(original, wanted, tmp_path / "filled.png", quiet)
    assert done.filled == pytest.approx(evaluate(left).cost.empty, abs=0.004)
    before, after = (np.asarray(Image.open(tmp_path / f"{name}.png")) for name in ("left", "filled"))
    empty = np.all(before == 255, axis=2)
    assert np.array_equal(before[~empty], after[~empty])
    assert after[empty].min(axis=1).max() < 250
    with pyexiv2.Image(str(tmp_path / "filled.png")) as file:
        xmp = file.read_xmp()
    assert xmp["Xmp.iptcExt.DigitalSourceType"].endswith("/digitalsourcetype/compositeSynthetic")
    assert f"{100 * done.filled:.2f}% of the pixels filled" in str(xmp)
    with pyexiv2.Image(str(tmp_path / "left.png")) as file:
        assert "Xmp.iptcExt.DigitalSourceType" not in file.read_xmp()


def test_a_frame_with_too_little_to_fill_from_is_refused(tmp_path: Path) -> None:
    file = tmp_path / "tiny.png"
    Image.new("RGB", (12, 9)).save(file)
    wide = {"allow_empty": True, "ratio": "free", "rect": [-40, -40, 90, 90]}
    with pytest.raises(RecipeError, match="Too little of the picture is left"):
        export(file, build(recipe(12, 9, frame=wide, edges={"mode": "fill"})), tmp_path / "out", quiet)
    assert list(tmp_path.iterdir()) == [file]
