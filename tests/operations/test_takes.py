"""Takes: asked for, made, stopped, kept as patches, listed in the recipe, used by the export."""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from clients import Importer
from pictures import DEMO, jpeg_bytes
from PIL import Image
from sqlalchemy import update

from sequor.advice.edges import with_corners, with_edges
from sequor.core.fill import patchmatch
from sequor.imaging.patches import NOTE, read_patch
from sequor.operations import photos, revising, takes, telling
from sequor.operations.attach_patches import patch_of
from sequor.operations.exporting import export
from sequor.operations.filling import Means
from sequor.operations.photos import get_photo
from sequor.operations.revising import revise
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError, build
from sequor.store.database import Store
from sequor.store.files import PatchMissingError, content_hash
from sequor.store.models import Take

PHOTO = jpeg_bytes(np.asarray(Image.open(DEMO / "wendlow_village.jpg").reduce(8)))
"""375 x 250 pixels."""


@dataclass
class Filling:
    """A photo whose corners are filled."""

    store: Store
    id: int

    def ask(self, *seeds: int) -> str:
        return takes.ask(self.store, self.id, seeds)

    def make(self) -> list[Take]:
        takes.make(self.store, self.id, takes.takes_of(self.store, self.id)[0])
        return takes.takes_of(self.store, self.id)[1]

    def keep(self, recipe: Recipe, action: str = "an action") -> Recipe:
        now = get_photo(self.store, self.id)
        return revise(self.store, self.id, now.photo.changes, recipe, action).recipe

    @property
    def recipe(self) -> Recipe:
        return get_photo(self.store, self.id).recipe

    def written(self, recipe: Recipe, out: Path) -> tuple[Any, np.ndarray]:
        original = self.store.originals.path(recipe.photo.sha256 or "")
        done = export(original, recipe, out, lambda share, words: None, Means(self.store.patches.path))
        return done, np.asarray(Image.open(out).convert("RGB"))


@pytest.fixture
def filling(store: Store, bring: Importer) -> Filling:
    made = Filling(store, bring(PHOTO).photo_id)
    turned = build({**made.recipe.model_dump(mode="json"), "correction": {"by_hand": {"roll": 4}}})
    png = turned.model_copy(update={"export": turned.export.model_copy(update={"format": "png"})})
    made.keep(with_corners(png, "fill", "same size").recipe)
    return made


def test_takes_are_made_and_kept_as_patches(filling: Filling) -> None:
    key = filling.ask(1, 2, 3)
    assert takes.wanted(filling.store) == [(filling.id, key)]
    made = filling.make()
    assert [(take.seed, take.state, take.progress) for take in made] == [
        (seed, "done", 1.0) for seed in (1, 2, 3)
    ]
    assert takes.wanted(filling.store) == []
    hashes = set()
    for part in made[1].parts:
        path = filling.store.patches.path(part["sha256"])
        assert content_hash(path) == part["sha256"]
        pixels, mask = read_patch(path)
        assert (pixels.shape[1], pixels.shape[0]) == tuple(part["box"][2:]) and mask.any()
        with Image.open(path) as image:
            note = json.loads(image.info[NOTE])
        assert (note["seed"], note["part"], note["made_for"]) == (2, part["part"], key)
        hashes.add(part["sha256"])
    assert len(hashes) == 4
    assert not list(filling.store.work.glob("patch-*"))
    takes.forget_first_looks(filling.store)
    assert not list(filling.store.rough.iterdir())


def test_asked_again_they_stay(filling: Filling, monkeypatch: pytest.MonkeyPatch) -> None:
    filling.ask(1)
    first = filling.make()
    monkeypatch.setattr(patchmatch.Completion, "take", None)
    filling.ask(1)
    again = filling.make()
    assert [take.parts for take in again] == [take.parts for take in first]


def test_the_export_is_what_the_takes_showed(filling: Filling, tmp_path: Path) -> None:
    """A take listed, a take by its seed alone, and one made in the export: the same pixels to the bit."""
    by_seed, _ = filling.recipe, filling.ask(1, 2)
    _, first = filling.written(by_seed, tmp_path / "seed.png")
    made = filling.make()
    listed = filling.keep(filling.recipe)
    assert [patch.seed for patch in listed.edges.patches] == [1, 1, 1, 1]
    done, second = filling.written(listed, tmp_path / "listed.png")
    assert np.array_equal(first, second) and done.made_anew == 0
    for part in made[0].parts:
        x, y, width, height = part["box"]
        pixels, alpha = read_patch(filling.store.patches.path(part["sha256"]))
        mask = alpha > 0
        assert np.array_equal(second[y : y + height, x : x + width][mask], pixels[mask])


def test_one_take_for_one_corner_and_another_for_the_next(filling: Filling, tmp_path: Path) -> None:
    filling.ask(1, 2)
    one, two = filling.make()
    names = [part["part"] for part in one.parts]
    mixed = [patch_of(two if name == names[0] else one, name) for name in names]
    kept = filling.keep(with_edges(filling.recipe, patches=mixed))
    assert [patch.seed for patch in kept.edges.patches] == [2, 1, 1, 1]
    _, mix = filling.written(kept, tmp_path / "mix.png")
    _, plain = filling.written(with_edges(kept, patches=[], seed=1), tmp_path / "plain.png")
    _, other = filling.written(with_edges(kept, patches=[], seed=2), tmp_path / "other.png")
    x, y, width, height = one.parts[0]["box"]
    inside = np.zeros(mix.shape[:2], bool)
    inside[y : y + height, x : x + width] = (
        read_patch(filling.store.patches.path(one.parts[0]["sha256"]))[1] > 0
    )
    assert np.array_equal(mix[inside], other[inside]) and np.array_equal(mix[~inside], plain[~inside])
    assert not np.array_equal(mix[inside], plain[inside])


def test_what_they_depend_on_changes_and_they_are_made_anew(filling: Filling, tmp_path: Path) -> None:
    filling.ask(1, 2)
    one, two = filling.make()
    name = one.parts[0]["part"]
    patches = [patch_of(two if part["part"] == name else one, part["part"]) for part in one.parts]
    chosen = filling.keep(with_edges(filling.recipe, patches=patches))
    moved = with_corners(chosen, "fill", "at most", 0.02).recipe
    older = filling.keep(moved)
    assert older.edges.patches == chosen.edges.patches
    done, pixels = filling.written(older, tmp_path / "anew.png")
    assert done.made_anew == 4
    filling.ask(1, 2)
    filling.make()
    newer = filling.keep(filling.recipe)
    assert [patch.seed for patch in newer.edges.patches] == [patch.seed for patch in chosen.edges.patches]
    assert {patch.made_for for patch in newer.edges.patches} != {patch.made_for for patch in patches}
    done, again = filling.written(newer, tmp_path / "listed.png")
    assert done.made_anew == 0 and np.array_equal(pixels, again)


def test_a_file_of_another_size_shows_the_same_take(filling: Filling, tmp_path: Path) -> None:
    filling.ask(2)
    filling.make()
    recipe = filling.keep(with_edges(filling.recipe, seed=2))
    _, whole = filling.written(recipe, tmp_path / "whole.png")
    half = recipe.model_copy(update={"export": recipe.export.model_copy(update={"size": (188, 125)})})
    done, small = filling.written(half, tmp_path / "half.png")
    assert small.shape == (125, 188, 3) and done.filled > 0
    expected = np.asarray(Image.fromarray(whole).resize((188, 125), Image.Resampling.BOX), int)
    assert np.abs(small.astype(int) - expected).mean() < 6


def test_a_missing_patch_is_said(filling: Filling, tmp_path: Path) -> None:
    filling.ask(1)
    filling.make()
    recipe = filling.keep(filling.recipe)
    filling.store.patches.place(recipe.edges.patches[2].sha256).unlink()
    with pytest.raises(PatchMissingError, match="ask for the takes again"):
        filling.written(recipe, tmp_path / "out.png")
    assert not (tmp_path / "out.png").exists()


def test_a_patch_that_does_not_fit_is_refused(filling: Filling, tmp_path: Path) -> None:
    filling.ask(1)
    filling.make()
    recipe = filling.keep(filling.recipe)
    one, other, *rest = recipe.edges.patches
    swapped = [one.model_copy(update={"sha256": other.sha256}), other, *rest]
    with pytest.raises(RecipeError, match="does not fit the"):
        filling.written(with_edges(recipe, patches=swapped), tmp_path / "out.png")


def test_stopped_while_it_is_made(filling: Filling, monkeypatch: pytest.MonkeyPatch) -> None:
    """The next word on how far it is finds it stopped; the others are made, and it can be begun again."""
    filling.ask(1, 2)
    whole = patchmatch.Completion.take

    def stopped(self: Any, seed: int, progress: Any, look: Any) -> Any:
        if seed == 1:
            takes.cancel(filling.store, filling.id, takes.takes_of(filling.store, filling.id)[1][0].id)
        return whole(self, seed, progress, look)

    monkeypatch.setattr(patchmatch.Completion, "take", stopped)
    monkeypatch.setattr(telling, "TELL_SECONDS", 0.0)
    one, two = filling.make()
    assert (one.state, one.words, two.state) == ("cancelled", "Cancelled", "done")
    assert all("sha256" not in part for part in one.parts)
    monkeypatch.undo()
    filling.ask(1)
    assert [take.state for take in filling.make()] == ["done", "done"]


def test_a_take_that_was_being_made_when_all_stopped_is_made_again(filling: Filling) -> None:
    key = filling.ask(1)
    with filling.store.transaction() as session:
        session.execute(update(Take).values(state="running", progress=0.4, attempts=1))
    assert takes.wanted(filling.store) == [(filling.id, key)]
    assert [take.state for take in filling.make()] == ["done"]


def test_one_that_ends_its_worker_each_time_is_given_up(filling: Filling) -> None:
    filling.ask(1)
    with filling.store.transaction() as session:
        session.execute(update(Take).values(state="running", attempts=telling.MOST_ATTEMPTS))
    (take,) = filling.make()
    assert take.state == "failed" and "failed 3 times" in take.words


def test_what_goes_wrong_is_said_and_the_next_is_made(
    filling: Filling, monkeypatch: pytest.MonkeyPatch
) -> None:
    filling.ask(1, 2)
    whole = patchmatch.Completion.take

    def broken(self: Any, seed: int, progress: Any, look: Any) -> Any:
        if seed == 1:
            raise MemoryError
        return whole(self, seed, progress, look)

    monkeypatch.setattr(patchmatch.Completion, "take", broken)
    one, two = filling.make()
    assert (one.state, two.state) == ("failed", "done") and "not enough memory" in one.words


def test_a_frame_with_nothing_empty_is_refused(filling: Filling) -> None:
    filling.keep(with_edges(build({**filling.recipe.model_dump(mode="json"), "frame": {}}), mode="trim"))
    with pytest.raises(RecipeError, match="nothing to fill"):
        filling.ask(1)


def test_too_little_to_copy_is_said(store: Store, bring: Importer) -> None:
    photo = bring(jpeg_bytes(np.zeros((9, 12, 3), np.uint8))).photo_id
    tiny = Filling(store, photo)
    wide = {"allow_empty": True, "ratio": "free", "rect": [-40, -40, 90, 90]}
    tiny.keep(build({**tiny.recipe.model_dump(mode="json"), "frame": wide, "edges": {"mode": "fill"}}))
    tiny.ask(1)
    (take,) = tiny.make()
    assert take.state == "failed" and "Too little of the picture is left" in take.words


def test_two_workers_make_no_take_twice(filling: Filling) -> None:
    """While one has the frame, the other leaves it alone."""
    key = filling.ask(1)
    with filling.store.only_one(f"take-{key[:40]}") as alone:
        assert alone
        takes.make(filling.store, filling.id, key)
        assert [take.state for take in takes.takes_of(filling.store, filling.id)[1]] == ["waiting"]
    assert [take.state for take in filling.make()] == ["done"]


def test_nine_tenths_empty(filling: Filling) -> None:
    wide = {"allow_empty": True, "ratio": "free", "rect": [-400, -300, 1186, 790]}
    filling.keep(build({**filling.recipe.model_dump(mode="json"), "frame": wide}))
    assert evaluate(filling.recipe).cost.empty == pytest.approx(0.9, abs=0.01)
    filling.ask(1)
    (take,) = filling.make()
    assert take.state == "done" and [part["part"] for part in take.parts] == ["all round"]


def test_a_take_is_listed_by_the_server_in_the_moment_it_is_done(filling: Filling) -> None:
    """Nobody looks on: the tab may have been closed. What is on its way on the page is kept all the same."""
    filling.ask(1)
    before = get_photo(filling.store, filling.id)
    filling.make()
    after = get_photo(filling.store, filling.id)
    assert (
        after.revision.action == "Take 1 in every corner" and after.revision.parent_id == before.revision.id
    )
    assert {patch.seed for patch in after.recipe.edges.patches} == {1} and len(
        after.recipe.edges.patches
    ) == 4
    # This is no change of the photo: an action on what was seen before is kept, with the patches.
    assert after.photo.changes == before.photo.changes
    kept = revise(filling.store, filling.id, before.photo.changes, before.recipe, "on its way")
    assert kept.recipe.edges.patches == after.recipe.edges.patches
    assert kept.revision.parent_id == after.revision.id
    # A take that the recipe does not show changes nothing.
    filling.ask(2)
    filling.make()
    assert get_photo(filling.store, filling.id).revision.id == kept.revision.id


def test_an_action_that_was_worked_out_meanwhile_lists_the_take(
    filling: Filling, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The take is done between the reading and the writing of an action."""
    filling.ask(1)
    real, calls = revising.with_patches, []

    def then_done(store: Store, photo_id: int, recipe: Recipe) -> Recipe:
        found = real(store, photo_id, recipe)
        if not calls:
            calls.append(1)
            filling.make()
        return found

    monkeypatch.setattr(revising, "with_patches", then_done)
    now = get_photo(filling.store, filling.id)
    kept = revise(filling.store, filling.id, now.photo.changes, now.recipe, "meanwhile")
    assert len(kept.recipe.edges.patches) == 4


def test_a_removed_photo_hinders_no_take(filling: Filling) -> None:
    filling.ask(1)
    key = takes.takes_of(filling.store, filling.id)[0]
    photos.remove(filling.store, filling.id, get_photo(filling.store, filling.id).photo.changes)
    takes.make(filling.store, filling.id, key)
    photos.restore(filling.store, filling.id)
    assert [take.state for take in takes.takes_of(filling.store, filling.id)[1]] == ["done"]
