"""Files to arrays: what is taken, what is refused, and with which words."""

from __future__ import annotations

import struct
import zlib
from pathlib import Path

import cv2
import numpy as np
import pytest
from pictures import camera_exif, image_bytes, jpeg_bytes, smooth_picture, srgb_profile
from PIL import Image

from sequor.imaging.colour import ToScreen, profile_name
from sequor.imaging.decode import UnreadablePictureError, colour_profile, decode, read_header


def saved(folder: Path, content: bytes) -> Path:
    path = folder / "file"
    path.write_bytes(content)
    return path


@pytest.mark.parametrize("orientation", range(1, 9))
def test_recorded_orientation_is_honoured(tmp_path: Path, orientation: int) -> None:
    """Against OpenCV, which turns by the same EXIF tag (CIPA DC-008, tag 0x0112) when it reads a JPEG."""
    picture = smooth_picture(64, 40)
    path = saved(tmp_path, jpeg_bytes(picture, exif=camera_exif(orientation=orientation)))
    ours = decode(path)
    theirs = cv2.cvtColor(cv2.imdecode(np.fromfile(path, np.uint8), cv2.IMREAD_COLOR), cv2.COLOR_BGR2RGB)
    assert ours.shape == theirs.shape
    assert np.abs(ours.astype(int) - theirs).max() <= 2
    header = read_header(path)
    assert (header.height, header.width) == ours.shape[:2]


def test_quarter_turns_are_clockwise(tmp_path: Path) -> None:
    picture = smooth_picture(60, 40)
    path = saved(tmp_path, image_bytes(Image.fromarray(picture), "PNG"))
    assert np.array_equal(decode(path, 1), cv2.rotate(picture, cv2.ROTATE_90_CLOCKWISE))
    assert np.array_equal(decode(path, 3), cv2.rotate(picture, cv2.ROTATE_90_COUNTERCLOCKWISE))


@pytest.mark.parametrize("mode", ["L", "P", "1", "LA", "RGBA", "RGB"])
def test_other_kinds_become_rgb(tmp_path: Path, mode: str) -> None:
    image = Image.fromarray(smooth_picture(30, 20)).convert(mode)
    picture = decode(saved(tmp_path, image_bytes(image, "PNG")))
    assert (picture.shape, picture.dtype) == ((20, 30, 3), np.uint8)
    assert np.abs(picture.astype(int) - np.asarray(image.convert("RGB"))).max() <= 1


def test_transparency_is_laid_on_white(tmp_path: Path) -> None:
    clear = Image.new("RGBA", (4, 4), (10, 20, 30, 0))
    assert (decode(saved(tmp_path, image_bytes(clear, "PNG"))) == 255).all()


def png_claiming(width: int, height: int) -> bytes:
    """A PNG of a few bytes that claims to be huge."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    header = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", header)
        + chunk(b"IDAT", zlib.compress(b"\0" * 64))
        + chunk(b"IEND", b"")
    )


PICTURE = Image.fromarray(smooth_picture(80, 60))
BAD = [
    (b"", "is empty"),
    (b"Dear diary, this is no picture at all.", "cannot be read as a picture"),
    (png_claiming(60_000, 60_000), "60000 × 60000"),
    (png_claiming(65_501, 10), "65501"),
    (jpeg_bytes(smooth_picture(80, 60))[:-900], "incomplete or damaged"),
    (image_bytes(PICTURE, "PNG")[:-400], "incomplete or damaged"),
    (png_claiming(200, 100), "incomplete or damaged"),
]


@pytest.mark.parametrize(("content", "words"), BAD, ids=[words for _, words in BAD])
def test_what_cannot_be_used_is_refused_with_the_reason(tmp_path: Path, content: bytes, words: str) -> None:
    path = saved(tmp_path, content)
    with pytest.raises(UnreadablePictureError, match=words):
        read_header(path)
        decode(path)


def test_colours_go_to_the_screen_as_srgb(tmp_path: Path) -> None:
    """Little CMS, through Pillow, from a profile with swapped primaries is not the identity; sRGB nearly is."""
    picture = smooth_picture(30, 20)
    path = saved(tmp_path, jpeg_bytes(picture, icc_profile=srgb_profile()))
    profile = colour_profile(path)
    assert profile_name(profile) == "sRGB built-in"
    assert np.abs(ToScreen(profile)(picture).astype(int) - picture).max() <= 1
    assert ToScreen(b"not a profile")(picture) is picture
    assert (profile_name(b"not a profile"), profile_name(None)) == (None, None)
