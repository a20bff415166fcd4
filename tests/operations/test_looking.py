"""What is proposed of a photo that nobody has measured, in lines and on the command line."""

from __future__ import annotations

import json
import shutil
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from clients import Importer
from pictures import DEMO, image_bytes, jpeg_bytes, smooth_picture
from PIL import Image
from scenes import SCENES, scene
from skimage import data

from sequor.cli import main
from sequor.operations.looking import EXTENTS, Looks, look_at, taken
from sequor.operations.looking_ahead import look_ahead
from sequor.operations.photos import PhotoUnknownError, get_photo
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.lens import LensPart
from sequor.recipe.parse import build
from sequor.store.database import Store
from sequor.store.files import OriginalMissingError
from sequor.web.bench.look import FoundOut


def recipe_of(name: str, focal: bool) -> Recipe:
    """The recipe of a demo scene with its true lens, its focal length known or not."""
    one = scene(name)
    width, height = one.size
    bent = one.truth["distortion"]["k1"]
    photo = {
        "width": width,
        "height": height,
        "focal_35mm": None,
        "focal_px": one.truth["f_px"] if focal else None,
    }
    lens = {"source": "manual", "k1": bent} if bent else {"source": "none"}
    return build({"format": "sequor-recipe", "version": 1, "photo": photo, "lens": lens})


@pytest.mark.parametrize("name", SCENES)
def test_the_lines_that_are_proposed_lead_to_the_true_attitude(name: str) -> None:
    """Through the same solve as lines that a person draws, at every extent; none of them disagrees."""
    one = scene(name)
    recipe = recipe_of(name, focal=True)
    seen = look_at(one.picture, recipe)
    assert seen.cannot_tell is None and seen.tilt is not None and seen.aim is not None
    assert sum(line.share for line in seen.references) == pytest.approx(1)
    for extent, angles in EXTENTS.items():
        if extent not in {each.extent for each in seen.extents}:
            continue
        found = evaluate(taken(recipe, seen.references, extent))
        assert not found.solution.conflicts
        for angle, bar in zip(angles, (0.08, 0.15, 0.6), strict=False):
            true = one.truth[f"{angle}_deg"]
            assert getattr(found.solution.attitude, angle) == pytest.approx(true, abs=bar), (extent, angle)


@pytest.mark.parametrize("name", SCENES)
def test_without_a_focal_length_only_the_tilt_is_proposed(name: str) -> None:
    one = scene(name)
    recipe = recipe_of(name, focal=False)
    seen = look_at(one.picture, recipe)
    assert seen.focal_source == "assumed" and seen.aim is None and seen.turn is None
    assert [each.extent for each in seen.extents] == ["tilt"]
    found = evaluate(taken(recipe, seen.references, "tilt"))
    assert not any(line.kind == "receding" for line in seen.references)
    assert found.solution.attitude.roll == pytest.approx(one.truth["roll_deg"], abs=0.1)


def test_sixteen_bits_are_looked_at_alike() -> None:
    one = scene("glasshouse")
    recipe = recipe_of("glasshouse", focal=True)
    deep = look_at(one.picture.astype(np.uint16) * 257, recipe)
    assert deep.tilt is not None
    assert deep.tilt.deg == pytest.approx(one.truth["roll_deg"], abs=0.08)


def test_a_look_is_taken_once_for_a_photo_and_its_lens(tmp_path: Path) -> None:
    """Kept over a start; a file that was damaged, and another lens, are looked at anew."""
    one = scene("village")
    recipe = recipe_of("village", focal=True)
    asked: list[int] = []

    def pixels() -> Any:
        asked.append(1)
        return one.picture

    first = Looks(tmp_path).of(recipe, pixels)
    assert Looks(tmp_path).of(recipe, pixels) == first and len(asked) == 1
    measured = taken(recipe, first.references, "walls")
    assert Looks(tmp_path).of(measured, pixels) == first and len(asked) == 1
    (kept,) = tmp_path.iterdir()
    kept.write_bytes(kept.read_bytes()[:40])
    assert Looks(tmp_path).of(recipe, pixels) == first and len(asked) == 2
    Looks(tmp_path).of(evolve(recipe, lens=LensPart(source="manual", k1=0.01)), pixels)
    assert len(asked) == 3


def told(capsys: pytest.CaptureFixture[str]) -> list[dict[str, Any]]:
    """What was printed, a document a line."""
    return [json.loads(row) for row in capsys.readouterr().out.splitlines()]


def test_the_command_line_tells_and_writes_a_recipe_beside_the_photo(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """The mill's lens and focal length come from its file; what is written is carried out by ``apply -``, and what
    stands in the picture is upright then."""
    photo = tmp_path / "mill.jpg"
    shutil.copyfile(DEMO / "wendlow_mill.jpg", photo)
    grass = tmp_path / "grass.png"
    grass.write_bytes(image_bytes(Image.fromarray(np.asarray(data.grass())), "PNG"))
    assert (
        main(["look", "--take", "walls", "--write", str(photo), str(grass), str(tmp_path / "none.jpg")]) == 2
    )
    mill, green, missing = told(capsys)
    assert mill["tilt"]["deg"] == pytest.approx(-1.2, abs=0.1)
    assert mill["aim"]["deg"] == pytest.approx(16, abs=0.4)
    assert mill["cannot_tell"] is None and mill["tilt"]["confidence"] > 0.9
    assert {one["extent"] for one in mill["extents"]} == {"tilt", "walls", "square-on"}
    assert green["cannot_tell"] and not green["references"] and not (tmp_path / "grass.sequor.json").exists()
    assert "no file" in missing["error"]
    written = build(json.loads((tmp_path / "mill.sequor.json").read_text()))
    assert {one.kind for one in written.references} >= {"plumb", "receding"}
    assert main(["apply", "-", str(photo), str(tmp_path / "out.jpg")]) == 0
    found = evaluate(written)
    uprights = [one for one in found.references if one.kind == "plumb"]
    assert max(abs(one.after_deg) for one in uprights) < 0.3


def test_writing_needs_an_extent(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    photo = tmp_path / "photo.jpg"
    photo.write_bytes(jpeg_bytes(np.zeros((40, 60, 3), np.uint8)))
    assert main(["look", "--write", str(photo)]) == 2
    assert "--take" in capsys.readouterr().err
    assert main(["look", str(photo)]) == 0
    assert told(capsys)[0]["cannot_tell"]


def test_looking_ahead_tells_what_is_gone_or_damaged(store: Store, bring: Importer) -> None:
    with pytest.raises(PhotoUnknownError):
        look_ahead(store, 404)
    photo = bring(jpeg_bytes(smooth_picture(90, 60)))
    store.originals.path(get_photo(store, photo.photo_id).photo.sha256).unlink()
    with pytest.raises(OriginalMissingError):
        look_ahead(store, photo.photo_id)
    assert not store.looks.exists() or not list(store.looks.iterdir())


def test_a_record_of_the_tilt_is_told_and_makes_a_look_of_its_own(tmp_path: Path) -> None:
    one = scene("mill")
    recipe = recipe_of("mill", focal=True)
    looks = Looks(tmp_path)
    plain = looks.of(recipe, lambda: one.picture)
    told = looks.of(recipe, lambda: one.picture, [-1.0, None])
    assert len(list(tmp_path.iterdir())) == 2
    assert plain.tilt is not None and told.tilt is not None
    assert told.tilt.deg == pytest.approx(plain.tilt.deg, abs=0.05)
    assert "The camera recorded: 1.00° to the right" in FoundOut.of(told, [-1.0, None]).words
