"""Import keeps the original by its content, once, and leaves nothing of what it refuses."""

from __future__ import annotations

import hashlib

import pytest
from clients import Importer
from pictures import camera_exif, jpeg_bytes, smooth_picture
from sqlalchemy import event
from sqlalchemy.exc import OperationalError

from sequor.imaging.decode import UnreadablePictureError
from sequor.operations import revising
from sequor.operations.rendering import screen_picture, thumbnail
from sequor.store.database import Store
from sequor.store.files import OriginalMissingError

JPEG = jpeg_bytes(smooth_picture(300, 200), exif=camera_exif(gps=True))


def files(store: Store) -> list[str]:
    """All files of originals."""
    return sorted(path.name for path in store.originals.folder.glob("*/*"))


def test_the_original_is_kept_unchanged_under_its_hash(store: Store, bring: Importer) -> None:
    photo = revising.get_photo(store, bring(JPEG, "wendlow_mill.jpg").photo_id).photo
    assert photo.sha256 == hashlib.sha256(JPEG).hexdigest()
    assert store.originals.path(photo.sha256).read_bytes() == JPEG
    assert (photo.title, photo.width, photo.height, photo.format) == ("Wendlow mill", 300, 200, "jpeg")
    assert photo.facts["model"] == "IO-1" and photo.facts["focal_35mm"] == 31 and photo.facts["has_place"]


def test_the_same_file_twice_is_one_photo(store: Store, bring: Importer) -> None:
    first, second = bring(JPEG), bring(JPEG, "other-name.jpg")
    assert (second.photo_id, second.known) == (first.photo_id, True)
    assert len(files(store)) == 1


def test_a_removed_photo_comes_back_with_its_history(store: Store, bring: Importer) -> None:
    photo_id = bring(JPEG).photo_id
    revising.turn_quarter(store, photo_id, 0, clockwise=True)
    revising.remove(store, photo_id)
    assert revising.list_photos(store) == []
    assert bring(JPEG).photo_id == photo_id
    assert revising.get_photo(store, photo_id).recipe.photo.quarter_turns == 1


def test_nothing_remains_of_a_refused_file(store: Store, bring: Importer) -> None:
    with pytest.raises(UnreadablePictureError):
        bring(JPEG[:-2000])
    assert files(store) == [] and list(store.screen.iterdir()) == []


def test_nothing_remains_when_the_database_fails_half_way(store: Store, bring: Importer) -> None:
    def fail(connection: object, cursor: object, statement: str, *more: object) -> None:
        if statement.startswith("INSERT INTO revisions"):
            raise OperationalError(statement, {}, Exception("gone away"))

    event.listen(store.engine, "before_cursor_execute", fail)
    try:
        with pytest.raises(OperationalError):
            bring(JPEG)
    finally:
        event.remove(store.engine, "before_cursor_execute", fail)
    assert files(store) == [] and revising.list_photos(store) == []
    assert not bring(JPEG).known


def test_start_up_check(store: Store, bring: Importer) -> None:
    photo = revising.get_photo(store, bring(JPEG).photo_id).photo
    orphan = store.originals.folder / "ab" / ("ab" + "0" * 62)
    orphan.parent.mkdir(exist_ok=True)
    orphan.write_bytes(b"left over")
    assert store.originals.reconcile([photo.sha256]) == []
    assert not orphan.exists()
    store.originals.path(photo.sha256).unlink()
    assert store.originals.reconcile([photo.sha256]) == [photo.sha256]
    with pytest.raises(OriginalMissingError, match="import the photo again"):
        store.originals.path(photo.sha256)


def test_screen_pictures_are_made_again_when_lost(store: Store, bring: Importer) -> None:
    now = revising.get_photo(store, bring(JPEG).photo_id)
    before = screen_picture(store, now.photo.sha256, 640, 0)
    for file in (store.screen / now.photo.sha256).iterdir():
        file.unlink()
    assert screen_picture(store, now.photo.sha256, 640, 0) == before
    assert thumbnail(store, now.photo.sha256, now.recipe)[:2] == b"\xff\xd8"
