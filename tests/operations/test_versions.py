"""Versions, the way back, and own ratios: nothing is dropped."""

from __future__ import annotations

from typing import Any

import pytest
from clients import Importer, at_once
from pictures import jpeg_bytes, smooth_picture

from sequor.advice.frame_actions import with_frame
from sequor.operations import log, photos, ratios, revising, versions
from sequor.operations.photos import PhotoNow
from sequor.operations.versions import NameTakenError, VersionUnknownError
from sequor.store.database import ChangedMeanwhileError, Store
from sequor.store.models import Version

JPEG = jpeg_bytes(smooth_picture(300, 200))


@pytest.fixture
def photo(store: Store, bring: Importer) -> PhotoNow:
    """A fresh photo."""
    return photos.get_photo(store, bring(JPEG).photo_id)


def with_ratio(store: Store, now: PhotoNow, ratio: str) -> PhotoNow:
    recipe = with_frame(now.recipe, ratio=ratio, rect=None)
    return revising.revise(store, now.photo.id, now.photo.changes, recipe, f"Aspect ratio: {ratio}")


def kept(store: Store, now: PhotoNow, name: str) -> tuple[PhotoNow, Version]:
    after = versions.keep_version(store, now.photo.id, now.photo.changes, name)
    return after, next(one for one, _ in versions.list_versions(store, now.photo.id) if one.name == name)


def test_named_states_side_by_side(store: Store, photo: PhotoNow) -> None:
    square, wall = kept(store, with_ratio(store, photo, "1:1"), "square for the wall")
    wide, page = kept(store, with_ratio(store, square, "2:1"), "wide for the page")
    listed = versions.list_versions(store, photo.photo.id)
    assert [(one.name, recipe.frame.ratio) for one, recipe in listed] == [
        ("square for the wall", "1:1"),
        ("wide for the page", "2:1"),
    ]
    assert photos.get_photo(store, photo.photo.id).photo.version_names == [wall.name, page.name]
    # A version does not follow what is done later, until it is brought up.
    after = with_ratio(store, wide, "golden:1")
    assert versions.chosen(store, photo.photo.id, [page.id])[0][1].frame.ratio == "2:1"
    versions.bring_up(store, photo.photo.id, after.photo.changes, page.id)
    assert versions.chosen(store, photo.photo.id, [page.id])[0][1].frame.ratio == "golden:1"


def test_names_are_each_given_once(store: Store, photo: PhotoNow) -> None:
    now, first = kept(store, photo, "wall")
    with pytest.raises(NameTakenError, match="Choose another name"):
        versions.keep_version(store, photo.photo.id, now.photo.changes, "wall")
    now, _ = kept(store, now, "Wall")
    now = versions.remove_version(store, photo.photo.id, now.photo.changes, first.id)
    now, _ = kept(store, now, "wall")
    with pytest.raises(NameTakenError):
        versions.restore_version(store, photo.photo.id, now.photo.changes, first.id)


def test_of_two_who_give_a_name_at_once_one_does(store: Store, photo: PhotoNow) -> None:
    def keep(number: int) -> str:
        try:
            versions.keep_version(store, photo.photo.id, photo.photo.changes, "wall")
            return "kept"
        except (NameTakenError, ChangedMeanwhileError):
            return "refused"

    assert sorted(at_once(4, keep)) == ["kept", "refused", "refused", "refused"]
    assert len(versions.list_versions(store, photo.photo.id)) == 1


def test_a_removed_version_comes_back(store: Store, photo: PhotoNow) -> None:
    now, wall = kept(store, photo, "wall")
    now = versions.remove_version(store, photo.photo.id, now.photo.changes, wall.id)
    assert versions.list_versions(store, photo.photo.id) == []
    with pytest.raises(VersionUnknownError, match="choose again"):
        versions.chosen(store, photo.photo.id, [wall.id])
    versions.restore_version(store, photo.photo.id, now.photo.changes, wall.id)
    assert [one.id for one, _ in versions.list_versions(store, photo.photo.id)] == [wall.id]


def test_versions_belong_to_their_photo(store: Store, photo: PhotoNow, bring: Importer) -> None:
    _, wall = kept(store, photo, "wall")
    other = bring(jpeg_bytes(smooth_picture(200, 300, 2))).photo_id
    for work in (versions.bring_up, versions.remove_version, versions.restore_version):
        with pytest.raises(VersionUnknownError):
            work(store, other, 0, wall.id)
    with pytest.raises(photos.PhotoUnknownError):
        versions.keep_version(store, 10**6, 0, "wall")


@pytest.mark.parametrize(
    "write",
    [
        lambda store, photo, old, version: photos.remove(store, photo, old),
        lambda store, photo, old, version: photos.rename(store, photo, old, "Jetty"),
        lambda store, photo, old, version: revising.turn_quarter(store, photo, old, clockwise=True),
        lambda store, photo, old, version: revising.undo(store, photo, old),
        lambda store, photo, old, version: revising.recover(store, photo, old),
        lambda store, photo, old, version: versions.keep_version(store, photo, old, "other"),
        versions.bring_up,
        versions.remove_version,
    ],
)
def test_every_write_names_what_it_saw(store: Store, photo: PhotoNow, write: Any) -> None:
    """One check for all: whoever read an older state is told, and nothing is changed."""
    now, wall = kept(store, photo, "wall")
    with pytest.raises(ChangedMeanwhileError, match="was not saved"):
        write(store, photo.photo.id, photo.photo.changes, wall.id)
    after = photos.get_photo(store, photo.photo.id)
    assert (after.photo.changes, after.revision.id) == (now.photo.changes, now.revision.id)


def test_the_way_back_is_a_new_revision(store: Store, photo: PhotoNow) -> None:
    square = with_ratio(store, photo, "1:1")
    wide = with_ratio(store, square, "2:1")
    back = revising.return_to(store, photo.photo.id, wide.photo.changes, square.revision.id)
    assert back.recipe == square.recipe and back.revision.parent_id == wide.revision.id
    assert back.revision.action == "Went back to: Aspect ratio: 1:1"
    again = revising.return_to(store, photo.photo.id, back.photo.changes, back.revision.id)
    assert again.revision.action == "Went back to: Aspect ratio: 1:1"
    assert [one.action for one in log.list_revisions(store, photo.photo.id)][:4] == [
        "Went back to: Aspect ratio: 1:1", "Went back to: Aspect ratio: 1:1", "Aspect ratio: 2:1", "Aspect ratio: 1:1",
    ]  # fmt: skip
    assert revising.undo(store, photo.photo.id, again.photo.changes).recipe == square.recipe
    with pytest.raises(ChangedMeanwhileError):
        revising.return_to(store, photo.photo.id, 0, square.revision.id)


def test_own_ratios(store: Store) -> None:
    kept = ratios.keep_ratio(store, "album", "13.6:9.9")
    ratios.keep_ratio(store, "banner", "5:1")
    ratios.keep_ratio(store, "album", "13:9")
    assert [(one.name, one.ratio) for one in ratios.list_ratios(store)] == [
        ("album", "13:9"),
        ("banner", "5:1"),
    ]
    ratios.remove_ratio(store, kept.id)
    with pytest.raises(ratios.RatioUnknownError):
        ratios.remove_ratio(store, kept.id)
    for number in range(ratios.MOST_RATIOS - 1):
        ratios.keep_ratio(store, f"n{number}", "2:1")
    with pytest.raises(ratios.TooManyRatiosError, match="remove one first"):
        ratios.keep_ratio(store, "one more", "2:1")
