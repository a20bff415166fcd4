"""What wide views, fisheyes and wishes make of a recipe, and what is refused of them."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from pictures import line, recipe
from pydantic import TypeAdapter

from sequor.actions.base import Action, no_takes
from sequor.actions.registry import AnyAction
from sequor.actions.view import corner_growth
from sequor.advice.made import Made
from sequor.advice.views import view_rows
from sequor.pipeline.address import warp_document
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.pipeline.new_pixels import Ground
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError, build
from sequor.recipe.quarter_turn import quarter_turned
from sequor.recipe.reset import reset
from sequor.wording.finding import finding

READ: TypeAdapter[Action] = TypeAdapter(AnyAction)
EAVES = line("r1", "level", (100, 150), (800, 170))
WALL = line("r2", "plumb", (820, 80), (800, 520))
CHECK = line("r3", "witness", (300, 300), (500, 330))
DOOR = line("r4", "rectangle", (400, 300), (520, 300), (520, 480), (400, 480))
WIDE = build(recipe(900, 600, references=[EAVES, WALL, CHECK]) | {"lens": {"source": "manual", "k1": -0.01}})
SHORT = evolve(WIDE, photo=evolve(WIDE.photo, focal_35mm=16.0))

MADE_BEFORE = "5cd1d5150040e583292786539230aa9ffa15158ff4317b1541cec9222a298571"
"""What takes of a filled flat picture were made for before there were wide views."""


def done(before: Recipe, **asked: Any) -> Made:
    return READ.validate_python(asked).apply(before, no_takes)


def after(before: Recipe, **asked: Any) -> Recipe:
    return done(before, **asked).recipe


class TestViews:
    @pytest.mark.parametrize("kind", ["round", "sideways"])
    def test_a_round_view_begins_natural(self, kind: str) -> None:
        made = after(SHORT, do="view", kind=kind)
        assert (made.view.kind, made.view.looks_like_35mm) == (kind, 35.0)
        assert after(made, do="view", kind="flat").view.looks_like_35mm == 35.0

    def test_a_longer_lens_begins_longer(self) -> None:
        long = evolve(SHORT, photo=evolve(SHORT.photo, focal_35mm=50.0))
        assert after(long, do="view", kind="round").view.looks_like_35mm == pytest.approx(75.0)

    def test_how_wide_it_looks_makes_it_round(self) -> None:
        made = done(SHORT, do="looks like", mm=50)
        assert (made.recipe.view.kind, made.action) == ("round", "View: looks like 50 mm")
        assert done(made.recipe, do="looks like", mm=None).action == "View: as taken"

    def test_what_each_way_costs(self) -> None:
        flat, rounded, sideways = view_rows(after(SHORT, do="view", kind="round"))
        assert [row.chosen for row in (flat, rounded, sideways)] == [False, True, False]
        assert flat.drawn_out is not None and rounded.drawn_out is not None
        assert flat.drawn_out > 1.4 > rounded.drawn_out
        assert flat.bend is not None and flat.bend < 1e-9
        assert rounded.bend is not None and rounded.bend > 0.005

    def test_a_reshape_of_a_round_view_is_refused_in_words(self) -> None:
        made = after(after(SHORT, do="view", kind="round"), do="edges", mode="reshape")
        with pytest.raises(RecipeError, match="flat picture only") as refused:
            evaluate(made)
        assert refused.value.field == "edges.mode"

    def test_a_border_kept_a_rectangle_keeps_all(self) -> None:
        made = after(after(SHORT, do="view", kind="round"), do="border", border="rectangle")
        assert evaluate(made).cost.kept > 0.99
        assert evaluate(after(made, do="border", border="free")).cost.kept < 0.9


class TestWishes:
    def test_a_line_becomes_what_was_asked_and_is_let_go(self) -> None:
        made = done(SHORT, do="wish", line="r2", way="upright", off_deg=-1)
        become = made.recipe.references[1].become
        assert become is not None and (become.way, become.off_deg) == ("upright", -1)
        assert made.action == "Line 2: made upright, −1.0°"
        result = evaluate(made.recipe).references[1]
        assert result.after_deg == pytest.approx(-1.0, abs=0.01)
        assert done(made.recipe, do="wish", line="r2", way=None).recipe == SHORT

    def test_all_become_what_their_kinds_say(self) -> None:
        laid = evolve(SHORT, references=[*SHORT.references, DOOR])
        made = after(laid, do="wish all", on=True)
        ways = [one.become and one.become.way for one in made.references]
        assert ways == ["level", "upright", None, "level"]
        assert after(made, do="wish all", on=False) == laid

    def test_a_rectangle_becomes_square(self) -> None:
        laid = after(evolve(SHORT, references=[DOOR]), do="view", kind="round")
        squared = after(laid, do="wish", line="r4", way="level")
        warp = evaluate(squared).warp
        corners = warp.to_corrected(np.array(DOOR["points"], float))
        sides = np.roll(corners, -1, axis=0) - corners
        assert np.abs(sides[[0, 2], 1]).max() < 0.1
        assert np.abs(sides[[1, 3], 0]).max() < 0.1

    def test_a_check_line_becomes_nothing(self) -> None:
        with pytest.raises(RecipeError, match="only reports"):
            done(SHORT, do="wish", line="r3", way="level")

    def test_a_line_of_another_kind_becomes_what_that_says(self) -> None:
        made = after(after(SHORT, do="wish", line="r2", way="upright"), do="kind", line="r2", kind="level")
        become = made.references[1].become
        assert become is not None and become.way == "level"
        assert after(made, do="kind", line="r2", kind="witness").references[1].become is None

    def test_how_far_they_are_carried_out(self) -> None:
        made = done(after(SHORT, do="wish all", on=True), do="carry out", amount=0.5)
        assert (made.recipe.bend.amount, made.action) == (0.5, "Lines: straightened to 50%")
        nothing = after(made.recipe, do="carry out", amount=0)
        plain = evaluate(SHORT).warp.to_corrected(np.array([[100.0, 100.0], [800.0, 500.0]]))
        left = evaluate(nothing).warp.to_corrected(np.array([[100.0, 100.0], [800.0, 500.0]]))
        assert np.abs(plain - left).max() < 0.05

    def test_a_wish_that_folds_is_told(self) -> None:
        laid = after(after(SHORT, do="wish", line="r1", way="upright"), do="wish", line="r2", way="upright")
        assert "Line 1 goes to" in finding(evaluate(laid))

    def test_a_switched_off_line_asks_for_nothing(self) -> None:
        made = after(
            after(SHORT, do="wish", line="r1", way="upright"), do="switch line", line="r1", active=False
        )
        assert evaluate(made).wide is None


class TestFisheyes:
    def test_by_what_the_camera_recorded_or_half_a_circle(self) -> None:
        photo = SHORT.photo
        diagonal = float(np.hypot(photo.width, photo.height))
        made = after(SHORT, do="fisheye", law="equisolid")
        assert made.lens.focal_px == pytest.approx(16 * diagonal / 43.27, abs=0.01)
        unknown = evolve(SHORT, photo=evolve(photo, focal_35mm=None))
        guessed = after(unknown, do="fisheye", law="equisolid").lens.focal_px
        assert guessed == pytest.approx(diagonal / 2 / corner_growth("equisolid"), abs=0.01)
        assert after(made, do="fisheye", law="stereographic").lens.focal_px == made.lens.focal_px

    def test_its_focal_length_is_not_found_from_lines(self) -> None:
        fish = after(SHORT, do="fisheye", law="equisolid")
        with pytest.raises(RecipeError, match="not found from lines"):
            evaluate(after(fish, do="focal length", free=True))

    def test_the_hands_own_term_is_none_of_its_terms(self) -> None:
        """What is remembered of work by hand is not the fisheye's."""
        fish = after(after(SHORT, do="bend", percent=3), do="fisheye", law="kannala-brandt")
        assert after(fish, do="lens", source="manual").lens.k1 == 0
        assert after(fish, do="lens", source="none").lens.focal_px is None


def test_a_quarter_turn_upends_wishes() -> None:
    made = after(SHORT, do="wish", line="r2", way="upright", off_deg=1.5)
    turned = quarter_turned(made, clockwise=True)
    become = turned.references[1].become
    assert become is not None and (become.way, become.off_deg) == ("level", 1.5)
    assert quarter_turned(turned, clockwise=False).references[1].become == made.references[1].become
    straight = evaluate(turned).references[1]
    assert straight.after_deg == pytest.approx(1.5, abs=0.01)


@pytest.mark.parametrize("step", ["lens", None])
def test_a_reset_takes_the_view_back(step: Any) -> None:
    made = after(after(SHORT, do="wish all", on=True), do="view", kind="round")
    first = evolve(SHORT, references=[])
    back = reset(made, first, step)
    assert back.view == first.view
    assert not any(one.become for one in back.references)


def test_a_tiles_address_holds_the_whole_wide_map() -> None:
    """The document of the map gives the same map, with what was solved in it."""
    made = after(after(SHORT, do="wish all", on=True), do="view", kind="round")
    seen = evaluate(made)
    again = Evaluated(build(warp_document(seen)))
    points = np.random.default_rng(1).uniform([5, 5], [895, 595], (50, 2))
    assert np.abs(again.warp.to_corrected(points) - seen.warp.to_corrected(points)).max() < 1e-6


def test_what_was_made_before_wide_views_is_not_stale(monkeypatch: pytest.MonkeyPatch) -> None:
    """Takes of a flat picture are named as ever by the same way of filling: what nobody asked for changes no
    hash."""
    monkeypatch.setattr(Ground, "version", 1)
    plain = build(recipe(900, 600, references=[EAVES], edges={"mode": "fill"}))
    assert evaluate(plain).made_for[""] == MADE_BEFORE
