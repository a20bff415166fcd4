"""A JPEG in strips is the very picture that Pillow writes in one piece."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from sequor.imaging.formats.base import Manner
from sequor.imaging.formats.registry import FORMATS
from sequor.imaging.rows import Rows, rows_of


@pytest.mark.parametrize("size", [(1, 1), (17, 9), (640, 63), (333, 1301), (8, 2100)])
@pytest.mark.parametrize("subsampling", ["444", "420"])
def test_the_same_pixels_as_in_one_piece(tmp_path: Path, size: tuple[int, int], subsampling: str) -> None:
    """Of awkward sizes, over more than eight restarts, which are numbered 0 to 7 (ITU-T T.81, B.2.1)."""
    picture = np.random.default_rng(4).integers(0, 256, (size[1], size[0], 3)).astype(np.uint8)
    out, plain = tmp_path / "out.jpg", tmp_path / "plain.jpg"
    FORMATS["jpeg"].write(rows_of(picture), out, Manner(quality=90, subsampling=subsampling, ppi=240))
    Image.fromarray(picture).save(plain, quality=90, subsampling={"444": 0, "420": 2}[subsampling])
    with Image.open(out) as ours, Image.open(plain) as theirs:
        assert ours.info["dpi"] == (240, 240)
        assert np.array_equal(np.asarray(ours), np.asarray(theirs))


def test_it_is_asked_for_in_bands_and_never_as_a_whole(tmp_path: Path) -> None:
    asked: list[int] = []

    def read(top: int, count: int) -> np.ndarray:
        asked.append(count)
        return np.full((count, 300, 3), top % 251, np.uint8)

    for kind, ending in (("jpeg", "jpg"), ("tiff", "tif")):
        FORMATS[kind].write(Rows(300, 2000, read), tmp_path / f"out.{ending}", Manner())  # type: ignore[index]
        assert max(asked) <= 256 and sum(asked) == 2000
        asked.clear()
