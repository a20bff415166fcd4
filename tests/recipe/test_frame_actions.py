"""What can be done to the frame, what each way costs, and what the recipe lets in about frames and prints."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pictures import line, recipe

from sequor.advice import frame_actions
from sequor.advice.framing_options import CostRow, cost_rows
from sequor.core.frame.largest import holds
from sequor.core.frame.ratio import GOLDEN
from sequor.core.rectangle import Rectangle
from sequor.pipeline.evaluated import evaluate
from sequor.pipeline.frame import with_size_of
from sequor.pipeline.output import output_size
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError, build
from sequor.wording.finding import finding
from sequor.wording.frame import cut_words, frame_words

RISE = 2800 * np.tan(np.deg2rad(2.3))
HORIZON = line("r1", "level", (100, 900), (2900, 900 - RISE))
WALLS = (line("r2", "plumb", (700, 1500), (760, 400)), line("r3", "plumb", (2300, 1500), (2210, 400)))
BENT = {"lens": {"source": "manual", "k1": -0.06}}


def turned(frame: dict[str, Any] | None = None, **parts: Any) -> Recipe:
    return build(recipe(references=[HORIZON], frame=frame or {}, **parts))


def rect(of: Recipe) -> Rectangle:
    return evaluate(of).frame


@pytest.mark.parametrize("parts", [{}, BENT])
@pytest.mark.parametrize("ratio", ["1:1", "16:9", "1:sqrt2", "golden:1", "13.6:9.9", "free"])
def test_another_ratio_of_the_largest_frame_is_the_largest(ratio: str, parts: dict[str, Any]) -> None:
    framed = frame_actions.with_ratio(turned(**parts), ratio)
    now = evaluate(framed.recipe)
    assert framed.recipe.frame.rect is None and framed.action.startswith("Aspect ratio: ")
    assert holds(now.warp.outline(), now.frame)
    if ratio == "free":
        assert now.cost.kept > evaluate(turned(**parts)).cost.kept
        return
    wide, high = {"golden:1": (GOLDEN, 1), "1:sqrt2": (1, math.sqrt(2))}.get(ratio) or map(
        float, ratio.split(":")
    )
    assert now.frame.width == pytest.approx(now.frame.height * wide / high, abs=1.5)


def test_another_ratio_keeps_what_is_shown() -> None:
    """A small frame of 3:2 becomes a square that shows all of it; one that has no room shows as much as there is."""
    small = turned({"rect": [1200, 800, 600, 400]})
    square = rect(frame_actions.with_ratio(small, "1:1").recipe)
    assert square.contains(Rectangle(1200, 800, 600, 400), 1) and square.width == pytest.approx(600, abs=1)
    wide = rect(frame_actions.with_ratio(turned({"rect": [200, 200, 2400, 1600]}), "1:1").recipe)
    now = evaluate(turned({"ratio": "1:1"}))
    assert wide.width == pytest.approx(now.frame.width, abs=1)


def test_another_ratio_keeps_the_subject() -> None:
    """At the far left the subject is not in the middle square; the square moves to it."""
    marked = turned({"subject": [150, 900, 200, 200]})
    framed = frame_actions.with_ratio(marked, "1:1")
    assert evaluate(framed.recipe).subject_inside is True
    assert evaluate(turned({"subject": [150, 900, 200, 200], "ratio": "1:1"})).subject_inside is False
    assert rect(framed.recipe).width == pytest.approx(rect(turned({"ratio": "1:1"})).width, abs=1)
    long = frame_actions.with_ratio(turned({"subject": [100, 900, 2800, 100]}), "1:2")
    assert long.words == "At this aspect ratio part of the subject is cut off."


def test_upright_and_back() -> None:
    upright = frame_actions.swapped(turned())
    assert (upright.recipe.frame.ratio, upright.action) == ("2:3", "Orientation: portrait")
    assert rect(upright.recipe).height > rect(upright.recipe).width
    back = frame_actions.swapped(upright.recipe)
    assert (back.recipe.frame.ratio, back.action) == ("original", "Orientation: landscape")
    free = frame_actions.swapped(turned({"ratio": "free", "rect": [1000, 700, 900, 500]}))
    assert (rect(free.recipe).width, rect(free.recipe).height) == (500, 900)


def test_about_the_subject_and_centred() -> None:
    marked = turned({"subject": [300, 300, 250, 100], "rect": [1500, 900, 300, 200]})
    around = frame_actions.around_subject(marked).recipe
    assert evaluate(around).subject_inside is True
    assert rect(around).width > 2000
    centred = frame_actions.centred(marked).recipe
    assert rect(centred).centre == pytest.approx([1500, 1000])
    with pytest.raises(RecipeError, match="Mark the subject first"):
        frame_actions.around_subject(turned())
    with pytest.raises(RecipeError, match="no frame holds the whole subject"):
        frame_actions.around_subject(turned({"subject": [50, 900, 2900, 20], "ratio": "1:2"}))


@pytest.mark.parametrize("parts", [{}, BENT])
def test_the_subject_on_a_third(parts: dict[str, Any]) -> None:
    marked = turned({"subject": [2000, 1200]}, **parts)
    framed = frame_actions.placed(marked, "subject", [], 2 / 3, 2 / 3)
    now = evaluate(framed.recipe)
    assert framed.done and framed.action == "Subject: on the right and lower thirds"
    assert now.subject is not None
    assert now.frame.at(2 / 3, 2 / 3) == pytest.approx(now.subject.centre, abs=1.0)
    assert now.frame.width == pytest.approx(now.frame.height * 1.5, abs=1.5)
    assert holds(now.warp.outline(), now.frame)


def test_equal_margins() -> None:
    framed = frame_actions.placed(turned({"subject": [700, 900, 300, 200]}), "subject", [], 0.5, None)
    now = evaluate(framed.recipe)
    assert framed.action == "Subject: centred left to right"
    assert now.subject is not None
    assert now.subject.x - now.frame.x == pytest.approx(now.frame.right - now.subject.right, abs=1.0)


def test_a_horizon_and_the_middle_between_walls_on_lines() -> None:
    two = build(recipe(references=[HORIZON, *WALLS]))
    low = frame_actions.placed(two, "level", ["r1"], None, 1 / 3)
    now = evaluate(low.recipe)
    there = now.warp.to_corrected(np.array(HORIZON["points"], float))[:, 1].mean()
    assert now.frame.y + now.frame.height / 3 == pytest.approx(there, abs=1.0)
    assert low.action == "Horizon: on the upper third"
    between = frame_actions.placed(two, "plumb", ["r2", "r3"], 0.5, None)
    now = evaluate(between.recipe)
    walls = [now.warp.to_corrected(np.array(one["points"], float))[:, 0].mean() for one in WALLS]
    assert now.frame.centre[0] == pytest.approx(np.mean(walls), abs=1.0)
    for what, lines, across, down in (
        ("level", ["r2"], None, 0.5),
        ("plumb", ["r2", "r2"], 0.5, None),
        ("plumb", ["r2", "r9"], 0.5, None),
    ):
        with pytest.raises(RecipeError, match="Choose"):
            frame_actions.placed(two, what, lines, across, down)
    with pytest.raises(RecipeError, match="cannot be placed"):
        frame_actions.placed(two, "level", ["r1"], 0.5, None)


def test_what_cannot_be_placed_comes_with_its_reason_and_the_nearest() -> None:
    marked = turned({"subject": [200, 900, 2500, 150]})
    framed = frame_actions.placed(marked, "subject", [], 0.2, None)
    assert not framed.done and framed.words.startswith(
        "This cannot be done exactly: the whole subject must stay in the frame."
    )
    assert framed.action.endswith("nearest possible")
    now = evaluate(framed.recipe)
    assert now.subject_inside is True and holds(now.warp.outline(), now.frame)


def test_shrinking_is_told() -> None:
    framed = frame_actions.placed(turned({"subject": [400, 400]}), "subject", [], 2 / 3, 2 / 3)
    assert (
        framed.done
        and framed.words.startswith("The frame was reduced to ")
        and "the picture ends at" in framed.words
    )


def test_permission_for_empty_corners() -> None:
    allowed = frame_actions.with_empty(turned(), True).recipe
    wide = build(
        {**allowed.model_dump(mode="json"), "frame": {"allow_empty": True, "rect": [0, 0, 3000, 2000]}}
    )
    assert evaluate(wide).cost.empty == pytest.approx(0.021, abs=5e-4)
    assert "2.1% of the frame is empty and will be white" in finding(evaluate(wide))
    back = evaluate(frame_actions.with_empty(wide, False).recipe)
    assert back.cost.empty == pytest.approx(0, abs=1e-6)
    assert (back.frame.width, back.frame.height) == (2831, 1887)
    with pytest.raises(RecipeError, match="covers empty area"):
        evaluate(turned({"rect": [0, 0, 3000, 2000]}))


def test_the_shape_of_the_paper() -> None:
    printed = turned({"print": {"paper": [10, 8], "unit": "in", "border": 0.5}})
    framed = frame_actions.paper_shape(printed)
    assert framed.recipe.frame.ratio == "9:7" and framed.action == "Aspect ratio: as 10 × 8 inch"
    assert cut_words(evaluate(framed.recipe).printed, evaluate(framed.recipe)) == ""
    with pytest.raises(RecipeError, match="Choose a paper size first"):
        frame_actions.paper_shape(turned())


def test_what_a_printer_cuts_is_told() -> None:
    now = evaluate(turned({"print": {"paper": [10, 8], "unit": "in"}, "subject": [180, 900, 100, 100]}))
    assert "10 × 8 inch: 236 ppi." in finding(now)
    assert (
        "Filling the sheet cuts off 16.7% of the picture: 1.0 inch on the left and right, and part of the subject."
        in finding(now)
    )
    coarse = evaluate(turned({"print": {"paper": [420, 594]}}))
    assert "A2: 114 ppi, below 180 ppi it looks soft." in finding(coarse)
    assert frame_words(now) == "3:2 · keeps 89.1%"


@pytest.mark.parametrize(
    ("size", "frame", "expected"),
    [
        (None, {}, (2831, 1887)),
        ("print", {"print": {"paper": [15, 10], "unit": "cm"}}, (1772, 1181)),
        ("print", {"print": {"paper": [6, 4], "unit": "in", "ppi": 200}}, (1200, 800)),
        ([1200, 800], {}, (1200, 800)),
    ],
)
def test_the_size_that_is_written(size: Any, frame: dict[str, Any], expected: tuple[int, int]) -> None:
    wanted = turned(frame, export={"size": size})
    assert output_size(wanted, rect(wanted)) == expected


@pytest.mark.parametrize("size", ["print", [1200, 900], [65000, 43333]])
def test_sizes_that_do_not_belong_are_refused(size: Any) -> None:
    wanted = turned(export={"size": size})
    with pytest.raises(RecipeError) as refused:
        output_size(wanted, rect(turned()))
    assert refused.value.field == "export.size"


def test_a_typed_size_follows_the_ratio() -> None:
    square = turned({"ratio": "1:1"}, export={"size": [1200, 800]})
    assert with_size_of(square, rect(square)).export.size == (1200, 1200)
    assert with_size_of(turned(), rect(turned())).export.size is None


def row(rows: list[CostRow], turn: str, edges: str) -> CostRow:
    return next(one for one in rows if (one.turn, one.edges) == (turn, edges))


def test_the_cost_of_each_way() -> None:
    """docs/geometry.md, the frame, at 2.30 degrees of 3000 x 2000: trimmed 89.1%; of the photo's own size 97.9% with 2.1%
    empty; with nothing cut 100% on 3077 x 2118 with 8.0% empty. The free shape by its closed form: 2926 x 1884."""
    rows = cost_rows(turned())
    assert {one.turn for one in rows} == {"Tilt only"}
    trim, free, same, nothing = rows
    assert (round(100 * trim.kept, 1), trim.empty, trim.width, trim.height) == (89.1, 0, 2831, 1887)
    assert (free.width, free.height) == (2926, 1884) and free.kept > trim.kept
    assert (round(100 * same.kept, 1), round(100 * same.empty, 1)) == (97.9, 2.1)
    assert (same.width, same.height) == (3000, 2000)
    # In whole pixels; the exact figure is checked with the frame's geometry.
    assert (nothing.kept, 100 * nothing.empty) == (pytest.approx(1, abs=2e-3), pytest.approx(8.0, abs=0.1))
    assert (nothing.width, nothing.height) == (3077, 2118)
    assert [one.chosen for one in rows] == [True, False, False, False]


def test_only_turns_that_the_lines_determine() -> None:
    """Walls alone tell roll and pitch; with a level line along the front of the house yaw too."""
    walls = build(recipe(references=[*WALLS], correction={"free": ["roll", "pitch"]}))
    rows = cost_rows(walls)
    assert [one.turn for one in rows[::4]] == ["Tilt only", "Verticals too"]
    front = build(recipe(references=[HORIZON, *WALLS], correction={"free": ["roll", "pitch"]}))
    assert [one.turn for one in cost_rows(front)[::4]] == ["Tilt only", "Verticals too", "Square-on"]
    assert row(rows, "Verticals too", "trim").chosen and not row(rows, "Tilt only", "trim").chosen
    assert {one.turn for one in cost_rows(build(recipe()))} == {"As taken"}
    by_hand = build(recipe(correction={"free": ["roll"], "by_hand": {"roll": 3}}))
    assert {one.turn for one in cost_rows(by_hand)} == {"Corrected by hand"}


@pytest.mark.parametrize(
    "parts", [{}, BENT, {"frame": {"ratio": "free"}}, {"frame": {"ratio": "1:1", "subject": [150, 900]}}]
)
def test_every_way_leads_to_what_it_says(parts: dict[str, Any]) -> None:
    lines = [HORIZON, *WALLS]
    for one in cost_rows(build(recipe(references=lines, correction={"free": ["roll", "pitch"]}, **parts))):
        there = evaluate(one.recipe)
        assert (round(there.frame.width), round(there.frame.height)) == (one.width, one.height), one.label
        assert there.cost.kept == pytest.approx(one.kept, abs=2e-3)
        assert there.cost.empty == pytest.approx(one.empty, abs=2e-3)
        assert (one.loss == "cuts into the subject") == (there.subject_inside is False)


@given(
    st.floats(-20, 20),
    st.sampled_from(["original", "1:1", "2:1", "1:golden", "7:5"]),
    st.floats(0.1, 0.9),
    st.floats(0.1, 0.9),
)
def test_whatever_is_done_the_frame_stays_valid(roll: float, ratio: str, across: float, down: float) -> None:
    by_hand = build(
        recipe(
            correction={"free": ["roll"], "by_hand": {"roll": roll}},
            frame={"ratio": ratio, "subject": [across * 3000, down * 2000]},
        )
    )
    for framed in (
        frame_actions.around_subject(by_hand),
        frame_actions.centred(by_hand),
        frame_actions.placed(by_hand, "subject", [], 1 / 3, 2 / 3),
        frame_actions.swapped(by_hand),
    ):
        now = evaluate(framed.recipe)
        assert holds(now.warp.outline(), now.frame)
