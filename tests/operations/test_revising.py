"""Revisions: nothing is lost, nothing is overwritten silently."""

from __future__ import annotations

import threading
from typing import Any

import numpy as np
import pytest
from clients import Importer
from hypothesis import given
from hypothesis import strategies as st
from pictures import jpeg_bytes, line, recipe, smooth_picture
from sqlalchemy import func, select

from sequor.actions.lines import Lay
from sequor.core.raster.pixels import Picture
from sequor.operations import log, photos, revising, sheet, versions
from sequor.operations.acting import act, look
from sequor.operations.photos import PhotoNow
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError, build
from sequor.recipe.quarter_turn import quarter_turned
from sequor.store.database import ChangedMeanwhileError, Store
from sequor.store.models import Revision

JPEG = jpeg_bytes(smooth_picture(300, 200))
RISING = line("r1", "level", (10, 100), (290, 89))


@pytest.fixture
def photo(store: Store, bring: Importer) -> PhotoNow:
    """A fresh photo."""
    return photos.get_photo(store, bring(JPEG).photo_id)


def with_line(now: PhotoNow, *lines: dict[str, Any], **parts: Any) -> Recipe:
    document = now.recipe.model_dump(mode="json")
    correction = {**document["correction"], "roll": None, "pitch": None, "yaw": None}
    return build({**document, "references": list(lines), "correction": correction, **parts})


def revise(
    store: Store, now: PhotoNow, changed: Recipe, action: str = "Line 1: drawn, horizontal"
) -> PhotoNow:
    return revising.revise(store, now.photo.id, now.photo.changes, changed, action)


def test_an_action_is_a_revision_with_its_parent(store: Store, photo: PhotoNow) -> None:
    after = revise(store, photo, with_line(photo, RISING))
    assert after.revision.parent_id == photo.revision.id
    assert after.revision.action == "Line 1: drawn, horizontal"
    assert after.revision.state == "level"
    assert after.recipe.correction.roll == pytest.approx(np.rad2deg(np.arctan2(11, 280)))


def test_undo_redo_and_a_sibling(store: Store, photo: PhotoNow) -> None:
    first = revise(store, photo, with_line(photo, RISING))
    back = revising.undo(store, photo.photo.id, first.photo.changes)
    assert back.revision.id == photo.revision.id and back.can_redo and not back.can_undo
    again = revising.redo(store, photo.photo.id, back.photo.changes)
    assert again.revision.id == first.revision.id
    back = revising.undo(store, photo.photo.id, again.photo.changes)
    sibling = revise(store, back, with_line(back, line("r2", "plumb", (10, 10), (12, 190))))
    assert sibling.revision.parent_id == photo.revision.id and not sibling.can_redo
    with store.transaction() as session:
        assert session.scalar(select(func.count()).select_from(Revision)) == 3
    back = revising.undo(store, photo.photo.id, sibling.photo.changes)
    assert revising.redo(store, photo.photo.id, back.photo.changes).revision.id == sibling.revision.id


def test_nothing_to_undo_is_said(store: Store, photo: PhotoNow) -> None:
    for way in (revising.undo, revising.redo):
        with pytest.raises(revising.NothingToRedoError):
            way(store, photo.photo.id, 0)
    assert photos.get_photo(store, photo.photo.id).photo.changes == 0


def test_a_stale_write_is_refused(store: Store, photo: PhotoNow) -> None:
    revise(store, photo, with_line(photo, RISING))
    with pytest.raises(ChangedMeanwhileError, match="another window"):
        revising.revise(store, photo.photo.id, 0, with_line(photo), "Deleted line 1")
    assert len(photos.get_photo(store, photo.photo.id).recipe.references) == 1


def test_of_many_at_once_exactly_one_wins(store: Store, photo: PhotoNow) -> None:
    outcomes: list[str] = []

    def write() -> None:
        try:
            revising.revise(store, photo.photo.id, 0, with_line(photo, RISING), "Laid line 1")
            outcomes.append("kept")
        except ChangedMeanwhileError:
            outcomes.append("refused")

    threads = [threading.Thread(target=write) for _ in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(outcomes) == ["kept"] + ["refused"] * 7


def test_the_photos_own_facts_cannot_be_changed(store: Store, photo: PhotoNow) -> None:
    document = photo.recipe.model_dump(mode="json")
    document["photo"]["width"] = 299
    with pytest.raises(RecipeError, match="own facts"):
        revise(store, photo, build(document))


def test_titles_removal_and_restoring(store: Store, photo: PhotoNow) -> None:
    renamed = photos.rename(store, photo.photo.id, 0, "Reservoir")
    assert renamed.photo.title == "Reservoir"
    photos.remove(store, photo.photo.id, 1)
    with pytest.raises(photos.PhotoUnknownError):
        photos.get_photo(store, photo.photo.id)
    assert photos.restore(store, photo.photo.id).photo.title == "Reservoir"
    with pytest.raises(photos.PhotoUnknownError):
        photos.restore(store, 10**6)


def test_a_hand_made_frame_follows_the_angle(store: Store, photo: PhotoNow) -> None:
    """Its centre stays on the same point of the photo, in the preview and in what is stored."""
    framed = revise(store, photo, with_line(photo, frame={"ratio": "original", "rect": [20, 40, 150, 100]}))
    lay = Lay(do="lay", line="r1", kind="level", points=RISING["points"])
    seen, made = look(framed.recipe, lay)
    stored, told = act(store, no_pixels, framed.photo.id, framed.photo.changes, lay)
    assert made is not None and told.action == made.action == "Line 1: drawn, horizontal"
    assert stored.recipe.frame.rect == pytest.approx(
        (seen.frame.x, seen.frame.y, seen.frame.width, seen.frame.height)
    )
    centre = seen.warp.to_photo(seen.frame.centre[None])[0]
    assert centre == pytest.approx([95, 90], abs=0.5)


def no_pixels(sha256: str, turns: int) -> Picture:
    """An action that snaps nothing looks at no picture."""
    raise AssertionError(f"{sha256}, turned {turns} times, was looked at")


@given(st.floats(-20, 20), st.booleans())
def test_a_quarter_turn_carries_everything_along(by_hand: float, clockwise: bool) -> None:
    """The corrected picture after the turn is the one before it, turned: lines stand alike, the frame keeps its size."""
    document = recipe(
        3000,
        2000,
        references=[
            line("r1", "level", (100, 900), (2900, 830)),
            line("r2", "witness", (500, 1900), (560, 100)),
        ],
    )
    document["correction"]["by_hand"] = {"roll": by_hand}
    before = build(document)
    after = quarter_turned(before, clockwise)
    a, b = evaluate(before), evaluate(after)
    assert (after.photo.width, after.photo.height, after.references[0].kind) == (2000, 3000, "plumb")
    assert [r.after_deg for r in b.references] == pytest.approx([r.after_deg for r in a.references], abs=1e-6)
    assert (b.frame.width, b.frame.height) == (a.frame.height, a.frame.width)
    assert quarter_turned(after, not clockwise) == before


def test_a_frame_turns_with_the_photo() -> None:
    before = build(recipe(3000, 2000, frame={"rect": [100, 200, 600, 400]}))
    assert quarter_turned(before, True).frame.rect == (2000 - 200 - 400, 100, 400, 600)
    assert quarter_turned(quarter_turned(before, False), True).frame.rect == (100, 200, 600, 400)


def test_subject_ratio_and_size_turn_with_the_photo() -> None:
    frame = {"ratio": "16:9", "subject": [100, 200, 60, 40], "print": {"paper": [30, 20], "unit": "cm"}}
    before = build(recipe(3000, 2000, frame=frame, export={"size": [1600, 900]}))
    after = quarter_turned(before, True)
    assert (after.frame.ratio, after.frame.subject, after.export.size) == (
        "9:16",
        (1760, 100, 40, 60),
        (900, 1600),
    )
    a, b = evaluate(before), evaluate(after)
    assert (b.frame.width, b.frame.height) == (a.frame.height, a.frame.width)
    assert a.printed is not None and b.printed is not None
    assert (b.printed.ppi, b.printed.cut) == (pytest.approx(a.printed.ppi), pytest.approx(a.printed.cut))
    assert quarter_turned(after, False) == before
    point = build(recipe(3000, 2000, frame={"subject": [100, 200]}))
    assert quarter_turned(point, False).frame.subject == (200, 2900)


def test_nothing_is_locked_while_an_action_is_worked_out(
    store: Store, photo: PhotoNow, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A slow evaluation holds up neither readers nor another writer; it learns that it came too late."""
    real, seen = revising.with_frame_carried, []

    def slow(before: Recipe, after: Recipe) -> Recipe:
        if not seen:
            # In a thread of its own, as another request would be.
            def other() -> None:
                versions.list_versions(store, photo.photo.id)
                seen.append(photos.rename(store, photo.photo.id, 0, "Jetty").photo.title)

            thread = threading.Thread(target=other)
            thread.start()
            thread.join(10)
        return real(before, after)

    monkeypatch.setattr(revising, "with_frame_carried", slow)
    with pytest.raises(ChangedMeanwhileError):
        revise(store, photo, with_line(photo, RISING))
    assert seen == ["Jetty"]


def test_a_state_that_cannot_be_read_is_told_and_the_last_readable_one_offered(
    store: Store, photo: PhotoNow
) -> None:
    first = revise(store, photo, with_line(photo, RISING))
    second = revise(store, first, with_line(first), "Broken later")
    with store.transaction() as session:
        broken = {**second.revision.recipe, "photo": {"width": "wide"}}
        session.get_one(Revision, second.revision.id).recipe = broken
    assert photos.look_through(store, [photo.photo.id]) == 1
    (listed,) = sheet.list_photos(store)
    assert (listed.state, listed.readable_id) == ("last state cannot be read", first.revision.id)
    with pytest.raises(photos.UnreadableStateError, match="all other states are kept"):
        photos.get_photo(store, photo.photo.id).recipe  # noqa: B018
    back = revising.recover(store, photo.photo.id, second.photo.changes)
    assert back.recipe == first.recipe
    (listed,) = sheet.list_photos(store)
    assert (listed.state, listed.readable_id) == (first.revision.state, None)
    assert log.list_revisions(store, photo.photo.id)[0].action.startswith("Went back to: ")


def test_a_step_back_to_a_state_that_cannot_be_read_is_told_on_the_card(
    store: Store, photo: PhotoNow
) -> None:
    first = revise(store, photo, with_line(photo, RISING))
    second = revise(store, first, with_line(first), "Cleared")
    with store.transaction() as session:
        session.get_one(Revision, first.revision.id).recipe = {"format": "another"}
    revising.undo(store, photo.photo.id, second.photo.changes)
    (listed,) = sheet.list_photos(store)
    assert (listed.state, listed.readable_id) == ("last state cannot be read", second.revision.id)
