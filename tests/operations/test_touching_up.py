"""Touch-ups and donors: only their area changes, takes are kept, the export is what was shown."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from clients import Importer
from pictures import DEMO, jpeg_bytes
from PIL import Image

from sequor.imaging.patches import read_patch
from sequor.operations import takes
from sequor.operations.exporting import export
from sequor.operations.filling import Means
from sequor.operations.photos import get_photo
from sequor.operations.revising import revise
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError, build
from sequor.recipe.quarter_turn import quarter_turned
from sequor.store.database import Store

PHOTO = jpeg_bytes(np.asarray(Image.open(DEMO / "wendlow_shore.jpg").reduce(6)))
"""500 x 334 pixels."""

BOAT = {"id": "t1", "points": [[235.0, 225.0], [262.0, 215.0]], "radius": 16.0, "feather": 4.0}
POST = {"id": "t2", "points": [[120.0, 40.0], [180.0, 40.0], [180.0, 90.0], [120.0, 90.0]], "feather": 0.0}


@dataclass
class Touching:
    """A photo with touch-ups."""

    store: Store
    id: int
    edges: dict[str, Any] = field(default_factory=dict)

    def recipe(self, *touch_ups: dict[str, Any], **edges: Any) -> Recipe:
        now = get_photo(self.store, self.id).recipe.model_dump(mode="json")
        parts = {"edges": {"touch_ups": list(touch_ups), **edges}, "export": {"format": "png"}}
        return build({**now, **parts})

    def keep(self, recipe: Recipe) -> Recipe:
        now = get_photo(self.store, self.id)
        return revise(self.store, self.id, now.photo.changes, recipe, "an action").recipe

    def made(self, name: str, *seeds: int) -> list[Any]:
        key = takes.ask(self.store, self.id, seeds, name)
        takes.make(self.store, self.id, key)
        return takes.takes_of(self.store, self.id, name)[1]

    def written(self, recipe: Recipe, out: Path, mask: Path | None = None) -> tuple[Any, np.ndarray]:
        original = self.store.originals.path(recipe.photo.sha256 or "")
        means = Means(self.store.patches.path)
        done = export(original, recipe, out, lambda share, words: None, means, mask)
        return done, np.asarray(Image.open(out).convert("RGB"))


@pytest.fixture
def touching(store: Store, bring: Importer) -> Touching:
    return Touching(store, bring(PHOTO).photo_id)


def test_nothing_outside_the_mask_changes_by_a_code_value(touching: Touching, tmp_path: Path) -> None:
    _, before = touching.written(touching.recipe(), tmp_path / "before.png")
    done, after = touching.written(touching.recipe(BOAT, POST), tmp_path / "after.png", tmp_path / "mask.png")
    new = np.asarray(Image.open(tmp_path / "mask.png")) > 0
    assert np.array_equal(before[~new], after[~new])
    assert (before[new] != after[new]).any(axis=1).mean() > 0.5
    assert done.filled == pytest.approx(new.mean())
    inside = np.zeros_like(new)
    inside[40:90, 120:180] = True
    assert new[inside].all() and 0.9 < new[inside].sum() / (new[:, 110:190][30:100]).sum() <= 1


def test_an_amount_takes_so_much_of_it(touching: Touching, tmp_path: Path) -> None:
    _, before = touching.written(touching.recipe(), tmp_path / "before.png")
    _, whole = touching.written(touching.recipe(POST), tmp_path / "whole.png")
    _, half = touching.written(touching.recipe({**POST, "amount": 0.5}), tmp_path / "half.png")
    assert np.abs((before.astype(float) + whole) / 2 - half).max() <= 0.51
    done, none = touching.written(touching.recipe({**POST, "amount": 0.0}), tmp_path / "none.png")
    assert np.array_equal(none, before) and done.filled == 0


def test_switched_off_and_removed_ones_are_not_seen(touching: Touching, tmp_path: Path) -> None:
    _, before = touching.written(touching.recipe(), tmp_path / "before.png")
    done, after = touching.written(touching.recipe({**BOAT, "active": False}), tmp_path / "off.png")
    assert np.array_equal(before, after) and done.filled == 0


def test_takes_are_kept_and_listed_and_the_export_is_what_they_showed(
    touching: Touching, tmp_path: Path
) -> None:
    touching.keep(touching.recipe(BOAT))
    found = touching.made("t1", 1, 2)
    assert [(take.seed, take.state) for take in found] == [(1, "done"), (2, "done")]
    assert found[0].parts[0]["sha256"] != found[1].parts[0]["sha256"]
    kept = touching.keep(touching.recipe(BOAT))
    (patch,) = kept.edges.patches
    assert (patch.part, patch.seed, patch.made_for) == ("touch-up t1", 1, evaluate(kept).made_for["t1"])
    pixels, alpha = read_patch(touching.store.patches.path(patch.sha256))
    done, after = touching.written(kept, tmp_path / "after.png")
    x, y, width, height = patch.box
    there = after[y : y + height, x : x + width]
    assert np.array_equal(there[alpha == 255], pixels[alpha == 255])
    assert done.made_anew == 0
    # Without the patch at hand it is being made again, to the same pixels.
    bare = kept.model_copy(update={"edges": kept.edges.model_copy(update={"patches": []})})
    assert np.array_equal(touching.written(bare, tmp_path / "anew.png")[1], after)
    other = kept.edges.touch_ups[0].model_copy(update={"seed": 2})
    chosen = touching.keep(
        kept.model_copy(update={"edges": kept.edges.model_copy(update={"touch_ups": [other]})})
    )
    assert chosen.edges.patches[0].sha256 == found[1].parts[0]["sha256"]


def test_what_a_touch_up_depends_on(touching: Touching) -> None:
    def key(name: str, *touch_ups: dict[str, Any], **edges: Any) -> str:
        return evaluate(touching.recipe(*touch_ups, **edges)).made_for[name]

    far = {**POST, "points": [[470.0, 20.0], [490.0, 20.0], [490.0, 30.0]]}
    alone = key("t1", BOAT)
    assert key("t1", {**BOAT, "amount": 0.4, "seed": 7}) == alone
    assert key("t1", {**BOAT, "feather": 5.0}) != alone
    donor = {"id": "d1", "kind": "not from here", "points": [[300.0, 200.0]], "radius": 20.0}
    assert key("t1", BOAT, donors=[donor]) != alone
    assert key("t1", POST, BOAT) != alone
    assert key("t1", {**POST, "active": False}, BOAT) == alone
    assert key("t1", BOAT, {**far, "id": "t2"}) == alone


def test_the_same_area_twice_is_two_touch_ups(touching: Touching) -> None:
    """The first switched off, the second lies on the same things that the first lay on."""
    twin = {**BOAT, "id": "t2"}
    touching.keep(touching.recipe(BOAT, twin))
    touching.made("t1", 1)
    kept = touching.keep(touching.recipe({**BOAT, "active": False}, twin))
    (take,) = touching.made("t2", 1)
    assert take.parts[0]["part"] == "touch-up t2"
    assert [patch.part for patch in touching.keep(kept).edges.patches if patch.part == "touch-up t2"]


def test_one_over_another_sees_it(touching: Touching, tmp_path: Path) -> None:
    again = {**BOAT, "id": "t2", "points": [[255.0, 220.0]], "radius": 10.0}
    _, one = touching.written(touching.recipe(BOAT), tmp_path / "one.png")
    _, two = touching.written(touching.recipe(BOAT, again), tmp_path / "two.png")
    new = np.zeros(one.shape[:2], np.bool_)
    new[195:245, 230:280] = True
    assert np.array_equal(one[~new], two[~new]) and not np.array_equal(one[new], two[new])


def test_donors_steer_a_touch_up(touching: Touching, tmp_path: Path) -> None:
    """Filled only from the sky, a piece of the reeds becomes as bright as it."""
    reeds = {"id": "t1", "points": [[60.0, 260.0]], "radius": 14.0}
    sky = {"id": "d1", "kind": "from here", "points": [[400.0, 40.0]], "radius": 30.0}
    _, free = touching.written(touching.recipe(reeds), tmp_path / "free.png")
    _, steered = touching.written(touching.recipe(reeds, donors=[sky]), tmp_path / "steered.png")
    there = np.s_[254:266, 54:66]
    assert steered[there].mean() > free[there].mean() + 30


def test_areas_keep_lying_on_the_same_things(touching: Touching) -> None:
    """When an angle changes, and in a quarter turn."""
    donor = {"id": "d1", "kind": "not from here", "points": [[300.0, 200.0]], "radius": 20.0}
    kept = touching.keep(touching.recipe(BOAT, donors=[donor]))
    by_hand = kept.correction.by_hand.model_copy(update={"roll": 3.0})
    turned = touching.keep(
        kept.model_copy(update={"correction": kept.correction.model_copy(update={"by_hand": by_hand})})
    )
    before, after = evaluate(kept).warp, evaluate(turned).warp
    for old, new in (
        (kept.edges.touch_ups, turned.edges.touch_ups),
        (kept.edges.donors, turned.edges.donors),
    ):
        on_photo = before.to_photo(np.array(old[0].points))
        assert np.allclose(after.to_photo(np.array(new[0].points)), on_photo, atol=0.01)
        assert not np.allclose(new[0].points, old[0].points, atol=1)
    upright = quarter_turned(kept, clockwise=True)
    x, y = kept.edges.donors[0].points[0]
    assert upright.edges.donors[0].points[0] == (kept.photo.height - y, x)


def test_in_a_frame_with_clear_corners_nothing_empty_is_touched(touching: Touching, tmp_path: Path) -> None:
    corner = {"id": "t1", "points": [[0.0, 0.0], [80.0, 0.0], [0.0, 80.0]]}
    now = get_photo(touching.store, touching.id).recipe.model_dump(mode="json")
    leave = {
        **now,
        "correction": {"by_hand": {"roll": 6.0}},
        "frame": {"rect": [0, 0, now["photo"]["width"], now["photo"]["height"]], "allow_empty": True},
        "edges": {"mode": "leave", "colour": "#ff0000"},
        "export": {"format": "png"},
    }
    _, before = touching.written(build(leave), tmp_path / "before.png")
    with_corner = build({**leave, "edges": {**leave["edges"], "touch_ups": [corner]}})
    _, after = touching.written(with_corner, tmp_path / "after.png")
    red = np.all(before == (255, 0, 0), axis=2)
    assert red.any() and np.array_equal(np.all(after == (255, 0, 0), axis=2), red)


def test_beside_the_frame_and_with_nothing_to_copy_it_says_so(touching: Touching, tmp_path: Path) -> None:
    far = {"id": "t1", "points": [[-900.0, -900.0]], "radius": 5.0}
    done, _ = touching.written(touching.recipe(far), tmp_path / "far.png")
    assert done.filled == 0
    touching.keep(touching.recipe(far))
    (take,) = touching.made("t1", 1)
    assert take.state == "failed" and "outside the frame" in take.words
    with pytest.raises(RecipeError, match="hidden or no longer exists"):
        takes.ask(touching.store, touching.id, [1], "t9")
    small = {"id": "d1", "kind": "from here", "points": [[20.0, 20.0]], "radius": 2.0}
    with pytest.raises(RecipeError, match="leave too little"):
        touching.written(touching.recipe(BOAT, donors=[small]), tmp_path / "small.png")


def test_a_file_of_another_size_shows_the_same_touch_up(touching: Touching, tmp_path: Path) -> None:
    _, whole = touching.written(touching.recipe(POST), tmp_path / "whole.png")
    half = touching.recipe(POST).model_dump(mode="json")
    half["export"] = {"format": "png", "size": [whole.shape[1] // 2, whole.shape[0] // 2]}
    _, small = touching.written(build(half), tmp_path / "half.png")
    expected = np.asarray(
        Image.fromarray(whole).resize((small.shape[1], small.shape[0]), Image.Resampling.BOX)
    )
    difference = np.abs(small.astype(int) - expected)[22:44, 62:88]
    assert difference.mean() < 3


@pytest.mark.parametrize(
    ("edges", "wrong"),
    [
        ({"touch_ups": [{"id": "t1", "points": [[1, 1], [2, 2]]}]}, "three points"),
        ({"touch_ups": [BOAT, BOAT]}, "used twice"),
        ({"touch_ups": [{**BOAT, "amount": 2}]}, "amount"),
        ({"donors": [{"id": "d1", "kind": "there", "points": [[1, 1]], "radius": 4}]}, "kind"),
        ({"strips": 0}, "strips"),
    ],
)
def test_bad_areas_are_refused_by_name(touching: Touching, edges: dict[str, Any], wrong: str) -> None:
    with pytest.raises(RecipeError) as refused:
        touching.recipe(**edges)
    assert wrong in f"{refused.value} {refused.value.field}"
