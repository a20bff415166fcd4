"""Carrying over from one photo to others, and photos that are solved together."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from clients import Importer, Page, Straight, waited
from pictures import horizon_picture, jpeg_bytes, smooth_picture

from sequor.core.rectangle import Rectangle
from sequor.jobs.batches import Batches
from sequor.operations import photos, series
from sequor.operations.carrying import PART_WORDS, Part, Source, carried_over
from sequor.operations.revising import revise
from sequor.operations.series import SeriesRefusedError
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.evolve import evolve
from sequor.recipe.first import first_recipe
from sequor.recipe.model import Recipe
from sequor.recipe.model.lens import LensPart
from sequor.recipe.model.references import ReferencePart
from sequor.store.database import Store
from sequor.wording.words import state

FACTS = {"make": "Invented Optics", "model": "IO-1", "lens": "IO 35", "focal_mm": 35.0}


def plain(width: int = 3000, height: int = 2000) -> Recipe:
    return first_recipe(width, height, "0" * 64, 35.0)


def line(name: str, kind: str, *points: tuple[float, float]) -> ReferencePart:
    return ReferencePart(id=name, kind=kind, points=list(points), sigma_px=1.0)  # type: ignore[arg-type]


def measured(tilt: float, width: int = 3000, height: int = 2000, **changes: Any) -> Recipe:
    """A photo with a horizon and a wall by which it is tilted by so much."""
    down, across = math.radians(tilt), width / 3
    middle = (width / 2, height / 2)
    turned = [(math.cos(down), -math.sin(down)), (math.sin(down), math.cos(down))]
    horizon, wall = (
        [(middle[0] + s * across * x, middle[1] + s * across * y) for s in (-1, 1)] for x, y in turned
    )
    references = [line("r1", "level", *horizon), line("r2", "plumb", *wall)]
    return evolve(plain(width, height), references=references, **changes)


def carried(
    source: Recipe, recipe: Recipe, *parts: Part, facts: dict[str, Any] = FACTS
) -> tuple[Recipe, list[Part], list[str]]:
    return carried_over(Source("Source", FACTS, source), recipe, facts, parts)


def test_lines_patches_and_touch_ups_are_never_carried() -> None:
    source = measured(2.0, edges=evolve(plain().edges, mode="fill", seed=7))
    after, _, _ = carried(source, plain(), *PART_WORDS)
    assert after.references == [] and after.edges.patches == [] and after.edges.touch_ups == []
    assert after.edges.mode == "fill" and after.edges.seed == 1
    assert after.photo == plain().photo


@pytest.mark.parametrize("other", ["lens", "focal_mm", "model"])
def test_a_lens_is_carried_to_the_same_lens_only(other: str) -> None:
    source = evolve(plain(), lens=LensPart(source="manual", k1=-0.05, unit_px=1800.0))
    after, done, notes = carried(source, plain(), "lens")
    assert after.lens == source.lens and done == ["lens"] and notes == []
    after, done, notes = carried(source, plain(), "lens", facts={**FACTS, other: "another"})
    assert after.lens == plain().lens and done == [] and "another lens, focal length" in notes[0]


def test_a_lens_is_scaled_with_the_picture_and_not_carried_to_another_shape() -> None:
    source = evolve(plain(), lens=LensPart(source="manual", k1=-0.05, unit_px=1800.0))
    half = plain(1500, 1000)
    after, done, _ = carried(source, half, "lens")
    assert after.lens.unit_px == 900.0 and done == ["lens"]
    # The same place bends by the same share.
    one, other = (evaluate(recipe).corner_growth for recipe in (source, after))
    assert one == pytest.approx(other, rel=1e-9)
    assert carried(source, plain(1500, 1500), "lens")[1] == []


def test_ratio_amounts_extent_and_export() -> None:
    source = measured(
        2.0,
        frame=evolve(plain().frame, ratio="16:9"),
        correction=evolve(
            plain().correction, free=["roll"], amount=evolve(plain().correction.amount, roll=0.5)
        ),
        export=evolve(plain().export, format="png", size=(600, 338)),
    )
    after, done, notes = carried(source, measured(1.0), "ratio", "extent", "amount", "export")
    assert done == ["ratio", "extent", "amount", "export"] and notes == []
    assert (after.frame.ratio, after.correction.free, after.correction.amount.roll) == ("16:9", ["roll"], 0.5)
    assert after.export.format == "png" and after.export.size.long_edge == 600  # type: ignore[union-attr]
    _, done, notes = carried(source, plain(), "extent")
    assert done == [] and "no lines are drawn" in notes[0]


def test_a_jpeg_and_transparent_corners_exclude_each_other() -> None:
    source = evolve(plain(), export=evolve(plain().export, format="jpeg", quality=70))
    target = evolve(
        measured(5.0), edges=evolve(plain().edges, mode="leave"), export=evolve(plain().export, format="png")
    )
    after, done, notes = carried(source, target, "export")
    assert after == target and done == [] and "cannot hold transparent corners" in notes[0]
    # The other way round: what would not be right is not done, and its reason told.
    source = evolve(
        measured(5.0), edges=evolve(plain().edges, mode="leave"), export=evolve(plain().export, format="png")
    )
    after, done, notes = carried(source, measured(5.0), "edges")
    assert after.edges.mode == "trim" and done == [] and notes[0].startswith("Edges: ")
    after, done, notes = carried(source, measured(5.0), "edges", "export")
    assert (after.edges.mode, after.export.format) == ("leave", "png") and notes == []
    after, done, notes = carried(measured(5.0), source, "edges", "export")
    assert (after.edges.mode, after.export.format) == ("trim", "jpeg") and notes == []


def test_the_attitude_is_carried_where_nothing_speaks_against_it() -> None:
    after, done, _ = carried(measured(2.0), plain(), "attitude")
    assert done == ["attitude"]
    assert evaluate(after).taken_out("roll") == pytest.approx(
        evaluate(measured(2.0)).taken_out("roll"), abs=1e-3
    )
    after, done, _ = carried(measured(2.0), measured(2.02), "attitude")
    assert evaluate(after).taken_out("roll") == pytest.approx(
        evaluate(measured(2.0)).taken_out("roll"), abs=1e-3
    )


def test_photos_that_were_measured_apart_are_of_two_positions() -> None:
    after, done, notes = carried(measured(2.0), measured(4.0), "attitude")
    assert after == measured(4.0) and done == []
    assert notes[0].startswith("Tilt and verticals: measured apart by 2.0")
    turned = evolve(plain(2000, 3000), photo=evolve(plain(2000, 3000).photo, quarter_turns=1))
    assert "rotated another way" in carried(measured(2.0), turned, "attitude")[2][0]


def test_a_crop_is_carried_as_its_share_and_made_smaller_where_it_does_not_fit() -> None:
    frame = evolve(plain().frame, ratio="3:2", rect=(300.0, 200.0, 1500, 1000))
    source = evolve(plain(), frame=frame)
    after, done, notes = carried(source, plain(1500, 1000), "frame")
    assert done == ["frame"] and notes == [] and after.frame.rect == (150.0, 100.0, 750, 500)
    large = evolve(plain(), frame=evolve(frame, rect=(0.0, 0.0, 3000, 2000)))
    after, _, notes = carried(large, measured(5.0), "frame")
    assert "made smaller by" in notes[0]
    found = evaluate(after)
    assert found.frame.width / found.frame.height == pytest.approx(1.5, abs=2e-3)
    assert found.cost.empty == pytest.approx(0, abs=1e-6)
    assert Rectangle(0, 0, 3000, 2000).contains(found.frame)


def test_a_batch_carries_to_each_and_tells_what_was_not(store: Store, bring: Importer) -> None:
    numbers = [bring(jpeg_bytes(smooth_picture(300 + 30 * n, 200))).photo_id for n in range(3)]
    now = photos.get_photo(store, numbers[0])
    revise(
        store,
        numbers[0],
        now.photo.changes,
        evolve(now.recipe, frame=evolve(now.recipe.frame, ratio="1:1")),
        "Square",
    )
    batches = Batches(store, Straight(store), None)
    batch = batches.carry(numbers[0], numbers, ["ratio", "lens", "extent"])
    waited(lambda: not batches.standing(batch.id).working)
    standing = batches.standing(batch.id)
    assert standing.total == 2 and standing.changed == 2
    assert all("no lines are drawn" in one.words and not one.failed for one in standing.told)
    assert [photos.get_photo(store, number).recipe.frame.ratio for number in numbers] == ["1:1"] * 3
    assert photos.get_photo(store, numbers[1]).revision.action == "Carried over from “Photo”: aspect ratio"


@pytest.fixture
def tripod(store: Store, bring: Importer) -> list[int]:
    """Photos of one camera position, each with lines of its own; the last with none."""
    rng = np.random.default_rng(1)
    found = []
    for number in range(5):
        photo = bring(jpeg_bytes(horizon_picture(900, 600, 0.2 * number))).photo_id
        found.append(photo)
        if number == 4:
            continue
        now = photos.get_photo(store, photo)
        references = measured(2.0 + rng.normal(0, 0.05), 900, 600).references
        revise(store, photo, now.photo.changes, evolve(now.recipe, references=references), "Lines")
    return found


def test_photos_of_one_tripod_position_are_solved_together(store: Store, tripod: list[int]) -> None:
    alone = evaluate(photos.get_photo(store, tripod[0]).recipe).solution.sd["roll"]
    found = series.series_of(store, tripod, "attitude")
    assert found.told == tuple(tripod[:4]) and not found.refused and found.odd is None
    assert "4 photos: tilted 2.0" in found.words[0] and "would have been seen" in found.words[-1]
    batches = Batches(store, Straight(store), None)
    batch = batches.share(tripod, "attitude")
    waited(lambda: not batches.standing(batch.id).working)
    assert batches.standing(batch.id).changed == 5
    for number in tripod:
        after = evaluate(photos.get_photo(store, number).recipe)
        assert after.solution.attitude.roll == pytest.approx(2.0, abs=0.15)
        assert alone is not None and 0 < (after.solution.sd["roll"] or 9) < alone
    # Also the one without a line of its own, and it says so.
    last = evaluate(photos.get_photo(store, tripod[4]).recipe)
    assert state(last) in ("level", "verticals straight")
    batches.undo(batch.id)
    waited(lambda: batches.undoing(batch.id) is not None and batches.undoing(batch.id).state == "done")  # type: ignore[union-attr]
    assert photos.get_photo(store, tripod[4]).revision.state == "not measured"


def test_a_line_that_is_drawn_afterwards_ends_it(store: Store, tripod: list[int], own_page: Page) -> None:
    batches = Batches(store, Straight(store), None)
    batch = batches.share(tripod, "attitude")
    waited(lambda: not batches.standing(batch.id).working)
    assert (
        "Found together with"
        in own_page("GET", f"/api/photos/{tripod[0]}").get_json()["evaluation"]["finding"]
    )
    now = photos.get_photo(store, tripod[0])
    drawn = {"do": "lay", "line": "r9", "kind": "level", "points": [[100, 300], [800, 280]]}
    own_page("POST", f"/api/photos/{tripod[0]}/revise", now.photo.changes, json=drawn)
    assert photos.get_photo(store, tripod[0]).recipe.correction.series is None


def test_what_does_not_belong_is_named_and_nothing_is_done(
    store: Store, tripod: list[int], own_page: Page
) -> None:
    now = photos.get_photo(store, tripod[2])
    other = evolve(now.recipe, references=measured(6.0, 900, 600).references)
    revise(
        store,
        tripod[2],
        now.photo.changes,
        evolve(other, correction=evolve(other.correction, roll=None, pitch=None, yaw=None)),
        "Moved",
    )
    told = own_page("POST", "/api/series", json={"photos": tripod, "what": "attitude"}).get_json()
    assert (
        told["refused"] and told["odd"] == tripod[2] and "does not belong to the others" in told["words"][0]
    )
    answer = own_page("POST", "/api/batches/series", json={"photos": tripod, "what": "attitude"})
    assert answer.status_code == 409 and "do not share it" in answer.get_json()["detail"]
    rest = [one for one in tripod if one != tripod[2]]
    assert not own_page("POST", "/api/series", json={"photos": rest, "what": "attitude"}).get_json()[
        "refused"
    ]


def test_too_little_or_unlike_is_refused(store: Store, bring: Importer, tripod: list[int]) -> None:
    other = bring(jpeg_bytes(smooth_picture(300, 200))).photo_id
    with pytest.raises(SeriesRefusedError, match="another size"):
        series.series_of(store, [tripod[0], other], "attitude")
    assert series.series_of(store, [tripod[0], tripod[4]], "attitude").refused
    found = series.series_of(store, tripod, "lens")
    assert found.refused and "need straight edges" in found.words[0]
    with pytest.raises(SeriesRefusedError, match="Up to 200"):
        series.series_of(store, list(range(1, 202)), "attitude")


def test_a_lens_that_others_told_is_known_as_well_as_they_told_it() -> None:
    """Between an unknown lens and one that is known exactly."""
    references = [line("r1", "level", (200, 300), (2800, 320)), line("r2", "plumb", (300, 200), (310, 1800))]
    first = evolve(plain(), references=references)
    shared = evolve(first, lens=LensPart(source="manual", k1=-0.02, k1_sd=0.01))
    known = evolve(first, lens=LensPart(source="manual", k1=-0.02))
    sds = [evaluate(one).solution.sd["roll"] or 0.0 for one in (known, shared, first)]
    assert sds[0] < sds[1] < sds[2]
