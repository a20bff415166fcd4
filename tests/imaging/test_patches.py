"""Patch files: what is new in them, how it was made, and what is no patch."""

from __future__ import annotations

import io
import json
from pathlib import Path

import numpy as np
import pytest
from pictures import smooth_picture, srgb_profile
from PIL import Image

from sequor.imaging.colour import adobe_rgb
from sequor.imaging.decode import UnreadablePictureError
from sequor.imaging.patches import NOTE, read_patch, screen_patch, write_patch


def test_a_patch_is_an_open_file_that_says_how_it_was_made(tmp_path: Path) -> None:
    """Read back by Pillow alone: an RGBA PNG with the photo's profile and a note in JSON."""
    pixels, mask = smooth_picture(40, 30), np.zeros((30, 40), bool)
    mask[:10, 5:] = True
    write_patch(pixels, mask, tmp_path / "patch", json.dumps({"seed": 3}), srgb_profile())
    new, where = read_patch(tmp_path / "patch")
    assert np.array_equal(where, mask) and np.array_equal(new[mask], pixels[mask])
    assert not new[~mask].any()
    with Image.open(tmp_path / "patch") as image:
        assert (image.format, image.mode) == ("PNG", "RGBA")
        assert json.loads(image.info[NOTE]) == {"seed": 3}
        assert image.info["icc_profile"] == srgb_profile()


@pytest.mark.parametrize("content", [b"", b"not a picture", b"\x89PNG\r\n\x1a\n" + bytes(50)])
def test_what_cannot_be_read_is_refused(tmp_path: Path, content: bytes) -> None:
    (tmp_path / "patch").write_bytes(content)
    with pytest.raises(UnreadablePictureError, match="made again"):
        read_patch(tmp_path / "patch")


def test_another_picture_is_no_patch(tmp_path: Path) -> None:
    Image.new("RGB", (5, 5)).save(tmp_path / "patch", "PNG")
    with pytest.raises(UnreadablePictureError, match="is not a patch"):
        read_patch(tmp_path / "patch")


@pytest.mark.parametrize("reduced", [1, 3])
def test_for_the_screen_it_reaches_under_the_picture(reduced: int) -> None:
    mask = np.zeros((60, 90), bool)
    mask[:, 45:] = True
    pixels = np.full((60, 90, 3), (200, 90, 30), np.uint8)
    made = np.asarray(Image.open(io.BytesIO(screen_patch(pixels, mask, reduced, 4))))
    assert made.shape == (60 // reduced + 8, 90 // reduced + 8, 4)
    border = 45 // reduced + 4
    assert not made[:, : border - 4, 3].any() and made[4:-4, border - 3 : -4, 3].all()
    assert np.abs(made[made[..., 3] > 0][:, :3].astype(int) - (200, 90, 30)).max() <= 3


def test_a_patch_of_sixteen_bits_keeps_them(tmp_path: Path) -> None:
    """With its note and its profile, which Pillow reads beside the pixels that it would cut to 8 bits."""
    pixels = np.arange(6 * 5 * 3, dtype=np.uint16).reshape(6, 5, 3) * 701
    alpha = np.full((6, 5), 255, np.uint8)
    alpha[0] = 0
    alpha[1] = 100
    write_patch(pixels, alpha, tmp_path / "patch", '{"seed": 3}', adobe_rgb())
    back, cover = read_patch(tmp_path / "patch")
    assert back.dtype == np.uint16 and np.array_equal(cover, alpha)
    assert np.array_equal(back[1:], pixels[1:]) and (back[0] == 0).all()
    with Image.open(tmp_path / "patch") as image:
        assert image.info["icc_profile"] == adobe_rgb() and image.text["Sequor patch"] == '{"seed": 3}'
