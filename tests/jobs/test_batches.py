"""Actions on many photos: counted before, done once each, told, cancelled, tried again and taken back."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from clients import Importer, Page, Straight, at_once, waited
from pictures import horizon_picture, jpeg_bytes, smooth_picture
from sqlalchemy import select, update

from sequor.jobs import batches as batches_module
from sequor.jobs import writing
from sequor.jobs.batches import Batches, BatchUnknownError, NothingUndoneError, Standing, TooManyPhotosError
from sequor.jobs.folders import folder_of
from sequor.operations import looking, photos, proposals, sheet, versions
from sequor.operations.delivering import deliver
from sequor.operations.looking_ahead import look_ahead
from sequor.recipe.model.export import ExportPart, LongEdge
from sequor.store.database import Store
from sequor.store.models import Batch, BatchPhoto, Job, Photo, Revision
from sequor.store.room import NoRoomError

JPEG = ExportPart()


@pytest.fixture
def batches(store: Store, tmp_path: Path) -> Batches:
    """Batches that are done in threads of this process."""
    folder = tmp_path / "exports"
    folder.mkdir()
    return Batches(store, Straight(store), folder)


class Nobody(Straight):
    """A queue in which everything waits."""

    def do_job(self, name: str, kind: str, lane: str) -> None:
        """Nobody comes."""


@pytest.fixture
def waiting(store: Store) -> Batches:
    """Batches that nobody does."""
    return Batches(store, Nobody(store), None)


@pytest.fixture
def tilted(store: Store, bring: Importer) -> list[int]:
    """Photos with a horizon that is tilted, looked at."""
    found = [bring(jpeg_bytes(horizon_picture(900, 600, tilt))).photo_id for tilt in (-2.0, 1.0, 3.0)]
    for number in found:
        look_ahead(store, number)
    return found


@pytest.fixture
def flat(store: Store, bring: Importer) -> list[int]:
    """Photos on which nothing is found."""
    found = [bring(jpeg_bytes(smooth_picture(300 + 30 * n, 200))).photo_id for n in range(3)]
    for number in found:
        look_ahead(store, number)
    return found


def ended(batches: Batches, batch: Batch) -> Standing:
    waited(lambda: not batches.standing(batch.id).working)
    return batches.standing(batch.id)


def states(store: Store, numbers: list[int]) -> list[str | None]:
    with store.transaction() as session:
        return [session.get_one(Photo, number).state for number in numbers]


def revisions(store: Store, photo: int) -> list[str]:
    with store.transaction() as session:
        query = select(Revision.action).where(Revision.photo_id == photo).order_by(Revision.id)
        return list(session.scalars(query))


def test_what_is_counted_before_is_what_is_taken(
    store: Store, batches: Batches, tilted: list[int], flat: list[int]
) -> None:
    every = [*tilted, *flat]
    with store.transaction() as session:
        sure = {number: session.get_one(Photo, number).confidence for number in every}
    least = sorted(sure[number] for number in tilted)[1]
    counted = proposals.count(store, every, "suggested", least)
    assert counted.sure == sum(value >= least for value in sure.values()) and counted.sure >= 2
    assert (counted.waiting, counted.others) == (0, 0) and counted.eyes == 6 - counted.sure
    standing = ended(batches, batches.take(every, "suggested", least))
    assert standing.changed == counted.sure and standing.total == 6
    assert len(standing.told) == 6 - counted.sure and all(one.words for one in standing.told)
    assert proposals.count(store, every, "suggested", least).others == counted.sure
    assert sum(state != "not measured" for state in states(store, every)) == counted.sure


def test_each_photo_has_a_revision_of_its_own_and_one_undo_takes_all_back(
    store: Store, batches: Batches, tilted: list[int]
) -> None:
    before = states(store, tilted)
    batch = batches.take(tilted, "tilt", 0.5)
    assert ended(batches, batch).changed == 3
    assert all(len(revisions(store, number)) == 2 for number in tilted)
    # Also whoever comes back later can take it back.
    last = batches.last_changing()
    assert last is not None and last.id == batch.id
    photos_now = photos.get_photo(store, tilted[0])
    photos.rename(store, tilted[0], photos_now.photo.changes, "Mine")
    batches.undo(batch.id)
    waited(lambda: batches.undoing(batch.id) is not None and batches.undoing(batch.id).state == "done")  # type: ignore[union-attr]
    assert states(store, tilted) == before
    # Nothing is lost: each can be done again, and what was changed beside it stays.
    now = photos.get_photo(store, tilted[0])
    assert now.can_redo and now.photo.title == "Mine"
    batches.undo(batch.id)
    waited(lambda: not batches.standing(batch.id).working)
    assert states(store, tilted) == before
    assert batches.last_changing() is None


def test_an_undo_keeps_what_was_done_since(
    store: Store, batches: Batches, tilted: list[int], own_page: Page
) -> None:
    batch = batches.take(tilted, "tilt", 0.5)
    ended(batches, batch)
    now = photos.get_photo(store, tilted[1])
    own_page(
        "POST", f"/api/photos/{tilted[1]}/revise", now.photo.changes, json={"do": "ratio", "ratio": "1:1"}
    )
    batches.undo(batch.id)
    waited(lambda: batches.undoing(batch.id) is not None and batches.undoing(batch.id).state == "done")  # type: ignore[union-attr]
    assert states(store, tilted)[1] == "level" and states(store, tilted)[0] == "not measured"
    assert [one.words for one in batches.standing(batch.id).told] == ["It was changed since; that was kept."]


def test_a_photo_is_changed_once_however_often_its_job_is_done(
    store: Store, batches: Batches, tilted: list[int]
) -> None:
    batch = batches.take(tilted[:1], "tilt", 0.5)
    ended(batches, batch)
    assert proposals.take(store, tilted[0], batch.id, 0, "tilt", 0.5) == {"changed": True}
    assert len(revisions(store, tilted[0])) == 2


def test_a_look_is_taken_again_and_a_photo_that_was_left_is_asked_for_again(
    store: Store, own_page: Page, flat: list[int], monkeypatch: pytest.MonkeyPatch
) -> None:
    looks = []
    real = looking.look_at
    monkeypatch.setattr(looking, "look_at", lambda *a: (looks.append(1), real(*a))[1])
    own_page("POST", "/api/photos/aside", json={"photos": flat, "aside": True})
    assert sheet.summary(store).stands["left"] == 3
    begun = own_page("POST", "/api/batches/look", json={"photos": flat}).get_json()
    waited(lambda: own_page("GET", f"/api/batches/{begun['id']}").get_json()["done"] == 3)
    assert len(looks) == 3 and sheet.summary(store).stands["left"] == 0


def test_exports_come_in_one_file_with_names_by_the_template(
    store: Store, own_page: Page, flat: list[int]
) -> None:
    versions.keep_version(store, flat[0], photos.get_photo(store, flat[0]).photo.changes, "wide")
    asked = {"photos": flat, "export": {"quality": 80, "name": "{n} {title} {version}"}, "versions": True}
    begun = own_page("POST", "/api/batches/export", json=asked).get_json()
    assert begun["total"] == 4
    waited(lambda: not own_page("GET", f"/api/batches/{begun['id']}").get_json()["working"])
    told = own_page("GET", f"/api/batches/{begun['id']}").get_json()
    assert (told["done"], told["failed"]) == (4, 0)
    packed = own_page("GET", told["file"])
    with zipfile.ZipFile(io.BytesIO(packed.data)) as together:
        assert together.testzip() is None
        assert together.namelist() == [
            "1 Photo current.jpg",
            "2 Photo wide.jpg",
            "3 Photo.jpg",
            "4 Photo.jpg",
        ]
    shown = {one["id"]: one["exported"] for one in own_page("GET", "/api/photos").get_json()["photos"]}
    assert shown == dict.fromkeys(flat, True)
    assert own_page("GET", "/api/sheet?exported=false").get_json()["asked"] == 0


def test_the_same_export_is_done_once(store: Store, batches: Batches, flat: list[int]) -> None:
    one = batches.export(flat, JPEG)
    ended(batches, one)
    other = batches.export(flat, ExportPart(name="{title} again"))
    assert not batches.standing(other.id).working
    with store.transaction() as session:
        assert len(session.scalars(select(Job).where(Job.kind == "write")).all()) == 3
    assert [file.file for file in batches.files(one.id)] == [file.file for file in batches.files(other.id)]
    smaller = batches.export(flat, ExportPart(size=LongEdge(long_edge=100)))
    assert ended(batches, smaller).states == {"done": 3}


def test_what_two_want_is_not_cancelled_by_one(store: Store, waiting: Batches, flat: list[int]) -> None:
    one, other = waiting.export(flat[:2], JPEG), waiting.export(flat[1:], JPEG)
    waiting.cancel(one.id)
    assert waiting.standing(one.id).states == {"cancelled": 1, "waiting": 1}
    assert waiting.standing(other.id).states == {"waiting": 2}
    waiting.cancel(other.id)
    assert waiting.standing(one.id).states == {"cancelled": 2}
    waiting.retry(one.id)
    assert waiting.standing(one.id).states == {"waiting": 2}


def test_two_that_ask_for_the_same_at_once_get_one_job(
    store: Store, waiting: Batches, flat: list[int]
) -> None:
    begun = at_once(4, lambda _: waiting.export(flat, JPEG))
    with store.transaction() as session:
        jobs = set(session.scalars(select(BatchPhoto.job_id)))
    assert len({one.id for one in begun}) == 4 and len(jobs) == 3


def test_what_fails_is_told_with_its_reason_and_tried_again(
    store: Store, batches: Batches, flat: list[int]
) -> None:
    place = store.originals.path(photos.get_photo(store, flat[1]).photo.sha256)
    away = place.with_name("away")
    place.rename(away)
    batch = batches.export(flat, JPEG)
    standing = ended(batches, batch)
    assert standing.states == {"done": 2, "failed": 1}
    (told,) = standing.told
    assert told.failed and told.photo_id == flat[1] and "missing" in told.words
    away.rename(place)
    batches.retry(batch.id)
    assert ended(batches, batch).states == {"done": 3}


def test_files_go_into_the_folder_and_nothing_there_is_overwritten(
    store: Store, batches: Batches, flat: list[int]
) -> None:
    assert batches.exports is not None
    mine = batches.exports / "photo.jpg"
    mine.write_bytes(b"mine")
    batch = batches.export(flat, ExportPart(name="photo"), into_folder=True)
    assert ended(batches, batch).states == {"done": 3}
    names = sorted(one.name for one in batches.exports.iterdir())
    assert names == ["photo 2.jpg", "photo 3.jpg", "photo 4.jpg", "photo.jpg"]
    assert mine.read_bytes() == b"mine"
    again = batches.export(flat, ExportPart(name="photo"), into_folder=True)
    assert ended(batches, again).states == {"done": 3}
    assert len(list(batches.exports.iterdir())) == 7
    with store.transaction() as session:
        left = [folder_of(store, name) for name in session.scalars(select(Job.id))]
    assert not any((folder / "export").exists() for folder in left)


def test_a_delivered_file_is_whole_and_its_name_is_its_own(tmp_path: Path) -> None:
    file, folder = tmp_path / "export", tmp_path / "out"
    folder.mkdir()
    file.write_bytes(b"picture")
    deliver(file, folder, "a.jpg")
    deliver(file, folder, "a.jpg")
    assert [one.name for one in folder.iterdir()] == ["a.jpg"]
    file.write_bytes(b"another")
    with pytest.raises(NoRoomError, match="another file named “a.jpg”"):
        deliver(file, folder, "a.jpg")
    with pytest.raises(NoRoomError, match="could not be put into"):
        deliver(file, tmp_path / "gone", "a.jpg")
    assert [one.read_bytes() for one in folder.iterdir()] == [b"picture"]


def test_a_disk_without_room_is_told_before_anything_is_begun(
    store: Store, waiting: Batches, flat: list[int], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(
        batches_module, "refuse_without_room", lambda *a: (_ for _ in ()).throw(NoRoomError("full"))
    )
    with pytest.raises(NoRoomError):
        waiting.export(flat, JPEG)
    with store.transaction() as session:
        assert not session.scalars(select(Job)).all() and not session.scalars(select(Batch)).all()


def test_too_many_are_refused_before_anything_is_begun(store: Store, waiting: Batches) -> None:
    with pytest.raises(TooManyPhotosError, match="20,001 photos"):
        waiting.take(list(range(1, 20_002)), "suggested", 0.9)
    with pytest.raises(BatchUnknownError):
        waiting.standing(10**6)


def test_exports_with_new_pixels_have_a_lane_of_their_own(
    store: Store, waiting: Batches, flat: list[int], own_page: Page
) -> None:
    with store.transaction() as session:
        number = session.get_one(Photo, flat[0]).revision_id
        revision = session.get_one(Revision, number)
        revision.recipe = {**revision.recipe, "edges": {**revision.recipe["edges"], "mode": "fill"}}
    waiting.export(flat, JPEG)
    with store.transaction() as session:
        assert sorted(session.scalars(select(Job.lane))) == ["bulk", "bulk", "fill"]


def test_titles_by_a_pattern_and_back(store: Store, own_page: Page, flat: list[int]) -> None:
    begun = own_page(
        "POST", "/api/batches/title", json={"photos": flat[::-1], "pattern": "Wendlow {n}: {file}"}
    ).get_json()
    assert begun["done"] == 3
    titles = [photos.get_photo(store, number).photo.title for number in flat]
    assert titles == ["Wendlow 3_ photo", "Wendlow 2_ photo", "Wendlow 1_ photo"]
    photos.rename(store, flat[0], photos.get_photo(store, flat[0]).photo.changes, "Mine")
    own_page("POST", f"/api/batches/{begun['id']}/undo")
    assert [photos.get_photo(store, number).photo.title for number in flat] == ["Mine", "Photo", "Photo"]
    for wrong in ("{who}", "", "{", "a}b"):
        assert (
            own_page("POST", "/api/batches/title", json={"photos": flat, "pattern": wrong}).status_code == 422
        )


def test_many_are_removed_and_come_back(store: Store, own_page: Page, flat: list[int]) -> None:
    assert own_page("POST", "/api/photos/remove", json={"photos": [*flat, 10**6]}).get_json() == {"count": 3}
    assert own_page("GET", "/api/sheet").get_json()["total"] == 0
    assert own_page("POST", "/api/photos/restore", json={"photos": flat}).get_json() == {"count": 3}
    assert own_page("GET", "/api/photos/numbers").get_json()["photos"] == flat


def test_what_is_no_batch_of_changes_cannot_be_taken_back(waiting: Batches, flat: list[int]) -> None:
    with pytest.raises(NothingUndoneError):
        waiting.undo(waiting.export(flat, JPEG).id)


def test_a_batch_is_known_again_after_a_restart(store: Store, waiting: Batches, flat: list[int]) -> None:
    batch = waiting.export(flat, JPEG)
    again = Batches(store, Straight(store), None)
    assert [one.batch.id for one in again.open()] == [batch.id]
    again.retry(batch.id)
    with store.transaction() as session:
        names = list(session.scalars(select(Job.id)))
    for name in names:
        Straight(store).do_job(name, "write", "bulk")
    assert ended(again, batch).states == {"done": 3} and again.open() == []


def test_which_files_are_here_is_told_by_their_hashes(own_page: Page, store: Store, flat: list[int]) -> None:
    here = photos.get_photo(store, flat[0]).photo.sha256
    asked = {"sha256s": [here, "0" * 64]}
    assert own_page("POST", "/api/known", json=asked).get_json() == {"known": [here]}
    own_page("POST", "/api/photos/remove", json={"photos": flat[:1]})
    # A photo that was removed comes back when its file is brought again.
    assert own_page("POST", "/api/known", json=asked).get_json() == {"known": []}


def test_photos_that_came_together_are_found_together(store: Store, own_page: Page) -> None:
    batch = own_page("POST", "/api/batches/import", json={"label": "May"}).get_json()
    body = jpeg_bytes(smooth_picture(90, 60))
    job = own_page("POST", f"/api/imports?name=a.jpg&batch={batch['id']}", data=body).get_json()
    waited(lambda: own_page("GET", f"/api/jobs/{job['id']}").get_json()["state"] == "done")
    choices = own_page("GET", "/api/sheet/choices").get_json()["brought"]
    assert choices == [{"value": str(batch["id"]), "name": "May", "count": 1}]
    assert own_page("GET", f"/api/sheet?brought={batch['id']}").get_json()["asked"] == 1


@pytest.mark.parametrize("change", ["removed", "changed"])
def test_a_photo_that_went_or_changed_meanwhile_stops_no_other(
    store: Store, waiting: Batches, tilted: list[int], change: str, do_all: Callable[[], None]
) -> None:
    batch = waiting.take(tilted, "tilt", 0.5)
    if change == "removed":
        photos.remove(store, tilted[0], photos.get_photo(store, tilted[0]).photo.changes)
    else:
        with store.transaction() as session:
            session.execute(update(Photo).where(Photo.id == tilted[0]).values(state="level"))
            session.execute(update(Revision).where(Revision.photo_id == tilted[0]).values(state="level"))
    do_all()
    standing = waiting.standing(batch.id)
    assert standing.changed == 2 and len(standing.told) == 1


@pytest.fixture
def do_all(store: Store) -> Callable[[], None]:
    """Does all that waits, one after the other."""

    def do() -> None:
        from sequor.jobs import doing

        with store.transaction() as session:
            names = list(session.scalars(select(Job.id)))
        for name in names:
            doing.do(store, name)

    return do


def test_names_that_are_promised_are_not_given_twice(store: Store, flat: list[int], tmp_path: Path) -> None:
    folder = tmp_path / "out"
    folder.mkdir()
    (folder / "PHOTO.JPG").touch()
    waiting = Batches(store, Nobody(store), folder)
    waiting.export(flat[:1], ExportPart(name="photo"), into_folder=True)
    with store.transaction() as session:
        rows = list(session.scalars(select(Photo).where(Photo.id.in_(flat))))
        names = [
            one.name for one in writing.asked(session, 99, rows, ExportPart(name="photo"), False, folder)
        ]
    assert names == ["photo 3.jpg", "photo 4.jpg", "photo 5.jpg"]


def test_an_export_of_many_is_that_of_one(
    store: Store, batches: Batches, tilted: list[int], own_page: Page
) -> None:
    ended(batches, batches.take(tilted, "tilt", 0.5))
    batch = batches.export(tilted[:1], ExportPart(quality=90))
    ended(batches, batch)
    (file,) = (one.file for one in batches.files(batch.id))
    job = own_page("POST", f"/api/photos/{tilted[0]}/exports", json={"export": {"quality": 90}}).get_json()
    waited(lambda: own_page("GET", f"/api/jobs/{job['id']}").get_json()["state"] == "done")
    single: Any = own_page("GET", f"/api/jobs/{job['id']}/file").data
    from PIL import Image

    with Image.open(file) as one, Image.open(io.BytesIO(single)) as other:
        assert np.array_equal(np.asarray(one), np.asarray(other))
