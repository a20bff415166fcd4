"""Import keeps the original by its content, once, and leaves nothing of what it refuses."""

from __future__ import annotations

import hashlib
from typing import Any

import pytest
from clients import Importer, at_once
from pictures import camera_exif, jpeg_bytes, smooth_picture
from sqlalchemy import event
from sqlalchemy.exc import OperationalError

from sequor.actions.lens import ChooseLens
from sequor.core.raster.pixels import Picture
from sequor.imaging.decode import UnreadablePictureError
from sequor.operations import acting, checking, photos, revising, sheet
from sequor.operations.rendering import thumbnail
from sequor.operations.screen_pictures import screen_picture
from sequor.pipeline.evaluated import evaluate
from sequor.store.database import Store
from sequor.store.files import OriginalMissingError
from sequor.wording.finding import finding

JPEG = jpeg_bytes(smooth_picture(300, 200), exif=camera_exif(gps=True))


def no_pixels(sha256: str, turns: int) -> Picture:
    """Nothing here looks at pixels."""
    raise AssertionError


def files(store: Store) -> list[str]:
    """All files of originals."""
    return store.originals.all()


def test_the_original_is_kept_unchanged_under_its_hash(store: Store, bring: Importer) -> None:
    photo = photos.get_photo(store, bring(JPEG, "wendlow_mill.jpg").photo_id).photo
    assert photo.sha256 == hashlib.sha256(JPEG).hexdigest()
    assert store.originals.path(photo.sha256).read_bytes() == JPEG
    assert (photo.title, photo.width, photo.height, photo.format) == ("Wendlow mill", 300, 200, "jpeg")
    assert photo.facts["model"] == "IO-1" and photo.facts["focal_35mm"] == 31 and photo.facts["has_place"]


def test_a_lens_that_is_recognised_is_corrected_by_one_revision(store: Store, bring: Importer) -> None:
    """It can be undone, done again, and is there after a reset; a lens nobody knows is left alone."""
    photo_id = bring(JPEG).photo_id
    first = photos.get_photo(store, photo_id)
    assert first.recipe.lens.profile is not None and first.recipe.lens.profile.lens.endswith("IO 12-33mm")
    assert finding(evaluate(first.recipe)).endswith(
        "The lens is corrected by its profile. The whole picture is kept."
    )
    plain = revising.undo(store, photo_id, first.photo.changes)
    assert plain.recipe.lens.source == "none" and not plain.can_undo
    again = revising.redo(store, photo_id, plain.photo.changes)
    assert again.recipe == first.recipe
    without = acting.act(
        store, no_pixels, photo_id, again.photo.changes, ChooseLens(do="lens", source="none")
    )[0]
    for step in ("lens", None):
        back = revising.reset(store, photo_id, without.photo.changes, step)
        assert back.recipe.lens == first.recipe.lens
        without = revising.undo(store, photo_id, back.photo.changes)
    nameless = photos.get_photo(store, bring(jpeg_bytes(smooth_picture(90, 60))).photo_id)
    assert nameless.recipe.lens.source == "none" and not nameless.can_undo


def test_the_same_file_twice_is_one_photo(store: Store, bring: Importer) -> None:
    first, second = bring(JPEG), bring(JPEG, "other-name.jpg")
    assert (second.photo_id, second.known) == (first.photo_id, True)
    assert len(files(store)) == 1


def test_a_removed_photo_comes_back_with_its_history(store: Store, bring: Importer) -> None:
    photo_id = bring(JPEG).photo_id
    revising.turn_quarter(store, photo_id, 0, clockwise=True)
    photos.remove(store, photo_id, 1)
    assert sheet.list_photos(store) == []
    assert bring(JPEG).photo_id == photo_id
    assert photos.get_photo(store, photo_id).recipe.photo.quarter_turns == 1


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
    assert files(store) == [] and sheet.list_photos(store) == []
    assert not bring(JPEG).known


def test_a_start_deletes_nothing_of_a_user(store: Store, bring: Importer) -> None:
    """What no row knows is set aside with its name, and can be brought in again."""
    photo = photos.get_photo(store, bring(JPEG).photo_id).photo
    other = jpeg_bytes(smooth_picture(90, 60))
    sha256 = hashlib.sha256(other).hexdigest()
    (store.work / "orphan").write_bytes(other)
    store.originals.put(store.work / "orphan", sha256)
    store.originals.remember(sha256, "jetty.jpg")
    ((what, place),) = checking.set_aside_unknown(store)
    assert what == "original" and place.read_bytes() == other and "quarantine" in place.parts
    assert files(store) == [photo.sha256]
    assert [(one, name) for one, _, name in checking.adoptable(store)] == [(sha256, "jetty.jpg")]
    assert checking.set_aside_unknown(store) == []


def test_a_missing_original_is_said(store: Store, bring: Importer) -> None:
    photo = photos.get_photo(store, bring(JPEG, "mill.jpg").photo_id).photo
    store.originals.path(photo.sha256).unlink()
    assert checking.missing_originals(store) == ["Mill"]
    with pytest.raises(OriginalMissingError, match="import the photo again"):
        store.originals.path(photo.sha256)
    # Importing it again heals it, and so it does a damaged one.
    assert bring(JPEG).known and store.originals.path(photo.sha256).read_bytes() == JPEG
    store.originals.place(photo.sha256).chmod(0o644)
    store.originals.place(photo.sha256).write_bytes(JPEG[:-9])
    assert not checking.check(store).well
    assert bring(JPEG).known and checking.check(store).well


def test_twins_at_once_are_one_photo_and_its_original_stays(store: Store) -> None:
    """Whoever comes second is told that it is known, and takes nothing away from the first."""
    for number in range(8):
        content = jpeg_bytes(smooth_picture(60, 40, number))
        found = at_once(2, lambda which, content=content: Importer(store, which)(content))
        assert sorted(one.known for one in found) == [False, True]
        assert len({one.photo_id for one in found}) == 1
        assert store.originals.path(hashlib.sha256(content).hexdigest()).read_bytes() == content


def test_a_commit_whose_answer_was_lost_is_an_import(store: Store, bring: Importer) -> None:
    def lose(connection: Any) -> None:
        event.remove(store.engine, "commit", lose)
        connection.connection.commit()
        raise OperationalError("COMMIT", {}, Exception("gone away"))

    event.listen(store.engine, "commit", lose)
    imported = bring(JPEG)
    assert not imported.known and photos.get_photo(store, imported.photo_id).photo.sha256 in files(store)


def test_screen_pictures_are_made_again_when_lost(store: Store, bring: Importer) -> None:
    now = photos.get_photo(store, bring(JPEG).photo_id)
    before = screen_picture(store, now.photo.sha256, 640, 0)
    for file in (store.screen / now.photo.sha256).iterdir():
        file.unlink()
    assert screen_picture(store, now.photo.sha256, 640, 0) == before
    assert thumbnail(store, now.photo.sha256, now.recipe)[:2] == b"\xff\xd8"
