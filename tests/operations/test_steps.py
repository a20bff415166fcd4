"""An exported picture brings its original back as it was; a raw photo is seen before it is developed."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
from originals import dng_bytes, written
from pictures import horizon_picture, jpeg_bytes, line, recipe
from PIL import Image

from sequor.operations.exporting import export
from sequor.operations.importing import FIRST_LOOK, Inspection, inspect, register
from sequor.operations.photos import get_photo, remove
from sequor.operations.steps import original_of, steps_in, take_up
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.parse import build
from sequor.store.database import Store


def quiet(share: float, words: str) -> None:
    """Nobody listens."""


def brought(store: Store, folder: Path, content: bytes) -> tuple[int, Inspection]:
    """An imported photo."""
    folder.mkdir()
    file = written(folder, content)
    found = inspect(file, folder / "screen", quiet)
    return register(store, file, folder / "screen", found, "IMG_7.jpg").photo_id, found


def levelled(sha256: str) -> Recipe:
    """A recipe with a line, for one photo."""
    made = build(recipe(360, 240, references=[line("r1", "level", (10, 120), (350, 106))]))
    return evolve(made, photo=evolve(made.photo, sha256=sha256))


def test_the_steps_are_taken_up_on_their_original_also_when_it_was_removed(
    store: Store, tmp_path: Path
) -> None:
    photo, found = brought(store, tmp_path / "a", jpeg_bytes(horizon_picture(360, 240, -2.3)))
    wanted = levelled(found.sha256)
    out = tmp_path / "level.jpg"
    export(store.originals.path(found.sha256), wanted, out, quiet)
    steps = steps_in(out)
    assert steps is not None
    remove(store, photo, get_photo(store, photo).photo.changes)
    original = original_of(store, steps)
    assert original is not None and original.id == photo
    now = take_up(store, photo, steps, "level.jpg")
    assert now.recipe.references == wanted.references and now.revision.action == "Steps of level.jpg"
    assert now.photo.removed_at is None and now.recipe.correction.roll is not None


def test_a_file_that_claims_steps_that_cannot_be_used_is_a_plain_photo(store: Store, tmp_path: Path) -> None:
    """Damaged, of another version, for no photo that is here."""
    for packet in (b"AAAA", b"eJwDAAAAAAE=", b"\xff"):
        xmp = (
            b'<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">'
            b'<rdf:Description rdf:about="" xmlns:s="https://sequor.example/ns/1.0/" s:Recipe="'
            + packet
            + b'"/></rdf:RDF></x:xmpmeta>'
        )
        assert steps_in(written(tmp_path, jpeg_bytes(horizon_picture(60, 40, 0), xmp=xmp))) is None
    elsewhere = levelled("ab" * 32).model_dump(mode="json")
    assert original_of(store, elsewhere) is None


@pytest.mark.parametrize("kind", ["dng", "jpeg"])
def test_a_raw_photo_shows_what_it_holds_of_itself_at_once(tmp_path: Path, kind: str) -> None:
    preview = np.full((64, 96, 3), (200, 40, 40), np.uint8)
    picture = np.full((128, 192, 3), 0.2)
    content = dng_bytes(picture, preview=preview) if kind == "dng" else jpeg_bytes(preview)
    seen: list[bool] = []
    look = tmp_path / FIRST_LOOK

    def report(share: float, words: str) -> None:
        seen.append(look.is_file())

    inspect(written(tmp_path, content), tmp_path / "screen", report)
    assert look.is_file() == (kind == "dng")
    if kind == "dng":
        # Before anything is decoded.
        assert seen[1]
        with Image.open(io.BytesIO(look.read_bytes())) as image:
            assert image.size == (96, 64)
            assert np.asarray(image)[30, 40] == pytest.approx(np.array([200, 40, 40]), abs=8)
