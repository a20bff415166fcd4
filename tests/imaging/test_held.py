"""How a camera was held, as it has put down itself: read from made files, and no longer said of what was corrected."""

from __future__ import annotations

from pathlib import Path

import pytest
from pictures import jpeg_bytes, smooth_picture
from PIL import Image

from sequor.imaging.metadata import camera_facts
from sequor.operations.exporting import export
from sequor.recipe.model import Recipe
from sequor.recipe.model.photo import PhotoPart

PICTURE = smooth_picture(90, 60)


def packet(namespace: str, prefix: str, roll: str, pitch: str, names: tuple[str, str]) -> bytes:
    """An XMP packet with a roll and a pitch."""
    return (
        '<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">'
        f'<rdf:Description xmlns:{prefix}="{namespace}" {prefix}:{names[0]}="{roll}" {prefix}:{names[1]}="{pitch}"/>'
        "</rdf:RDF></x:xmpmeta>"
    ).encode()


SPHERE = ("http://ns.google.com/photos/1.0/panorama/", "GPano"), ("PoseRollDegrees", "PosePitchDegrees")
FLYING = ("http://www.dji.com/drone-dji/1.0/", "drone-dji"), ("GimbalRollDegree", "GimbalPitchDegree")


def written(path: Path, **more: object) -> Path:
    """A JPEG with such metadata."""
    path.write_bytes(jpeg_bytes(PICTURE, **more))
    return path


def elevated(degrees: float) -> bytes:
    """EXIF with a CameraElevationAngle."""
    exif = Image.Exif()
    exif.get_ifd(0x8769)[0x9405] = degrees
    return exif.tobytes()


@pytest.mark.parametrize("kind", [SPHERE, FLYING])
def test_roll_and_pitch_are_read_under_their_own_names(
    tmp_path: Path, kind: tuple[tuple[str, str], tuple[str, str]]
) -> None:
    of, names = kind
    file = written(tmp_path / "a.jpg", xmp=packet(*of, "+1.25", "-7.5", names))
    assert camera_facts(file).held == (1.25, -7.5)


def test_the_standard_goes_before_makers_names(tmp_path: Path) -> None:
    of, names = FLYING
    file = written(tmp_path / "a.jpg", exif=elevated(4.5), xmp=packet(*of, "0.8", "-90", names))
    assert camera_facts(file).held == (0.8, 4.5)
    assert camera_facts(written(tmp_path / "b.jpg", exif=elevated(-3.0))).held == (None, -3.0)


@pytest.mark.parametrize("roll", ["", "level", "nan", "inf", "1e400", "179"])
def test_what_is_no_such_angle_counts_as_none(tmp_path: Path, roll: str) -> None:
    of, names = SPHERE
    assert camera_facts(written(tmp_path / "a.jpg", xmp=packet(*of, roll, "x", names))).held is None


def test_files_without_it_say_nothing(tmp_path: Path) -> None:
    assert camera_facts(written(tmp_path / "a.jpg")).held is None
    assert camera_facts(written(tmp_path / "b.jpg", xmp=b"<not xmp")).held is None


def test_a_corrected_picture_no_longer_says_it(tmp_path: Path) -> None:
    of, names = FLYING
    source = written(tmp_path / "a.jpg", exif=elevated(4.5), xmp=packet(*of, "0.8", "-4", names))
    recipe = Recipe(format="sequor-recipe", version=1, photo=PhotoPart(width=90, height=60))
    export(source, recipe, tmp_path / "out.jpg", lambda share, words: None)
    assert camera_facts(tmp_path / "out.jpg").held is None
