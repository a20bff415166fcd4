"""Lists of the contact sheet: which photos, in which order, page by page, and that no recipe is read for them."""

from __future__ import annotations

import json
from datetime import datetime
from typing import Any

import pytest
from clients import Importer, Page
from hypothesis import given, settings
from hypothesis import strategies as st
from pictures import camera_exif, jpeg_bytes, smooth_picture
from sqlalchemy import event, text, update

from sequor.operations import groups, photos, sheet
from sequor.operations.sheet import ORDERS, Sorting, Wanted
from sequor.store.database import Store
from sequor.store.models import NEVER, Photo

MANY = 60


@pytest.fixture
def many(store: Store, bring: Importer) -> list[int]:
    """Photos that differ in all that is sorted by, with equals among them."""
    first = bring(jpeg_bytes(smooth_picture(60, 40))).photo_id
    with store.transaction() as session:
        session.execute(text("SET foreign_key_checks = 0"))
        copied = "file_name, format, bytes, width, height, facts, imported_at, changes, revision_id, ratio, shown_width, shown_height, version_names"
        session.execute(
            text(
                f"INSERT INTO photos (id, sha256, title, state, taken_at, camera, lens, confidence, {copied}) SELECT :i + seq,"
                " SHA2(seq, 256), CONCAT('Photo ', seq % 7), IF(seq % 5, 'not measured', 'level'), IF(seq % 4, DATE_ADD('2026-05-01', INTERVAL seq % 9 DAY), '9999-12-31'),"
                f" CONCAT('Camera ', seq % 3), '', (seq % 11) / 10, {copied} FROM photos, seq_1_to_{MANY - 1} WHERE photos.id = :i"
            ),
            {"i": first},
        )
    return [first + number for number in range(MANY)]


def pages(store: Store, wanted: Wanted, sorting: Sorting, size: int) -> list[int]:
    """All photos as they come page by page."""
    found: list[int] = []
    key: list[Any] | None = None
    while some := sheet.list_photos(store, wanted, sorting, key, size):
        found += [photo.id for photo in some]
        key = sorting.key(some[-1])
    return found


@pytest.mark.parametrize("down", [False, True])
@pytest.mark.parametrize("by", list(ORDERS))
def test_pages_are_the_whole_list_in_order(
    store: Store, many: list[int], by: sheet.Order, down: bool
) -> None:
    sorting = Sorting(by, down)
    found = pages(store, sheet.ALL, sorting, 7)
    assert sorted(found) == many
    assert found == sheet.numbers(store, sheet.ALL, sorting)
    with store.transaction() as session:
        keys = [sorting.key(session.get_one(Photo, number)) for number in found]
    assert keys == sorted(keys, reverse=down)


def test_each_filter_is_what_its_rows_say(store: Store, many: list[int]) -> None:
    """Against the rows, looked at one by one."""
    with store.transaction() as session:
        session.execute(update(Photo).where(Photo.id == many[3]).values(aside=True, state="not measured"))
        session.execute(update(Photo).where(Photo.id.in_(many[4:6])).values(state="lines disagree"))
        session.execute(update(Photo).where(Photo.id == many[5]).values(aside=True))
        session.execute(update(Photo).where(Photo.id == many[6]).values(exported_id=Photo.revision_id))
        session.execute(update(Photo).where(Photo.id == many[7]).values(confidence=-1, import_id=9))
        rows = {number: session.get_one(Photo, number) for number in many}

    def pending(one: Photo) -> bool:
        return one.state == "not measured" and not one.aside

    expected = {
        Wanted(stand="sure"): lambda one: pending(one) and one.confidence >= 0.9,
        Wanted(stand="eyes"): lambda one: (
            (pending(one) and 0 <= one.confidence < 0.9) or (one.state == "lines disagree" and not one.aside)
        ),
        Wanted(stand="corrected"): lambda one: one.state == "level",
        Wanted(stand="left"): lambda one: one.aside,
        Wanted(state="level"): lambda one: one.state == "level",
        Wanted(sureness="likely"): lambda one: 0.5 <= one.confidence < 0.9,
        Wanted(sureness="not looked"): lambda one: one.confidence < 0,
        Wanted(camera="Camera 1"): lambda one: one.camera == "Camera 1",
        Wanted(brought=9): lambda one: one.import_id == 9,
        Wanted(exported=True): lambda one: one.exported_id is not None,
        Wanted(exported=False): lambda one: one.exported_id is None,
        Wanted(find="photo 3"): lambda one: one.title == "Photo 3",
        Wanted(find="100%"): lambda one: False,
        Wanted(stand="sure", camera="Camera 2"): lambda one: (
            pending(one) and one.confidence >= 0.9 and one.camera == "Camera 2"
        ),
    }
    for wanted, holds in expected.items():
        found = [number for number, one in rows.items() if holds(one)]
        assert pages(store, wanted, Sorting(), 9) == found, wanted
        assert sheet.summary(store, wanted).asked == len(found)
        if wanted.stand is not None and wanted.camera is None:
            assert sheet.summary(store).stands[wanted.stand] == len(found)


def test_a_group_is_filled_and_shown(store: Store, many: list[int]) -> None:
    group = groups.make_group(store, "Two", many[:2])
    groups.fill_group(store, group.id, [many[1], many[5], 10**9])
    groups.take_out(store, group.id, [many[0]])
    assert pages(store, Wanted(group=group.id), Sorting(), 9) == [many[1], many[5]]
    assert sheet.choices(store).groups == [(group.id, "Two", 2)]
    with pytest.raises(groups.NameTakenError):
        groups.make_group(store, "Two")
    groups.remove_group(store, group.id)
    with pytest.raises(groups.GroupUnknownError):
        groups.fill_group(store, group.id, many)


def test_a_photo_lies_beside_those_of_the_same_filter_and_order(store: Store, many: list[int]) -> None:
    wanted, sorting = Wanted(camera="Camera 2"), Sorting("taken", down=True)
    order = pages(store, wanted, sorting, 9)
    at = len(order) // 2
    place = sheet.place_of(store, order[at], wanted, sorting)
    assert place == sheet.Place(order[at - 1], order[at + 1], at + 1, len(order))


def test_no_list_reads_recipes(store: Store, many: list[int]) -> None:
    asked: list[str] = []

    def hear(connection: Any, cursor: Any, statement: str, *more: Any) -> None:
        asked.append(statement)

    event.listen(store.engine, "before_cursor_execute", hear)
    try:
        for by in ORDERS:
            sheet.list_photos(store, Wanted(find="Photo"), Sorting(by))
            sheet.list_photos(store, sheet.ALL, Sorting(by))
        sheet.summary(store)
        sheet.choices(store)
        sheet.numbers(store, sheet.ALL, Sorting("confidence"))
    finally:
        event.remove(store.engine, "before_cursor_execute", hear)
    assert asked and not any("revisions" in statement for statement in asked)
    assert len(asked) < 40


@settings(max_examples=20)
@given(st.text(max_size=12))
def test_what_is_looked_for_is_taken_by_its_letters(title: str) -> None:
    condition = Wanted(find=title).conditions()
    assert len(condition) == (2 if title else 1)


def test_what_an_import_tells_can_be_sorted_by(store: Store, bring: Importer) -> None:
    told = bring(jpeg_bytes(smooth_picture(90, 60), exif=camera_exif())).photo_id
    plain = bring(jpeg_bytes(smooth_picture(80, 60))).photo_id
    with store.transaction() as session:
        row = session.get_one(Photo, told)
        assert (row.taken_at, row.camera) == (datetime(2026, 6, 14, 15, 42, 10), "Invented Optics IO-1")
        row = session.get_one(Photo, plain)
        assert (row.taken_at, row.camera, row.lens, row.shown) == (NEVER, "", "", 1)
    assert sheet.numbers(store, sheet.ALL, Sorting("taken")) == [told, plain]


def test_the_list_over_the_wire_goes_on_where_a_page_ended(
    own_page: Page, store: Store, many: list[int]
) -> None:
    with store.transaction() as session:
        session.execute(update(Photo).where(Photo.id == many[0]).values(taken_at=datetime(2026, 5, 2, 6)))
    query = "/api/photos?by=taken&down=true&stand=corrected"
    answer = own_page("GET", query).get_json()
    assert answer["next"] is None and len(answer["photos"]) == 11
    key = json.dumps([answer["photos"][3] and "2026-05-02T00:00:00", answer["photos"][3]["id"]])
    assert own_page("GET", f"{query}&after={key}").status_code == 200
    for wrong in ("x", "[]", '["x"]', "[1]", '["2026-05-02", "x"]', "{}", "null"):
        assert own_page("GET", f"{query}&after={wrong}").status_code == 422, wrong
    for wrong in ("by=size", "stand=x", "brought=x", "group=-1", "exported=perhaps", "who=me"):
        assert own_page("GET", f"/api/photos?{wrong}").status_code == 422, wrong


def test_removed_photos_are_on_no_list(store: Store, many: list[int]) -> None:
    photos.remove(store, many[0], photos.get_photo(store, many[0]).photo.changes)
    assert many[0] not in sheet.numbers(store, sheet.ALL, Sorting("title"))
    assert sheet.summary(store).total == MANY - 1
