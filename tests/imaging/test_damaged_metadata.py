"""Metadata never stops a picture: what cannot be read is left out and said; profiles that do not fit are not used."""

from __future__ import annotations

import io
import json
from pathlib import Path

import numpy as np
import pytest
from pictures import camera_exif, image_bytes, jpeg_bytes, smooth_picture, srgb_profile
from PIL import Image, ImageCms

from sequor import cli
from sequor.imaging.colour import colour_space, usable
from sequor.imaging.decode import colour_profile, decode, notices
from sequor.imaging.metadata import camera_facts
from sequor.operations.exporting import Exported, export
from sequor.recipe.model import Recipe
from sequor.recipe.model.photo import PhotoPart
from sequor.wording import measured

PICTURE = smooth_picture(60, 40)
WHOLE = jpeg_bytes(PICTURE, exif=camera_exif(orientation=6, gps=True), icc_profile=srgb_profile())
LATIN = WHOLE.replace(b"Invented Optics", b"Inv\xe9nt\xe9e Optics")


def exported(tmp_path: Path, content: bytes, kind: str = "jpg") -> tuple[Exported, Path]:
    source, out = tmp_path / "source", tmp_path / f"out.{kind}"
    source.write_bytes(content)
    height, width = decode(source).shape[:2]
    recipe = Recipe(format="sequor-recipe", version=1, photo=PhotoPart(width=width, height=height))
    return export(source, recipe, out, lambda share, words: None), out


def test_text_in_latin_1_is_carried_as_it_is(tmp_path: Path) -> None:
    done, out = exported(tmp_path, LATIN)
    assert done.notices == ()
    assert b"Inv\xe9nt\xe9e Optics" in out.read_bytes()
    assert Image.open(out).getexif()[0x0112] == 1
    assert camera_facts(out).make == "Inv\xe9nt\xe9e Optics"


@pytest.mark.parametrize("kind", ["jpg", "png"])
def test_a_damaged_profile_stops_nothing(tmp_path: Path, kind: str) -> None:
    damaged = WHOLE.replace(srgb_profile(), srgb_profile()[:36] + b"xxxx" + srgb_profile()[40:])
    assert damaged != WHOLE
    done, out = exported(tmp_path, damaged)
    assert any("colour profile" in notice and "sRGB" in notice for notice in done.notices)
    with Image.open(out) as written:
        assert "icc_profile" not in written.info and written.getexif()[0x0110] == "IO-1"
        assert written.getexif()[0x0112] == 1


def test_exif_that_cannot_be_read_is_left_out_and_said(tmp_path: Path) -> None:
    at = WHOLE.index(b"Exif\0\0") + 6
    done, out = exported(tmp_path, WHOLE[:at] + b"XX" + WHOLE[at + 2 :])
    with Image.open(out) as written:
        assert written.getexif().get(0x0112, 1) == 1
        assert np.asarray(written).shape[2] == 3
    assert all(notice.endswith(".") for notice in done.notices)


def grey_profile() -> bytes:
    """A grey profile of gamma 1.0 made of an sRGB header (ICC.1:2022, 8.4.2: wtpt and kTRC suffice)."""
    white = b"XYZ \0\0\0\0" + b"".join(int(v * 65536).to_bytes(4, "big") for v in (0.9642, 1.0, 0.8249))
    curve = b"curv\0\0\0\0" + (0).to_bytes(4, "big")
    text = b"desc\0\0\0\0" + (5).to_bytes(4, "big") + b"grey\0" + bytes(78)
    tags = [(b"wtpt", white), (b"kTRC", curve), (b"desc", text)]
    at, table, body = 128 + 4 + 12 * len(tags), b"", b""
    for name, tag in tags:
        content = tag + bytes(-len(tag) % 4)
        table += name + (at + len(body)).to_bytes(4, "big") + len(content).to_bytes(4, "big")
        body += content
    header = bytearray(srgb_profile()[:128])
    header[0:4] = (at + len(body)).to_bytes(4, "big")
    header[8:12] = bytes([2, 0x10, 0, 0])
    header[12:24] = b"mntrGRAYXYZ "
    return bytes(header) + len(tags).to_bytes(4, "big") + table + body


def test_a_grey_profile_is_honoured_and_goes_into_no_rgb_file(tmp_path: Path) -> None:
    """A linear grey of 0.5 is 188 in sRGB (IEC 61966-2-1: 1.055 · 0.5^(1/2.4) − 0.055)."""
    profile = grey_profile()
    assert colour_space(profile) == "GRAY" and usable(profile) is None
    ImageCms.ImageCmsProfile(io.BytesIO(profile))
    content = image_bytes(Image.new("L", (60, 40), 128), "PNG", icc_profile=profile)
    (tmp_path / "grey").write_bytes(content)
    assert abs(int(decode(tmp_path / "grey")[0, 0, 0]) - 188) <= 1
    assert colour_profile(tmp_path / "grey") is None
    done, out = exported(tmp_path, content, "png")
    assert done.notices == ("The photo's grey profile was applied. The exported file is in sRGB.",)
    with Image.open(out) as written:
        assert "icc_profile" not in written.info
        assert abs(int(np.asarray(written)[0, 0, 0]) - 188) <= 1


def test_a_profile_for_other_colours_counts_for_nothing(tmp_path: Path) -> None:
    wrong = bytearray(srgb_profile())
    wrong[16:20] = b"CMYK"
    source = tmp_path / "source"
    source.write_bytes(jpeg_bytes(PICTURE, icc_profile=bytes(wrong)))
    assert colour_profile(source) is None
    assert "is for CMYK pictures" in notices(source)[0]
    _, out = exported(tmp_path, source.read_bytes())
    assert "icc_profile" not in Image.open(out).info


@pytest.mark.parametrize("content", [LATIN, WHOLE[:-600], b"", b"x", WHOLE.replace(b"Exif", b"Exxf")])
def test_the_command_line_never_prints_a_traceback(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], content: bytes
) -> None:
    (tmp_path / "photo.jpg").write_bytes(content)
    recipe = {"format": "sequor-recipe", "version": 1, "photo": {"width": 40, "height": 60}}
    (tmp_path / "recipe.json").write_text(json.dumps(recipe))
    where = [str(tmp_path / name) for name in ("recipe.json", "photo.jpg", "out.jpg")]
    status = cli.main(["apply", *where])
    said = capsys.readouterr()
    document = json.loads(said.out)
    assert "Traceback" not in said.err and status == (0 if "out" in document else 2)


def test_what_nobody_foresaw_is_a_line_too(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(measured, "measure_report", lambda recipe: 1 / 0)
    (tmp_path / "r.json").write_text(
        '{"format": "sequor-recipe", "version": 1, "photo": {"width": 4, "height": 6}}'
    )
    assert cli.main(["measure", str(tmp_path / "r.json")]) == 2
    assert "ZeroDivisionError" in json.loads(capsys.readouterr().out)["error"]
