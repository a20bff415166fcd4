"""The contact sheet as a whole: what it says of its photos, and where one lies."""

from __future__ import annotations

import pytest
from clients import Importer
from pictures import DEMO, jpeg_bytes, smooth_picture

from sequor.operations import photos, sheet
from sequor.operations.photos import PhotoUnknownError
from sequor.store.database import Store
from sequor.wording.sheet import sheet_words


@pytest.fixture
def four(bring: Importer) -> list[int]:
    """Four photos, in the order they came."""
    return [bring(jpeg_bytes(smooth_picture(60 + number, 40))).photo_id for number in range(4)]


def remove(store: Store, photo_id: int) -> None:
    photos.remove(store, photo_id, photos.get_photo(store, photo_id).photo.changes)


def test_a_photo_lies_between_its_neighbours(store: Store, four: list[int]) -> None:
    one, two, three, last = four
    assert sheet.place_of(store, one) == sheet.Place(None, two, 1, 4)
    assert sheet.place_of(store, three) == sheet.Place(two, last, 3, 4)
    assert sheet.place_of(store, last) == sheet.Place(three, None, 4, 4)


def test_what_was_removed_is_passed_over(store: Store, four: list[int]) -> None:
    one, two, three, _ = four
    remove(store, two)
    assert sheet.place_of(store, three) == sheet.Place(one, four[3], 2, 3)
    with pytest.raises(PhotoUnknownError):
        sheet.place_of(store, two)


def test_all_photos_are_counted_not_those_of_a_page(store: Store, four: list[int]) -> None:
    found = sheet.summary(store)
    assert found.total == found.asked == 4
    assert found.words.startswith("Four photos: none corrected yet, four not measured.")
    assert "computer-generated" not in found.words


def test_demo_photos_are_said_to_be_computer_generated(store: Store, bring: Importer) -> None:
    bring((DEMO / "wendlow_shore.jpg").read_bytes())
    assert "computer-generated" in sheet.summary(store).words


@pytest.mark.parametrize(
    ("counts", "words"),
    [
        ({}, "No photos yet"),
        (
            {"not measured": 1},
            "One photo: none corrected yet, one not measured. Open one and draw a line along the horizon or a vertical edge.",
        ),
        ({"level": 2, "lines disagree": 1}, "Three photos: two level, one with lines that disagree."),
        (
            {"verticals straight": 1, "level": 1, "square-on": 1},
            "Three photos: one level, one with straight verticals, one square-on.",
        ),
        ({"level": 9_980, "not measured": 20}, "10,000 photos: 9,980 level, 20 not measured."),
    ],
)
def test_the_sheet_speaks_in_words(counts: dict[str, int], words: str) -> None:
    assert sheet_words(counts, False).startswith(words)
