"""An object store that several machines share: written once, hashed when read, set aside when damaged."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta
from pathlib import Path

import pytest
from clients import Importer, Page, Straight, at_once
from pictures import jpeg_bytes, smooth_picture

from sequor.jobs import folders
from sequor.jobs.failures import failure_of
from sequor.jobs.jobs import tidy
from sequor.operations import checking, photos
from sequor.store import files
from sequor.store import objects as objects_module
from sequor.store.database import Store
from sequor.store.files import OriginalDamagedError, OriginalMissingError, content_hash
from sequor.store.models import Job, now
from sequor.store.objects import Objects, ObjectsGoneError
from sequor.web.app import create_app

JPEG = jpeg_bytes(smooth_picture(300, 200))
Machine = Callable[[str], Store]


@pytest.fixture
def objects(bucket: str) -> Objects:
    return Objects(bucket)


@pytest.fixture
def machine(store: Store, objects: Objects, tmp_path: Path) -> Machine:
    """One of several machines, by its name: a folder of its own over one database and one object store."""
    return lambda name: Store(store.engine, tmp_path / name, objects)


def written(folder: Path, content: bytes) -> tuple[Path, str]:
    file = folder / "file"
    file.write_bytes(content)
    return file, content_hash(file)


def hurt(objects: Objects, key: str) -> bytes:
    """Change one byte of an object."""
    content = bytearray(objects.read(key))
    content[len(content) // 2] ^= 1
    objects.write(bytes(content), key)
    return bytes(content)


def test_of_eight_that_put_at_once_one_writes_and_nobody_fails(objects: Objects, tmp_path: Path) -> None:
    file, sha256 = written(tmp_path, b"pixels" * 10_000)
    won = at_once(8, lambda number: objects.put(file, f"patches/{sha256}"))
    assert sorted(won) == [False] * 7 + [True]
    assert objects.hash(f"patches/{sha256}") == sha256


def test_what_one_machine_takes_in_another_reads_and_keeps_a_copy(machine: Machine, objects: Objects) -> None:
    one, other = machine("one"), machine("other")
    number = Importer(one)(JPEG, "weir.jpg").photo_id
    sha256 = photos.get_photo(one, number).photo.sha256
    assert not other.originals.place(sha256).exists()
    assert other.originals.path(sha256).read_bytes() == JPEG
    assert other.originals.name(sha256) == "weir.jpg" and other.originals.all() == [sha256]
    objects.remove([other.originals.key(sha256)])
    assert other.originals.path(sha256).read_bytes() == JPEG
    with pytest.raises(OriginalMissingError, match="import the photo again"):
        machine("third").originals.path(sha256)
    assert checking.check(other).missing == [f"the original of “Weir”, {sha256}"]


def test_what_was_handed_over_for_no_job_goes_after_a_day(
    machine: Machine, objects: Objects, monkeypatch: pytest.MonkeyPatch
) -> None:
    one = machine("one")
    with one.transaction() as session:
        session.add(Job(id="known", kind="import", lane="import", label="x", spec={"bytes": 1}, notices=[]))
    for name in ("known", "left"):
        objects.write(b"x", f"work/{name}/file")
    tidy(one)
    # Its row may be on its way.
    assert sorted(objects.keys("work")) == ["work/known/file", "work/left/file"]
    monkeypatch.setattr(folders, "LEFT", -timedelta(days=1))
    tidy(one)
    assert list(objects.keys("work")) == ["work/known/file"]


def test_a_changed_byte_is_refused_set_aside_named_and_healed(machine: Machine, objects: Objects) -> None:
    one, other = machine("one"), machine("other")
    number = Importer(one)(JPEG, "weir.jpg").photo_id
    sha256 = photos.get_photo(one, number).photo.sha256
    changed = hurt(objects, one.originals.key(sha256))
    assert checking.check(one).damaged == [f"the original of “Weir”, {sha256}"]
    with pytest.raises(OriginalDamagedError, match="It was moved to quarantine/.*damaged-originals"):
        other.originals.path(sha256)
    (aside,) = (key for key in objects.keys("quarantine") if not key.endswith(".name"))
    assert objects.read(aside) == changed and aside.endswith(sha256)
    assert checking.check(other).missing == [f"the original of “Weir”, {sha256}"]
    assert list(other.originals.folder.glob("*/*")) == []
    again = Importer(other)(JPEG, "weir.jpg")
    assert again.known and again.photo_id == number
    assert machine("third").originals.path(sha256).read_bytes() == JPEG and checking.check(one).well


def test_importing_again_heals_what_nobody_has_read_yet(machine: Machine, objects: Objects) -> None:
    one = machine("one")
    Importer(one)(JPEG, "weir.jpg")
    (sha256,) = one.originals.all()
    hurt(objects, one.originals.key(sha256))
    Importer(machine("other"))(JPEG, "weir.jpg")
    assert checking.check(one).well


def test_a_damaged_copy_is_brought_again(machine: Machine) -> None:
    one, other = machine("one"), machine("other")
    Importer(one)(JPEG, "weir.jpg")
    (sha256,) = one.originals.all()
    copy = other.originals.path(sha256)
    copy.chmod(0o644)
    copy.write_bytes(JPEG[:-9])
    assert other.originals.path(sha256).read_bytes() == JPEG


def test_copies_stay_within_their_bound(
    machine: Machine, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(files, "CACHE_BYTES", 3500)
    one, other = machine("one"), machine("other")
    for number in range(9):
        file, sha256 = written(tmp_path, bytes([number]) * 1000)
        one.patches.put(file, sha256)
    for sha256 in one.patches.all():
        assert content_hash(other.patches.path(sha256)) == sha256
    kept = [copy for copy in other.patches.folder.glob("*/*") if copy.is_file()]
    assert len(kept) == 3 and len(other.patches.all()) == 9


def test_a_store_that_does_not_answer_is_said(
    store: Store, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(objects_module, "TRIES", 0)
    number = Importer(store)(JPEG, "weir.jpg").photo_id
    gone = Store(store.engine, tmp_path / "alone", Objects("s3://photos?endpoint=http://127.0.0.1:9"))
    page = Page(create_app(gone, Straight(gone), tmp_path).test_client())
    answer = page("GET", f"/api/photos/{number}/screen/640-0.jpg")
    assert answer.status_code == 503
    assert "file store does not answer" in answer.get_json()["detail"]
    health = page("GET", "/api/health")
    away = [one["words"] for one in health.get_json()["services"] if not one["answers"]]
    assert health.status_code == 503 and away == ["File store"]
    sha256 = photos.get_photo(store, number).photo.sha256
    with pytest.raises(ObjectsGoneError) as told:
        gone.originals.path(sha256)
    failure = failure_of(told.value)
    assert failure is not None and failure.code == "store"


@pytest.mark.parametrize("address", ["http://photos", "s3://", "s3://photos?secret=x", "photos"])
def test_what_is_no_address_is_refused(address: str) -> None:
    with pytest.raises(ValueError, match="is no address of a file store"):
        Objects(address)


def test_a_start_leaves_alone_what_another_machine_is_at(machine: Machine, objects: Objects) -> None:
    """A job that somebody elsewhere has a claim on, for the last time, and a file that is still to get its row."""
    one = machine("one")
    objects.write(JPEG, "work/coming/file")
    claimed = {"owner": "elsewhere 1 2 3", "lease_until": now() + timedelta(minutes=5), "attempts": 3}
    with one.transaction() as session:
        session.add(Job(id="a", kind="export", lane="export", label="a", spec={}, state="running", **claimed))
    tidy(one)
    with one.transaction() as session:
        assert session.get_one(Job, "a").state == "running"
    assert objects.read("work/coming/file") == JPEG
