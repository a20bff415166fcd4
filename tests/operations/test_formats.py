"""Every format that is written, read back by others: depth, colours, transparency, what it says of the photo."""

from __future__ import annotations

import io
import json
import subprocess
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
import pytest
import tifffile
from originals import deep_picture, tiff_bytes, written
from pictures import camera_exif, jpeg_bytes, line, recipe, smooth_picture, srgb_profile
from PIL import Image

from sequor.imaging.blocks import blocks_of
from sequor.imaging.colour import adobe_rgb, display_p3, profile_name
from sequor.imaging.decode import colour_profile, decode, read_header
from sequor.imaging.formats.registry import FORMATS
from sequor.imaging.metadata import camera_facts
from sequor.operations.exporting import Exported, export
from sequor.recipe.model.export import CARRIES
from sequor.recipe.parse import RecipeError, build

DEEP = deep_picture(300, 200)
XMP = (
    b'<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">'
    b'<rdf:Description rdf:about="" xmlns:tiff="http://ns.adobe.com/tiff/1.0/" tiff:Orientation="1"'
    b' xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:own="http://wendlow.example/own/" own:kept="as it is"'
    b' xmlns:aux="http://ns.adobe.com/exif/1.0/aux/" aux:SerialNumber="4711"'
    b' xmlns:hdrgm="http://ns.adobe.com/hdr-gain-map/1.0/" hdrgm:Version="1.0">'
    b"<dc:creator><rdf:Seq><rdf:li>Somebody</rdf:li></rdf:Seq></dc:creator></rdf:Description></rdf:RDF></x:xmpmeta>"
)


def quiet(share: float, words: str) -> None:
    """Nobody listens."""


def made(
    tmp_path: Path, original: Path, ending: str, size: tuple[int, int] = (300, 200), **parts: Any
) -> tuple[Exported, Path]:
    """An export of a photo as it is, but for what ``parts`` say."""
    out = tmp_path / f"out{ending}"
    document = recipe(*size, **{"correction": {"free": []}, **parts})
    return export(original, build(document), out, quiet), out


@pytest.mark.parametrize("kind", list(CARRIES))
@pytest.mark.parametrize("deep", [True, False])
def test_a_round_trip_of_every_format_at_every_depth(tmp_path: Path, kind: Any, deep: bool) -> None:
    """As deep as the original where the format is, exact where nothing is lost, near where something is."""
    values = DEEP if deep else (DEEP >> 8).astype(np.uint8)
    original = written(tmp_path, tiff_bytes(values, photometric="rgb", iccprofile=adobe_rgb()))
    carries = CARRIES[kind]
    _, out = made(tmp_path, original, carries.endings[0], export={"format": kind})
    bits = (deep and carries.deep) or 8
    assert read_header(out).bits == bits and read_header(out).format == kind
    back = decode(out)
    assert back.dtype == (np.uint16 if bits > 8 else np.uint8)
    assert colour_profile(out) == (adobe_rgb() if carries.profiles else None)
    if carries.profiles:
        wanted = values if bits > 8 or not deep else (DEEP.astype(np.uint32) + 128) // 257
        unit = 257 if bits > 8 else 1
        difference = np.abs(back.astype(int) - wanted)
        assert difference.max() <= (0 if not carries.lossy else 12 * unit), kind


def test_sixteen_bits_are_asked_for_or_eight(tmp_path: Path) -> None:
    original = written(tmp_path, tiff_bytes(DEEP, photometric="rgb"))
    _, eight = made(tmp_path, original, ".png", export={"format": "png", "depth": 8})
    assert Image.open(eight).mode == "RGB" and read_header(eight).bits == 8
    plain = written(tmp_path, jpeg_bytes(smooth_picture(300, 200)))
    _, deep = made(tmp_path, plain, ".tif", export={"format": "tiff", "depth": 16})
    assert tifffile.imread(deep).dtype == np.uint16


def test_colours_are_converted_on_wish(tmp_path: Path) -> None:
    """Adobe RGB to sRGB and to Display P3: the same colours by LittleCMS through Pillow, within 2 codes."""
    from PIL import ImageCms

    values = (deep_picture(60, 40) >> 8).astype(np.uint8)
    original = written(tmp_path, tiff_bytes(values, photometric="rgb", iccprofile=adobe_rgb()))
    for wish, profile in (("srgb", None), ("display-p3", display_p3())):
        _, out = made(tmp_path, original, ".png", (60, 40), export={"format": "png", "profile": wish})
        assert colour_profile(out) == profile
        target = (
            ImageCms.createProfile("sRGB")
            if profile is None
            else ImageCms.ImageCmsProfile(io.BytesIO(profile))
        )
        transform = ImageCms.buildTransform(
            ImageCms.ImageCmsProfile(io.BytesIO(adobe_rgb())), target, "RGB", "RGB"
        )
        theirs = np.asarray(ImageCms.applyTransform(Image.fromarray(values), transform))
        assert np.abs(np.asarray(Image.open(out)).astype(int) - theirs).max() <= 2
    assert profile_name(display_p3()) == "RGB built-in"


@pytest.mark.parametrize("kind", [name for name, one in CARRIES.items() if one.alpha])
def test_clear_corners_stay_clear(tmp_path: Path, kind: Any) -> None:
    original = written(tmp_path, jpeg_bytes(smooth_picture(300, 200)))
    turned = recipe(
        300,
        200,
        references=[line("h", "level", (10, 110), (290, 90))],
        correction={"free": ["roll"]},
        frame={"ratio": "free", "rect": [0, 0, 300, 200], "allow_empty": True},
        edges={"mode": "leave"},
        export={"format": kind},
    )
    out = tmp_path / f"out{CARRIES[kind].endings[0]}"
    export(original, build(turned), out, quiet)
    if kind == "jxl":
        alpha = imagecodecs.jpegxl_decode(out.read_bytes())[..., 3]
    elif kind == "tiff":
        alpha = tifffile.imread(out)[..., 3]
    else:
        alpha = np.asarray(Image.open(out).convert("RGBA"))[..., 3]
    assert alpha[0, 0] == 0 and alpha[100, 150] == 255


def told_by_exiftool(path: Path) -> dict[str, Any]:
    """All tags of a file by ExifTool, numbers as numbers."""
    said = subprocess.run(
        ["exiftool", "-json", "-n", "-G1", "-a", str(path)], capture_output=True, text=True, check=True
    )
    found: dict[str, Any] = json.loads(said.stdout)[0]
    return found


@pytest.mark.parametrize("kind", ["jpeg", "png", "tiff", "webp", "avif", "jxl"])
def test_what_a_file_says_is_true_by_exiftool(tmp_path: Path, kind: Any) -> None:
    """Orientation, size, camera, place, history; nothing of what is no longer so; no warning."""
    exif = camera_exif(orientation=6, gps=True, width=200, height=300)
    original = written(
        tmp_path, jpeg_bytes(smooth_picture(200, 300), exif=exif, xmp=XMP, icc_profile=srgb_profile())
    )
    done, out = made(tmp_path, original, CARRIES[kind].endings[0], export={"format": kind})
    told = told_by_exiftool(out)
    assert told["IFD0:Model"] == "IO-1" and told.get("IFD0:Orientation", 1) == 1
    assert told["ExifIFD:FocalLengthIn35mmFormat"] == 31 and told["ExifIFD:FocalLength"] == 20.5
    assert (told["ExifIFD:ExifImageWidth"], told["ExifIFD:ExifImageHeight"]) == (done.width, done.height)
    assert told["GPS:GPSLatitude"] == pytest.approx(50 + 1 / 60) and done.keeps_place
    assert told["XMP-dc:Creator"] == "Somebody" and told["XMP-own:Kept"] == "as it is"
    assert told["XMP-xmp:CreatorTool"] == "Sequor" and told["XMP-xmpMM:HistoryAction"] == "saved"
    assert not [
        key for key in told if key.endswith((":Orientation", "HDRGMVersion")) and key.startswith("XMP")
    ]
    assert not [key for key in told if "Warning" in key or "Error" in key], told
    assert camera_facts(out) == camera_facts(original)


@pytest.mark.parametrize("kind", ["jpeg", "tiff"])
def test_place_and_serial_numbers_stay_at_home_on_wish(tmp_path: Path, kind: Any) -> None:
    """Not only their names: none of their bytes is in the file."""
    exif = camera_exif(gps=True)
    exif.get_ifd(0x8769)[0xA431] = "SERIAL-0815"
    exif.get_ifd(0x8825)[0x1D] = "2026:06:14"
    original = written(tmp_path, jpeg_bytes(smooth_picture(300, 200), exif=exif, xmp=XMP))
    wish = {"format": kind, "leave_out": ["place", "serials"]}
    done, out = made(tmp_path, original, CARRIES[kind].endings[0], export=wish)
    assert not done.keeps_place and not camera_facts(out).has_place
    content = out.read_bytes()
    for gone in (b"SERIAL-0815", b"4711", b"2026:06:14\0"):
        assert gone not in content
    told = told_by_exiftool(out)
    assert told["IFD0:Model"] == "IO-1" and not [key for key in told if key.startswith("GPS")]


def test_extended_xmp_and_captions_go_along_in_a_jpeg(tmp_path: Path) -> None:
    """The segments that Adobe's packets go on in, and IPTC records, as ExifTool writes and reads them."""
    original = tmp_path / "long.jpg"
    original.write_bytes(jpeg_bytes(smooth_picture(300, 200)))
    subprocess.run(
        [
            "exiftool",
            "-q",
            "-overwrite_original",
            "-IPTC:Caption-Abstract=Shore at Wendlow",
            "-XMP-dc:Description=" + "a long tale " * 8000,
            str(original),
        ],
        check=True,
    )
    assert blocks_of(original).iptc
    done, out = made(tmp_path, original, ".jpg")
    told = told_by_exiftool(out)
    assert told["IPTC:Caption-Abstract"] == "Shore at Wendlow"
    assert done.notices == ()
    done, _ = made(tmp_path, original, ".png", export={"format": "png"})
    assert done.notices == ("A PNG carries no IPTC data. They were left out of the exported file.",)


@pytest.mark.parametrize(
    "packet", [b"<x", b"<!DOCTYPE x [<!ENTITY a 'b'>]><x/>", b"<a>" * 5000 + b"</a>" * 5000]
)
def test_xmp_that_cannot_be_read_is_left_out_and_said(tmp_path: Path, packet: bytes) -> None:
    original = written(tmp_path, jpeg_bytes(smooth_picture(300, 200), xmp=packet))
    done, out = made(tmp_path, original, ".jpg")
    assert done.notices == (
        "The XMP metadata in the photo's file is damaged. It was left out of the exported file.",
    )
    assert told_by_exiftool(out)["XMP-xmp:CreatorTool"] == "Sequor"


@pytest.mark.parametrize("order", ["<", ">"])
def test_a_tiff_goes_through_with_its_own_tags(tmp_path: Path, order: Any) -> None:
    """Its EXIF written by ExifTool, from either end; a JPEG of it, and a TIFF of that, tell the same camera."""
    camera = tmp_path / "camera.jpg"
    camera.write_bytes(jpeg_bytes(smooth_picture(300, 200), exif=camera_exif(gps=True)))
    original = tmp_path / "scan.tif"
    original.write_bytes(tiff_bytes(smooth_picture(300, 200), photometric="rgb", byteorder=order))
    copy = ["exiftool", "-q", "-overwrite_original", "-TagsFromFile", str(camera), "-all:all", str(original)]
    subprocess.run(copy, check=True)
    facts = camera_facts(original)
    assert (facts.model, facts.focal_35mm, facts.has_place) == ("IO-1", 31, True)
    _, out = made(tmp_path, original, ".jpg")
    assert camera_facts(out) == facts
    _, again = made(tmp_path, out, ".tif", export={"format": "tiff"})
    assert camera_facts(again) == facts
    with tifffile.TiffFile(again) as file:
        assert file.pages[0].tags["Make"].value == "Invented Optics"


def test_every_format_of_a_recipe_can_be_written() -> None:
    assert set(FORMATS) == set(CARRIES)


@pytest.mark.parametrize(
    ("size", "written_as"),
    [({"percent": 50}, (150, 100)), ({"long_edge": 90}, (90, 60)), ({"percent": 200}, (600, 400))],
)
def test_sizes_by_per_cent_and_by_the_long_edge(
    tmp_path: Path, size: Any, written_as: tuple[int, int]
) -> None:
    original = written(tmp_path, jpeg_bytes(smooth_picture(300, 200)))
    done, out = made(tmp_path, original, ".png", export={"format": "png", "size": size})
    assert (done.width, done.height) == written_as
    with Image.open(out) as image:
        assert image.size == written_as


def test_only_raw_photos_are_developed(tmp_path: Path) -> None:
    """Told with the field, not ignored; the same on the command line and on the bench."""
    path = tmp_path / "photo.jpg"
    path.write_bytes(jpeg_bytes(smooth_picture(60, 40)))
    with pytest.raises(RecipeError) as refused:
        made(tmp_path, path, ".jpg", (60, 40), develop={"exposure": 1})
    assert refused.value.field == "develop"
