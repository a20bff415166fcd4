"""Room beyond the picture, reshaping, and a word on which way suits."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from pictures import line, recipe

from sequor.advice.edges import choices, taken, trimmed, widened
from sequor.advice.recommend import suits
from sequor.pipeline.edges.reshape import HURTS
from sequor.pipeline.evaluated import evaluate
from sequor.pipeline.stretching import HurtsFrom
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError, build
from sequor.wording.edges import edges_words
from sequor.wording.finding import finding


def photo(roll: float = 0.0, **parts: Any) -> Recipe:
    """A photo of 3000 x 2000, turned by hand."""
    return build(recipe(3000, 2000, correction={"by_hand": {"roll": roll}}, **parts))


class TestWiden:
    def test_to_a_ratio_all_is_kept_and_the_rest_is_new(self) -> None:
        """3:2 to 16:9: the height stays, and 1 - (3/2)/(16/9) = 15.6% of the frame is new."""
        done = widened(photo(), "16:9", "both", 0.1)
        now = evaluate(done.recipe)
        assert done.action == "Frame: extended to 16:9" and done.words == ""
        assert (now.frame.width, now.frame.height) == (3555, 2000)
        assert now.frame.x == pytest.approx(-277.5) and now.frame.y == 0
        assert now.cost.kept == pytest.approx(1) and now.cost.empty == pytest.approx(
            1 - 1.5 * 9 / 16, abs=1e-3
        )
        assert now.recipe.edges.mode == "fill" and edges_words(now) == "15.6% new"

    @pytest.mark.parametrize(("side", "x"), [("left", -555.0), ("right", 0.0)])
    def test_on_one_side(self, side: Any, x: float) -> None:
        now = evaluate(widened(photo(), "16:9", side, 0.1).recipe)
        assert now.frame.x == pytest.approx(x) and now.frame.width == 3555

    def test_a_taller_ratio_gives_room_above_or_below(self) -> None:
        above = evaluate(widened(photo(), "1:1", "top", 0.1).recipe).frame
        assert (above.y, above.bottom, above.width) == (-1000, 2000, 3000)
        below = evaluate(widened(photo(), "1:1", "bottom", 0.1).recipe).frame
        assert (below.y, below.bottom) == (0, 3000)

    @pytest.mark.parametrize(
        ("ratio", "side", "words"), [("1:1", "left", "taller"), ("16:9", "top", "wider")]
    )
    def test_on_a_side_where_it_does_not_grow_it_is_refused(self, ratio: str, side: Any, words: str) -> None:
        with pytest.raises(RecipeError, match=words):
            widened(photo(), ratio, side, 0.1)

    @pytest.mark.parametrize(
        ("side", "expected"),
        [
            ("both", (-300, 0, 3600, 2000)),
            ("left", (-300, 0, 3300, 2000)),
            ("right", (0, 0, 3300, 2000)),
            ("top", (0, -200, 3000, 2200)),
            ("bottom", (0, 0, 3000, 2200)),
        ],
    )
    def test_by_a_piece(self, side: Any, expected: tuple[int, int, int, int]) -> None:
        done = widened(photo(), None, side, 0.1)
        frame = evaluate(done.recipe).frame
        assert (frame.x, frame.y, frame.width, frame.height) == pytest.approx(expected)
        assert done.recipe.frame.ratio == "free"

    def test_too_much_to_be_believed_is_said(self) -> None:
        done = widened(photo(), None, "right", 0.5)
        assert "33.3% of the frame would be new. More than a quarter rarely looks believable" in done.words
        assert done.words in finding(evaluate(done.recipe))

    def test_what_is_left_stays_left_and_trimming_takes_it_back(self) -> None:
        leave = photo(edges={"mode": "leave", "colour": "#ffffff"})
        assert widened(leave, "16:9", "both", 0.1).recipe.edges.mode == "leave"
        back = evaluate(trimmed(widened(photo(), None, "left", 0.2).recipe).recipe)
        assert back.cost.empty == 0

    def test_of_a_reshaped_picture(self) -> None:
        reshaped = taken(photo(2.0), "reshape").recipe
        now = evaluate(widened(reshaped, "16:9", "both", 0.1).recipe)
        assert now.recipe.edges.mode == "fill" and now.reshaped is None and now.cost.empty > 0.1


class TestReshape:
    def test_nothing_is_cut_and_nothing_empty(self) -> None:
        done = taken(photo(3.0), "reshape")
        now = evaluate(done.recipe)
        assert done.action == "Corners: picture reshaped"
        assert (now.frame.x, now.frame.y, now.frame.width, now.frame.height) == (0, 0, 3000, 2000)
        assert now.cost.kept == pytest.approx(1) and now.cost.empty == 0
        assert now.reshaped is not None and 1.05 < now.reshaped.greatest < 1.3
        assert edges_words(now).startswith("stretched by up to 1")
        assert "Nothing is cut off and no pixels are added" in finding(now) and "Cropped" not in finding(now)

    def test_references_stand_as_they_will_be_exported(self) -> None:
        lines = [
            line("r1", "level", (200, 900), (2800, 1036), sigma_px=0.7),
            line("r2", "plumb", (2000, 300), (1930, 1700), sigma_px=0.7),
        ]
        solved = build(recipe(3000, 2000, references=lines, edges={"mode": "reshape"}))
        found = evaluate(solved).references
        assert abs(found[0].before_deg) > 2.9
        assert all(abs(one.after_deg - one.misfit_deg) < 0.05 for one in found)

    def test_a_frame_made_by_hand_keeps_its_place_there_and_back(self) -> None:
        own = photo(2.0, frame={"ratio": "free", "rect": [900, 600, 1200, 700]})
        there = taken(own, "reshape").recipe
        before, after = evaluate(own), evaluate(there)
        on_photo = before.warp.to_photo(before.frame.centre[None])
        assert np.allclose(after.warp.to_photo(after.frame.centre[None]), on_photo, atol=1.5)
        back = evaluate(taken(there, "trim").recipe)
        assert np.allclose(back.warp.to_photo(back.frame.centre[None]), on_photo, atol=3)

    def test_what_cannot_be_reshaped_is_told_with_the_others(self) -> None:
        found = {one.mode: one for one in choices(photo(44.0))}
        refused = found["reshape"]
        assert (
            refused.stretch is None and refused.refused and "another way with the corners" in refused.refused
        )
        assert found["trim"].refused is None
        with pytest.raises(RecipeError) as error:
            taken(photo(44.0), "reshape")
            evaluate(taken(photo(44.0), "reshape").recipe)
        assert error.value.field == "edges.mode"

    def test_from_where_it_hurts(self) -> None:
        """At the angle that is named the stretch is what hurts, at half of it about half."""
        assert evaluate(photo()).result(HurtsFrom) is None
        angle = evaluate(photo(3.0)).result(HurtsFrom)
        assert angle is not None and 3.5 < angle < 15

        def stretch(degrees: float) -> float:
            reshaped = evaluate(taken(photo(degrees), "reshape").recipe).reshaped
            assert reshaped is not None
            return reshaped.greatest - 1

        assert stretch(angle) == pytest.approx(HURTS, abs=0.03)
        assert stretch(angle / 2) == pytest.approx(HURTS / 2, abs=0.04)
        assert evaluate(photo(-1.5)).result(HurtsFrom) == pytest.approx(angle, rel=0.15)


class TestSuits:
    def word(self, one: Recipe) -> tuple[str, str] | None:
        return suits(evaluate(one), choices(one))

    def test_nothing_turned_needs_no_word(self) -> None:
        assert self.word(photo()) is None
        assert self.word(widened(photo(), "16:9", "both", 0.1).recipe) is None

    def test_little_is_lost(self) -> None:
        found = self.word(photo(0.4))
        assert found is not None and found[0] == "trim" and "only 2" in found[1]

    def test_little_is_new_and_no_line_runs_to_the_edge(self) -> None:
        found = self.word(photo(2.0))
        assert found is not None and found[0] == "fill" and "none of your lines reaches the edge" in found[1]

    def test_lines_run_to_the_edge(self) -> None:
        horizon = line("r1", "level", (5, 900), (2995, 1004), sigma_px=0.5)
        found = self.word(build(recipe(3000, 2000, references=[horizon])))
        assert found is not None and found[0] == "reshape" and "your lines reach the edge" in found[1]

    def test_too_much_for_all_but_trimming(self) -> None:
        found = self.word(photo(12.0))
        assert found is not None and found[0] == "trim" and "would stretch parts by" in found[1]

    def test_room_that_was_given_on_purpose(self) -> None:
        assert self.word(widened(photo(2.0), "16:9", "both", 0.1).recipe) is None
