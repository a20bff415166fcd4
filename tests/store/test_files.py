"""Originals and patches are what they were when they are read, or are refused."""

from __future__ import annotations

from pathlib import Path

import pytest
from clients import Importer, Page, at_once
from pictures import jpeg_bytes, smooth_picture

from sequor.jobs.failures import failure_of
from sequor.operations import checking, photos
from sequor.store import files
from sequor.store.database import Store
from sequor.store.files import OriginalDamagedError, OriginalMissingError, PatchDamagedError

JPEG = jpeg_bytes(smooth_picture(300, 200))


def hurt(place: Path) -> bytes:
    """Change one byte of a file."""
    content = bytearray(place.read_bytes())
    content[len(content) // 2] ^= 1
    # Whole at once: somebody may be reading it.
    beside = place.with_name(".hurt")
    beside.write_bytes(content)
    beside.replace(place)
    return bytes(content)


def imported(store: Store, bring: Importer) -> tuple[int, str]:
    number = bring(JPEG, "weir.jpg").photo_id
    return number, photos.get_photo(store, number).photo.sha256


def test_one_changed_byte_is_refused_set_aside_named_and_healed(store: Store, bring: Importer) -> None:
    number, sha256 = imported(store, bring)
    assert store.originals.path(sha256).read_bytes() == JPEG
    changed = hurt(store.originals.place(sha256))
    with pytest.raises(
        OriginalDamagedError, match="It was moved to .*damaged-originals, and all steps are kept"
    ):
        store.originals.path(sha256)
    (aside,) = (store.folder / "quarantine").glob("*/damaged-originals/" + sha256)
    assert aside.read_bytes() == changed
    with pytest.raises(OriginalMissingError, match="import the photo again"):
        store.originals.path(sha256)
    assert checking.check(store).missing == [f"the original of “Weir”, {sha256}"]
    # What is damaged is not offered as a photo of its own.
    assert checking.adoptable(store) == []
    again = bring(JPEG, "weir.jpg")
    assert again.known and again.photo_id == number
    assert store.originals.path(sha256).read_bytes() == JPEG and checking.check(store).well


def test_a_patch_too(store: Store) -> None:
    made = store.work / "made"
    made.write_bytes(b"pixels")
    sha256 = files.content_hash(made)
    store.patches.put(made, sha256)
    hurt(store.patches.place(sha256))
    with pytest.raises(PatchDamagedError, match="ask for the takes again"):
        store.patches.path(sha256)


def test_a_file_is_hashed_once_as_long_as_it_does_not_change(
    store: Store, bring: Importer, monkeypatch: pytest.MonkeyPatch
) -> None:
    _, sha256 = imported(store, bring)
    hashed = []
    whole = files.content_hash

    def counted(path: Path) -> str:
        hashed.append(path)
        return whole(path)

    monkeypatch.setattr(files, "content_hash", counted)
    fresh = files.Originals(store.originals.folder)
    for _ in range(5):
        fresh.path(sha256)
    assert len(hashed) == 1
    store.originals.place(sha256).touch()
    fresh.path(sha256)
    assert len(hashed) == 2


def test_what_was_read_wrongly_once_stays_where_it_is(
    store: Store, bring: Importer, monkeypatch: pytest.MonkeyPatch
) -> None:
    _, sha256 = imported(store, bring)
    answers = iter(["0" * 64, sha256])
    monkeypatch.setattr(files, "content_hash", lambda path: next(answers))
    assert files.Originals(store.originals.folder).path(sha256).is_file()


def test_all_who_read_it_at_once_are_refused(store: Store, bring: Importer) -> None:
    _, sha256 = imported(store, bring)
    hurt(store.originals.place(sha256))

    def read(_: int) -> str:
        try:
            store.originals.path(sha256)
        except OriginalMissingError as error:
            return type(error).__name__
        return "read"

    found = at_once(8, read)
    assert "read" not in found and "OriginalDamagedError" in found
    assert len(list((store.folder / "quarantine").glob("*/damaged-originals/*"))) == 2


def test_the_page_and_a_job_say_so(own_page: Page, store: Store, bring: Importer) -> None:
    number, sha256 = imported(store, bring)
    settings = own_page("GET", f"/api/photos/{number}").json["recipe"]["export"]
    hurt(store.originals.place(sha256))
    answer = own_page("POST", f"/api/photos/{number}/exports", json={"export": settings})
    assert answer.status_code == 410, answer.json
    assert (
        answer.json["title"] == "The original is damaged"
        and "import the photo again" in answer.json["detail"]
    )
    damaged = failure_of(OriginalDamagedError("It is damaged"))
    assert damaged is not None and damaged.code == "original-damaged"
