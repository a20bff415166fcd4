"""What cameras, phones and scanners write comes in as it is: depth, colours, which way up; and is called by its name."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import cv2
import imagecodecs
import numpy as np
import pytest
import tifffile
from originals import cmyk_jpeg, deep_picture, dng_bytes, gamma_png, heic_bytes, tiff_bytes, written
from pictures import camera_exif, image_bytes, jpeg_bytes, smooth_picture
from PIL import Image, ImageCms

from sequor.imaging.colour import ToScreen, adobe_rgb, profile_name
from sequor.imaging.decode import UnreadablePictureError, colour_profile, decode, notices, read_header
from sequor.imaging.originals.base import upright

DEEP = deep_picture(60, 40)
PLAIN = smooth_picture(60, 40)


@pytest.mark.parametrize(
    "options",
    [
        {},
        {"compression": "lzw"},
        {"compression": "deflate", "predictor": True},
        {"tile": (16, 16)},
        {"planarconfig": "separate"},
        {"compression": "zlib", "tile": (32, 32)},
        {"byteorder": ">"},
        {"bigtiff": True},
    ],
    ids=str,
)
@pytest.mark.parametrize("deep", [True, False])
def test_every_layout_of_a_tiff_is_the_same_picture(
    tmp_path: Path, options: dict[str, Any], deep: bool
) -> None:
    values = DEEP if deep else PLAIN
    given = values
    if options.get("planarconfig") == "separate":
        given = values.transpose(2, 0, 1)
    path = written(tmp_path, tiff_bytes(given, photometric="rgb", **options))
    header = read_header(path)
    assert (header.format, header.width, header.height, header.bits) == ("tiff", 60, 40, 16 if deep else 8)
    assert np.array_equal(decode(path), values)
    assert notices(path) == []


def test_a_tiff_with_jpeg_inside(tmp_path: Path) -> None:
    picture = smooth_picture(400, 300)
    coded = tiff_bytes(picture, photometric="rgb", compression="jpeg", compressionargs={"level": 99})
    assert np.abs(decode(written(tmp_path, coded)).astype(int) - picture).mean() < 2


def test_other_values_in_a_tiff(tmp_path: Path) -> None:
    """Floating point is scaled and said; several pages and transparency are said; grey, palette, ink become RGB."""
    floats = written(tmp_path, tiff_bytes((DEEP / 65535).astype(np.float32), photometric="rgb"))
    assert np.abs(decode(floats).astype(int) - DEEP).max() <= 1
    assert notices(floats) == ["The photo's values are floating point. They were scaled to 16 bits."]
    bright = written(tmp_path, tiff_bytes((DEEP / 65535 * 4).astype(np.float32), photometric="rgb"))
    assert np.abs(decode(bright).astype(int) - DEEP).max() <= 1
    buffer = io.BytesIO()
    with tifffile.TiffWriter(buffer) as file:
        file.write(PLAIN, photometric="rgb")
        file.write(255 - PLAIN, photometric="rgb")
    pages = written(tmp_path, buffer.getvalue())
    assert np.array_equal(decode(pages), PLAIN)
    assert notices(pages) == [
        "This file holds 2 pictures. The first one is used; the others are not carried over."
    ]
    clear = np.dstack([DEEP, np.zeros(DEEP.shape[:2], np.uint16)])
    path = written(tmp_path, tiff_bytes(clear, photometric="rgb", extrasamples=["unassalpha"]))
    assert (decode(path) == 65535).all() and "become white" in notices(path)[0]
    grey = written(tmp_path, tiff_bytes(DEEP[..., 0], photometric="minisblack"))
    assert np.array_equal(decode(grey), DEEP[..., :1].repeat(3, axis=2))
    negative = written(tmp_path, tiff_bytes(DEEP[..., 0], photometric="miniswhite"))
    assert np.array_equal(decode(negative)[..., 0], 65535 - DEEP[..., 0])
    palette = Image.fromarray(PLAIN).convert("P")
    assert np.array_equal(
        decode(written(tmp_path, image_bytes(palette, "TIFF"))) >> 8, np.asarray(palette.convert("RGB"))
    )
    bits = Image.fromarray(PLAIN).convert("1")
    assert np.array_equal(
        decode(written(tmp_path, image_bytes(bits, "TIFF"))), np.asarray(bits.convert("RGB"))
    )


def test_a_png_of_sixteen_bits(tmp_path: Path) -> None:
    """Written by imagecodecs and by OpenCV; colours and grey."""
    path = written(tmp_path, imagecodecs.png_encode(DEEP))
    assert read_header(path).bits == 16 and np.array_equal(decode(path), DEEP)
    other = written(tmp_path, cv2.imencode(".png", DEEP[..., ::-1])[1].tobytes())
    assert np.array_equal(decode(other), DEEP)
    grey = written(tmp_path, imagecodecs.png_encode(np.ascontiguousarray(DEEP[..., 0])))
    assert np.array_equal(decode(grey), DEEP[..., :1].repeat(3, axis=2))


@pytest.mark.parametrize("orientation", range(1, 9))
def test_which_way_up(tmp_path: Path, orientation: int) -> None:
    """All eight values of the tag Orientation (CIPA DC-008-2019, 0x0112), against OpenCV's reading of a JPEG."""
    theirs = cv2.cvtColor(
        cv2.imdecode(
            np.frombuffer(jpeg_bytes(PLAIN, exif=camera_exif(orientation=orientation)), np.uint8),
            cv2.IMREAD_COLOR,
        ),
        cv2.COLOR_BGR2RGB,
    )
    assert np.abs(upright(PLAIN, orientation).astype(int) - theirs).mean() < 2
    exif = camera_exif(orientation=orientation).tobytes()
    files = {
        "tiff": tiff_bytes(PLAIN, photometric="rgb", extratags=[(274, "H", 1, orientation, True)]),
        "webp": image_bytes(Image.fromarray(PLAIN), "WEBP", lossless=True, exif=exif),
        "avif": image_bytes(Image.fromarray(PLAIN), "AVIF", quality=100, subsampling="4:4:4", exif=exif),
        "png": image_bytes(Image.fromarray(PLAIN), "PNG", exif=exif),
    }
    for kind, content in files.items():
        path = written(tmp_path, content)
        header = read_header(path)
        pixels = decode(path)
        assert (header.format, (header.height, header.width)) == (kind, pixels.shape[:2])
        assert np.abs(pixels.astype(int) - theirs).mean() < 4, kind


def test_which_way_up_by_xmp_alone(tmp_path: Path) -> None:
    packet = (
        b'<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">'
        b'<rdf:Description xmlns:tiff="http://ns.adobe.com/tiff/1.0/" tiff:Orientation="8"/></rdf:RDF></x:xmpmeta>'
    )
    path = written(tmp_path, jpeg_bytes(PLAIN, xmp=packet))
    assert decode(path).shape == (60, 40, 3) and read_header(path).orientation == 8


@pytest.mark.parametrize("deep", [True, False])
def test_an_heic(tmp_path: Path, deep: bool) -> None:
    values = DEEP if deep else PLAIN
    path = written(tmp_path, heic_bytes(values))
    header, pixels = read_header(path), decode(path)
    assert (header.format, header.bits) == ("heic", 10 if deep else 8)
    assert pixels.dtype == values.dtype
    near = 65535 // 1023 * 4 if deep else 4
    assert np.abs(pixels.astype(int) - values).mean() < near
    if deep:
        assert len(np.unique(pixels[..., 0])) > 50


@pytest.mark.parametrize("bits", [8, 10, 12])
def test_an_avif(tmp_path: Path, bits: int) -> None:
    values = PLAIN if bits == 8 else DEEP >> (16 - bits)
    path = written(tmp_path, imagecodecs.avif_encode(values, level=100, bitspersample=bits))
    assert (read_header(path).format, read_header(path).bits) == ("avif", bits)
    pixels = decode(path)
    wanted = PLAIN if bits == 8 else DEEP
    assert pixels.dtype == wanted.dtype
    assert np.abs(pixels.astype(int) - wanted).max() <= (2 if bits == 8 else 65535 / 2**bits * 4)


@pytest.mark.parametrize("values", [PLAIN, DEEP], ids=["8", "16"])
def test_a_jpeg_xl(tmp_path: Path, values: Any) -> None:
    path = written(tmp_path, imagecodecs.jpegxl_encode(values, lossless=True))
    assert read_header(path).format == "jxl" and np.array_equal(decode(path), values)


def test_a_jpeg_of_twelve_bits(tmp_path: Path) -> None:
    path = written(
        tmp_path, imagecodecs.jpeg_encode(DEEP >> 4, bitspersample=12, level=100, subsampling="444")
    )
    header = read_header(path)
    assert (header.width, header.height, header.bits) == (60, 40, 12)
    assert np.abs(decode(path).astype(int) - DEEP).mean() < 65535 / 4096 * 8


@pytest.mark.parametrize("adobe", [True, False])
def test_inks_become_colours(tmp_path: Path, adobe: bool) -> None:
    """Without a profile roughly, and said: plain yellow is yellow whether the inks are turned round or not."""
    path = written(tmp_path, cmyk_jpeg((16, 16), (0, 0, 255, 0), adobe))
    seen = ToScreen(colour_profile(path))(decode(path))[8, 8]
    assert seen[0] > 230 and seen[1] > 220 and seen[2] < 60
    assert notices(path) == [
        "The photo is in CMYK. It was converted to RGB, without a profile, so its colours are approximate."
    ]


def test_raw_values_come_out_in_srgb(tmp_path: Path) -> None:
    """A DNG with known linear values: their codes are those of IEC 61966-2-1, within a per cent."""
    linear = np.empty((64, 96, 3))
    patches = [(0.18, 0.18, 0.18), (0.5, 0.2, 0.1), (0.1, 0.3, 0.6), (0.02, 0.02, 0.02)]
    for index, patch in enumerate(patches):
        linear[:, 24 * index : 24 * (index + 1)] = patch
    path = written(tmp_path, dng_bytes(linear))
    header = read_header(path)
    assert (header.format, header.width, header.height, header.bits) == ("raw", 96, 64, 16)
    pixels = decode(path)
    assert pixels.dtype == np.uint16 and pixels.shape == (64, 96, 3)
    for index, patch in enumerate(patches):
        light = np.array(patch)
        code = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)
        found = pixels[20:44, 24 * index + 8 : 24 * index + 16].reshape(-1, 3).mean(axis=0) / 65535
        assert found == pytest.approx(code, abs=0.012), patch
    assert notices(path) == []


def test_colours_that_are_only_said(tmp_path: Path) -> None:
    """Without a profile: EXIF's colour space and DCF's R03 mean Adobe RGB, PNG's gAMA a gamma, cICP its primaries."""
    exif = Image.Exif()
    exif.get_ifd(0x8769)[0xA001] = 2
    adobe = written(tmp_path, jpeg_bytes(PLAIN, exif=exif))
    assert colour_profile(adobe) == adobe_rgb()
    dcf = Image.Exif()
    dcf.get_ifd(0x8769)[0xA001] = 65535
    dcf.get_ifd(0x8769)[0xA005] = {1: "R03"}
    assert colour_profile(written(tmp_path, jpeg_bytes(PLAIN, exif=dcf))) == adobe_rgb()
    plain = Image.Exif()
    plain.get_ifd(0x8769)[0xA001] = 65535
    assert colour_profile(written(tmp_path, jpeg_bytes(PLAIN, exif=plain))) is None
    grey = np.full((4, 4, 3), 128, np.uint8)
    linear = written(tmp_path, gamma_png(grey, 100_000))
    # A light of 128/255 is the code 188 of sRGB (IEC 61966-2-1).
    assert abs(int(ToScreen(colour_profile(linear))(decode(linear))[0, 0, 0]) - 188) <= 1
    usual = written(tmp_path, gamma_png(grey, 45455))
    assert abs(int(ToScreen(colour_profile(usual))(decode(usual))[0, 0, 0]) - 128) <= 2
    p3 = written(tmp_path, gamma_png(np.full((4, 4, 3), (255, 0, 0), np.uint8), 0, bytes([12, 13, 0, 1])))
    profile = colour_profile(p3)
    assert profile is not None and profile_name(profile) == "RGB built-in"
    assert ToScreen(profile)(decode(p3))[0, 0].tolist() == [255, 0, 0]
    assert colour_profile(written(tmp_path, gamma_png(grey, 0, bytes([1, 13, 0, 1])))) is None


PATCHES = np.array(
    [[red, green, blue] for red in (20, 128, 235) for green in (20, 235) for blue in (20, 90, 160, 235)],
    np.uint8,
).reshape(4, 6, 3)


def test_deep_colours_on_the_screen_agree_with_little_cms(tmp_path: Path) -> None:
    """24 patches in Adobe RGB: in 16 bits through imagecodecs as in 8 through Pillow, both LittleCMS, within 2 codes."""
    path = written(
        tmp_path, tiff_bytes(PATCHES.astype(np.uint16) * 257, photometric="rgb", iccprofile=adobe_rgb())
    )
    profile = colour_profile(path)
    assert profile == adobe_rgb()
    ours = ToScreen(profile)(decode(path)).astype(int)
    transform = ImageCms.buildTransform(
        ImageCms.ImageCmsProfile(io.BytesIO(adobe_rgb())), ImageCms.createProfile("sRGB"), "RGB", "RGB"
    )
    theirs = np.asarray(ImageCms.applyTransform(Image.fromarray(PATCHES), transform)).astype(int)
    assert np.abs(ours - theirs).max() <= 2


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (image_bytes(Image.fromarray(PLAIN), "GIF"), "This is a GIF file"),
        (image_bytes(Image.fromarray(PLAIN), "BMP"), "This is a BMP file"),
        (b"%PDF-1.7 and so on", "This is a PDF file"),
        (tiff_bytes(DEEP, photometric="rgb")[:3000], "incomplete or damaged"),
        (imagecodecs.png_encode(DEEP)[:200], "incomplete or damaged"),
        (heic_bytes(PLAIN)[:300], "incomplete or damaged"),
        (imagecodecs.jpegxl_encode(DEEP, lossless=True)[:60], "incomplete or damaged"),
        (dng_bytes(np.full((32, 32, 3), 0.2))[:900], "incomplete or damaged"),
        (tiff_bytes(DEEP.astype(np.complex64), photometric="rgb"), "complex"),
    ],
)
def test_what_cannot_be_used_is_called_by_its_name(tmp_path: Path, content: bytes, words: str) -> None:
    path = written(tmp_path, content)
    with pytest.raises(UnreadablePictureError, match=words) as refused:
        read_header(path)
        decode(path)
    assert "Nothing was added" in str(refused.value)


def test_one_pixel(tmp_path: Path) -> None:
    for content in (
        tiff_bytes(DEEP[:1, :1], photometric="rgb"),
        imagecodecs.png_encode(DEEP[:1, :1]),
        image_bytes(Image.new("RGB", (1, 1)), "WEBP"),
        image_bytes(Image.new("RGB", (1, 1)), "AVIF"),
        jpeg_bytes(PLAIN[:1, :1]),
    ):
        path = written(tmp_path, content)
        assert decode(path).shape == (1, 1, 3)
