"""How exported files are written: clear areas, sharpness, compression, names; what they say of faces and of the steps."""

from __future__ import annotations

import io
import json
import subprocess
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
import pytest
import pyvips
import tifffile
from originals import cmyk_jpeg, deep_picture, dng_bytes, heic_bytes, tiff_bytes, written
from pictures import camera_exif, image_bytes, jpeg_bytes, line, recipe, smooth_picture
from PIL import Image
from PIL.ExifTags import Base

from sequor.imaging.colour import adobe_rgb
from sequor.imaging.decode import decode, opacity
from sequor.imaging.metadata import recipe_in
from sequor.operations.export_names import About, file_names
from sequor.operations.exporting import Exported, export
from sequor.recipe.model import Recipe
from sequor.recipe.model.export import CARRIES
from sequor.recipe.parse import RecipeError, build

SIZE = 300, 200


def quiet(share: float, words: str) -> None:
    """Nobody listens."""


def as_is(**parts: Any) -> Recipe:
    """A recipe that changes nothing but what ``parts`` say."""
    return build(recipe(*SIZE, **{"correction": {"free": []}, **parts}))


def made(folder: Path, original: Path, ending: str, wanted: Recipe) -> tuple[Exported, Path]:
    """An export of a photo."""
    out = folder / f"out{ending}"
    return export(original, wanted, out, quiet), out


def half_clear(deep: bool) -> np.ndarray:
    """A red picture of which the left fades away."""
    values = np.zeros((200, 300, 4), np.uint8)
    values[..., 0], values[..., 3] = 200, np.linspace(0, 255, 300).astype(np.uint8)
    return values.astype(np.uint16) * 257 if deep else values


@pytest.mark.parametrize("kind", ["png", "tiff", "webp", "avif", "jxl"])
@pytest.mark.parametrize("deep", [True, False])
def test_transparent_areas_stay_so_in_formats_that_have_them(tmp_path: Path, kind: Any, deep: bool) -> None:
    """As clear as they were and of the colour that they had, not mixed with white."""
    values = half_clear(deep)
    original = written(tmp_path, tiff_bytes(values, photometric="rgb", extrasamples=["unassalpha"]))
    done, out = made(tmp_path, original, ".out", as_is(export={"format": kind, "quality": 100}))
    assert not any("transparent" in one for one in done.notices)
    seen, on_white = opacity(out), decode(out)
    assert seen is not None
    most = int(np.iinfo(seen.dtype).max)
    assert seen / most == pytest.approx(values[..., 3] / np.iinfo(values.dtype).max, abs=0.02)
    share = seen[100, 250] / most
    assert on_white[100, 250] / most == pytest.approx(
        np.array([200 / 255, 0, 0]) * share + (1 - share), abs=0.03
    )


def test_transparent_areas_become_white_in_a_jpeg_and_that_is_said(tmp_path: Path) -> None:
    original = written(tmp_path, image_bytes(Image.fromarray(half_clear(False), "RGBA"), "PNG"))
    done, out = made(tmp_path, original, ".jpg", as_is())
    assert any("transparent" in one for one in done.notices)
    assert np.asarray(Image.open(out))[100, 2].min() > 245


def test_a_turned_picture_keeps_its_transparency_in_place(tmp_path: Path) -> None:
    clear = np.full((200, 300, 4), 255, np.uint8)
    clear[80:120, 130:170, 3] = 0
    original = written(tmp_path, image_bytes(Image.fromarray(clear, "RGBA"), "PNG"))
    wanted = build(
        recipe(*SIZE, references=[line("h", "level", (10, 110), (290, 90))], export={"format": "png"})
    )
    _, out = made(tmp_path, original, ".png", wanted)
    seen = opacity(out)
    assert seen is not None
    middle = seen.shape[0] // 2, seen.shape[1] // 2
    assert seen[middle] == 0 and seen[5, 5] == 255 and 0.7 < (seen == 0).sum() / 1600 < 1.2


def test_an_avif_of_ten_bits_is_read_by_others_with_its_profile_and_its_words(tmp_path: Path) -> None:
    """libvips reads the levels and the profile, ExifTool the camera."""
    picture = deep_picture(*SIZE)
    camera = tmp_path / "camera.jpg"
    camera.write_bytes(jpeg_bytes(smooth_picture(*SIZE), exif=camera_exif(gps=True)))
    original = written(tmp_path, tiff_bytes(picture, photometric="rgb", iccprofile=adobe_rgb()))
    subprocess.run(
        ["exiftool", "-q", "-overwrite_original", "-TagsFromFile", str(camera), "-exif:all", str(original)],
        check=True,
    )
    _, out = made(tmp_path, original, ".avif", as_is(export={"format": "avif", "quality": 98}))
    theirs = pyvips.Image.new_from_file(str(out))
    assert theirs.get("heif-bitdepth") == 10 and theirs.get("icc-profile-data") == adobe_rgb()
    assert len(np.unique(theirs.numpy()[..., 0])) > 256
    told = json.loads(
        subprocess.run(["exiftool", "-json", str(out)], capture_output=True, check=True).stdout
    )[0]
    assert told["Model"] == "IO-1" and told["CreatorTool"] == "Sequor"
    with Image.open(out) as image:
        assert image.info["icc_profile"] == adobe_rgb() and image.getexif()[Base.Model] == "IO-1"


@pytest.mark.parametrize(("compression", "code"), [("none", 1), ("lzw", 5), ("deflate", 8)])
def test_a_tiff_is_compressed_as_is_said(tmp_path: Path, compression: str, code: int) -> None:
    original = written(tmp_path, tiff_bytes(deep_picture(*SIZE), photometric="rgb"))
    wanted = as_is(export={"format": "tiff", "compression": compression})
    _, out = made(tmp_path, original, ".tif", wanted)
    with tifffile.TiffFile(out) as file:
        assert int(file.pages[0].tags[259].value) == code
    assert np.array_equal(tifffile.imread(out), deep_picture(*SIZE))


def test_a_progressive_jpeg(tmp_path: Path) -> None:
    original = written(tmp_path, jpeg_bytes(smooth_picture(*SIZE)))
    for wish in (False, True):
        _, out = made(tmp_path, original, ".jpg", as_is(export={"progressive": wish}))
        with Image.open(out) as image:
            assert bool(image.info.get("progressive")) == wish


@pytest.mark.parametrize("to", ["screen", "paper"])
def test_sharpening_raises_edges_and_nothing_else(tmp_path: Path, to: str) -> None:
    """An edge of two greys becomes steeper, without a colour; flat areas stay what they are."""
    picture = np.full((200, 300, 3), 80, np.uint8)
    picture[:, 150:] = 170
    original = written(tmp_path, image_bytes(Image.fromarray(picture), "PNG"))
    size = {"format": "png", "size": {"percent": 37}}
    _, plain = made(tmp_path, original, ".png", as_is(export=size))
    before = np.asarray(Image.open(plain)).astype(int)
    _, sharp = made(tmp_path, original, ".png", as_is(export={**size, "sharpen": 0.5, "sharpen_for": to}))
    after = np.asarray(Image.open(sharp)).astype(int)
    assert after.shape == before.shape
    assert np.ptp(after, axis=2).max() == 0
    middle = before.shape[1] // 2
    assert np.abs(np.diff(after[30, :, 0])).max() > 1.1 * np.abs(np.diff(before[30, :, 0])).max()
    assert np.array_equal(after[:, : middle - 12], before[:, : middle - 12])


FACES = b"""<x:xmpmeta xmlns:x='adobe:ns:meta/'><rdf:RDF xmlns:rdf='http://www.w3.org/1999/02/22-rdf-syntax-ns#'>
<rdf:Description rdf:about='' xmlns:mwg-rs='http://www.metadataworkinggroup.com/schemas/regions/'
 xmlns:stDim='http://ns.adobe.com/xap/1.0/sType/Dimensions#' xmlns:stArea='http://ns.adobe.com/xmp/sType/Area#'>
<mwg-rs:Regions rdf:parseType='Resource'>
<mwg-rs:AppliedToDimensions stDim:w='300' stDim:h='200' stDim:unit='pixel'/>
<mwg-rs:RegionList><rdf:Bag>
<rdf:li><rdf:Description mwg-rs:Name='Ada' mwg-rs:Type='Face'>
<mwg-rs:Area stArea:x='0.5' stArea:y='0.3' stArea:w='0.1' stArea:h='0.15' stArea:unit='normalized'/></rdf:Description></rdf:li>
<rdf:li rdf:parseType='Resource'><mwg-rs:Name>At the border</mwg-rs:Name><mwg-rs:Type>Face</mwg-rs:Type>
<mwg-rs:Area rdf:parseType='Resource'><stArea:x>0.01</stArea:x><stArea:y>0.02</stArea:y><stArea:w>0.02</stArea:w>
<stArea:h>0.03</stArea:h><stArea:unit>normalized</stArea:unit></mwg-rs:Area></rdf:li>
</rdf:Bag></mwg-rs:RegionList></mwg-rs:Regions></rdf:Description></rdf:RDF></x:xmpmeta>"""


@pytest.mark.parametrize("orientation", [1, 6])
def test_faces_and_the_subject_are_marked_where_they_lie_now(tmp_path: Path, orientation: int) -> None:
    """A bright box with a face region and a subject area about it: after a turn ExifTool's regions and area lie about
    the box of the exported pixels; a face that is cut off is left out and that is said."""
    stored = np.full((200, 300, 3), 60, np.uint8)
    stored[45:75, 135:165] = 250
    exif = Image.Exif()
    exif[Base.Orientation] = orientation
    exif.get_ifd(0x8769)[0x9214] = (150, 60, 30, 30)
    original = written(tmp_path, jpeg_bytes(stored, exif=exif.tobytes(), xmp=FACES))
    upright = SIZE if orientation == 1 else SIZE[::-1]
    width, height = upright
    wanted = build(
        recipe(
            width, height, references=[line("h", "level", (10, height / 2 + 9), (width - 10, height / 2 - 9))]
        )
    )
    done, out = made(tmp_path, original, ".jpg", wanted)
    light = np.asarray(Image.open(out).convert("L")) > 160
    down, across = (np.flatnonzero(light.any(axis=axis)) for axis in (1, 0))
    x, y = (across[0] + across[-1] + 1) / 2, (down[0] + down[-1] + 1) / 2
    said = subprocess.run(["exiftool", "-json", "-struct", "-n", str(out)], capture_output=True, check=True)
    told = json.loads(said.stdout)[0]
    (face,) = told["RegionInfo"]["RegionList"]
    area = face["Area"]
    assert face["Name"] == "Ada"
    assert (area["X"] * done.width, area["Y"] * done.height) == pytest.approx((x, y), abs=1.5)
    assert area["W"] * done.width == pytest.approx(len(across), abs=5)
    assert told["RegionInfo"]["AppliedToDimensions"]["W"] == done.width
    subject = [int(one) for one in str(told["SubjectArea"]).split()]
    assert subject[:2] == pytest.approx((x, y), abs=2)
    assert any("no longer fit" in one for one in done.notices)


def test_the_steps_go_into_the_file_and_are_found_in_it(tmp_path: Path) -> None:
    original = written(tmp_path, jpeg_bytes(smooth_picture(*SIZE)))
    wanted = build(recipe(*SIZE, references=[line("h", "level", (10, 110), (290, 90))]))
    for ending, kind in (
        (".jpg", "jpeg"),
        (".png", "png"),
        (".tif", "tiff"),
        (".avif", "avif"),
        (".jxl", "jxl"),
    ):
        told = as_told(wanted, kind)
        _, out = made(tmp_path, original, ending, told)
        found = recipe_in(out)
        assert found is not None and build(json.loads(found)) == told
    _, out = made(tmp_path, original, ".jpg", as_is(export={"leave_out": ["recipe"]}))
    assert recipe_in(out) is None and recipe_in(original) is None


def as_told(wanted: Recipe, kind: str) -> Recipe:
    """The recipe with another format."""
    return build({**wanted.model_dump(mode="json"), "export": {"format": kind}})


def test_a_small_picture_that_was_there_shows_what_was_written(tmp_path: Path) -> None:
    """Read by exiftool: in the same format, of the exported ratio, not the one of the photo as taken."""
    original = tmp_path / "photo.jpg"
    original.write_bytes(jpeg_bytes(smooth_picture(*SIZE), exif=camera_exif(gps=False)))
    small = tmp_path / "small.jpg"
    small.write_bytes(jpeg_bytes(np.zeros((120, 160, 3), np.uint8)))
    subprocess.run(
        ["exiftool", "-q", "-overwrite_original", f"-ThumbnailImage<={small}", str(original)], check=True
    )
    _, out = made(tmp_path, original, ".jpg", as_is(frame={"ratio": "1:1"}))
    told = subprocess.run(
        ["exiftool", "-b", "-ThumbnailImage", str(out)], capture_output=True, check=True
    ).stdout
    with Image.open(io.BytesIO(told)) as image:
        assert image.size == (160, 160) and np.asarray(image).mean() > 40


OF = About("IMG_2041.JPG", "Wendlow mill", "2026-05-03")


@pytest.mark.parametrize(
    ("template", "name"),
    [
        (None, "IMG_2041-level.jpg"),
        ("{title} {ratio}", "Wendlow mill 3x2.jpg"),
        ("{date}_{file}_{n}", "2026-05-03_IMG_2041_1.jpg"),
        ("{title} - {version}", "Wendlow mill.jpg"),
        ("a/b: {title}", "a_b_ Wendlow mill.jpg"),
    ],
)
def test_names_by_template(template: str | None, name: str) -> None:
    assert file_names(OF, [("", as_is())], template) == [name]


def test_no_two_files_of_one_export_are_called_the_same() -> None:
    named = [(name, as_is()) for name in ("wide: page", "wide* page", "current")]
    assert file_names(OF, named, None) == [
        "IMG_2041 wide_ page.jpg",
        "IMG_2041 wide_ page 2.jpg",
        "IMG_2041 current.jpg",
    ]
    assert file_names(OF, named, "{title}") == [
        "Wendlow mill.jpg",
        "Wendlow mill 2.jpg",
        "Wendlow mill 3.jpg",
    ]
    assert file_names(OF, named, "{n}") == ["1.jpg", "2.jpg", "3.jpg"]


@pytest.mark.parametrize("template", ["{camera}", "{", "{title", "  "])
def test_a_template_that_cannot_be_used_is_refused(template: str) -> None:
    with pytest.raises(RecipeError) as refused:
        as_is(export={"name": template})
    assert refused.value.field == "export.name"


def originals() -> dict[str, bytes]:
    """A small original of every kind that comes in."""
    deep, plain = deep_picture(60, 40), smooth_picture(60, 40)
    grey = Image.fromarray(plain).convert("L")
    return {
        "jpeg": jpeg_bytes(plain),
        "jpeg of 12 bits": bytes(imagecodecs.jpeg_encode(deep >> 4, level=95, bitspersample=12)),
        "jpeg in inks": cmyk_jpeg((60, 40), (10, 200, 30, 0), adobe=True),
        "grey jpeg": image_bytes(grey, "JPEG"),
        "png of 16 bits": bytes(imagecodecs.png_encode(deep)),
        "grey png with alpha": image_bytes(grey.convert("LA"), "PNG"),
        "png with a palette": image_bytes(Image.fromarray(plain).convert("P"), "PNG"),
        "webp": image_bytes(Image.fromarray(plain), "WEBP"),
        "avif": image_bytes(Image.fromarray(plain), "AVIF"),
        "avif of 10 bits": bytes(imagecodecs.avif_encode(deep >> 6, level=90, bitspersample=10)),
        "heic": heic_bytes(deep),
        "jxl": bytes(imagecodecs.jpegxl_encode(deep, lossless=True)),
        "tiff": tiff_bytes(plain, photometric="rgb"),
        "tiff of floats": tiff_bytes(np.asarray(deep / 65535, np.float32), photometric="rgb"),
        "tiff in inks": tiff_bytes(np.dstack([plain, plain[..., :1]]), photometric="separated"),
        "raw": dng_bytes(np.full((40, 60, 3), 0.2)),
    }


@pytest.mark.parametrize("kind", list(CARRIES))
@pytest.mark.parametrize("original", list(originals()))
def test_every_kind_of_original_goes_into_every_format(tmp_path: Path, original: str, kind: Any) -> None:
    """Nothing that an export asks of a file is refused by one that was taken in."""
    path = written(tmp_path, originals()[original])
    wanted = build(recipe(60, 40, correction={"free": []}, export={"format": kind}))
    done, out = made(tmp_path, path, CARRIES[kind].endings[0], wanted)
    assert (done.width, done.height) == (60, 40)
    assert decode(out).shape == (40, 60, 3)
