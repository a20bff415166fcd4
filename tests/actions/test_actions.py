"""What every action makes of a recipe, and what it is called in the log."""

from __future__ import annotations

import typing
from typing import Any

import pytest
from pictures import line, recipe
from pydantic import TypeAdapter, ValidationError

from sequor.actions.base import Action, no_takes
from sequor.actions.registry import AnyAction
from sequor.advice.made import Made
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.model import Recipe
from sequor.recipe.model.edges import PatchPart
from sequor.recipe.parse import RecipeError, build

READ: TypeAdapter[Action] = TypeAdapter(AnyAction)
PLAIN = build(recipe(300, 200))
HORIZON = line("r1", "level", (10, 100), (290, 110))
WALL = line("r2", "plumb", (40, 10), (50, 190))
LAID = build(recipe(300, 200, references=[HORIZON, WALL]))
SHA = "c" * 64
CALLED = {"level": "horizontal", "plumb": "vertical"}


def done(before: Recipe, **asked: Any) -> Made:
    return READ.validate_python(asked).apply(before, no_takes)


def after(before: Recipe, **asked: Any) -> Recipe:
    return done(before, **asked).recipe


class TestLines:
    @pytest.mark.parametrize(
        ("to", "kind"), [((100.0, 40.0), "level"), ((40.0, -100.0), "plumb"), ((-90.0, 89.0), "level")]
    )
    def test_a_kind_is_taken_by_the_slope(self, to: tuple[float, float], kind: str) -> None:
        made = done(PLAIN, do="lay", line="r1", kind="slope", points=[(0, 0), to])
        assert made.recipe.references[0].kind == kind
        assert made.action == f"Line 1: drawn, {CALLED[kind]}"

    def test_a_chosen_kind_stays_whatever_the_slope(self) -> None:
        laid = after(PLAIN, do="lay", line="r1", kind="plumb", points=[(0, 0), (100, 40)])
        assert laid.references[0].kind == "plumb"

    def test_a_new_line_opens_what_was_solved_and_is_rounded(self) -> None:
        solved = build(recipe(300, 200, correction={"roll": 2.3, "pitch": 0, "yaw": 0}))
        laid = after(solved, do="lay", line="r7", kind="level", points=[(1.2345, 2), (90, 3)], scale=2)
        assert laid.references[0].points == [(1.23, 2.0), (90.0, 3.0)]
        assert laid.correction.roll is None and solved.correction.roll == 2.3

    @pytest.mark.parametrize(
        ("by", "scale", "sigma"),
        [
            ("mouse", 0.25, 4.0),
            ("pen", 0.5, 2.0),
            ("touch", 0.5, 6.0),
            ("mouse", 20, 0.2),
            ("keys", 0.1, 0.5),
        ],
    )
    def test_how_well_a_point_is_known(self, by: str, scale: float, sigma: float) -> None:
        """1 CSS px for a mouse, 3 for a finger, half a photo pixel by keys, never under 0.2 (geometry.md)."""
        ends = [(0, 0), (90, 3)]
        laid = after(PLAIN, do="lay", line="r1", kind="level", points=ends, by=by, scale=scale)
        assert laid.references[0].sigma_px == sigma
        moved = after(laid, do="move", line="r1", points=ends, by=by, scale=scale)
        assert moved.references[0].sigma_px == sigma

    def test_an_id_is_used_once(self) -> None:
        with pytest.raises(RecipeError, match="'r1' is used twice"):
            done(LAID, do="lay", line="r1", kind="level", points=[(0, 0), (9, 9)])

    def test_a_rectangle_is_laid_in_any_order_and_frees_all_angles(self) -> None:
        corners = [(90, 10), (10, 12), (12, 70), (88, 72)]
        made = done(PLAIN, do="lay", line="r1", kind="rectangle", points=corners)
        assert made.recipe.references[0].points == [(10, 12), (90, 10), (88, 72), (12, 70)]
        assert made.recipe.correction.free == ["roll", "pitch", "yaw"]
        with pytest.raises(RecipeError, match="none of them points inwards"):
            done(made.recipe, do="move", line="r1", points=[(80, 60), (90, 10), (88, 72), (12, 70)])

    def test_only_what_has_an_edge_is_snapped(self) -> None:
        ends: dict[str, Any] = {"do": "lay", "line": "r3", "snap": True}
        assert done(LAID, **ends, kind="level", points=[(0, 0), (90, 3)]).snap == ("r3",)
        assert done(LAID, **ends, kind="straight", points=[(0, 0), (45, 3), (90, 3)]).snap == ()
        assert done(LAID, do="snap", line="r2").snap == ("r2",)
        assert done(LAID, do="move", line="r1", points=[(0, 0), (90, 3)]).snap == ()

    def test_a_kind_changes_with_points_group_and_shape(self) -> None:
        def become(before: Recipe, kind: str) -> Any:
            return after(before, do="kind", line="r1", kind=kind, group="2").references[0]

        level = build(recipe(300, 200, references=[line("r1", "level", (10, 10), (90, 20))]))
        receding = become(level, "receding")
        assert (receding.group, receding.points) == ("2", [(10, 10), (90, 20)])
        assert become(level, "straight").points == [(10, 10), (50, 15), (90, 20)]
        box = after(level, do="kind", line="r1", kind="rectangle")
        assert box.references[0].points == [(10, 10), (90, 10), (90, 20), (10, 20)]
        assert box.correction.free == ["roll", "pitch", "yaw"]
        shaped = after(box, do="shape", line="r1", shape=(2, 3))
        plumb = become(shaped, "plumb")
        assert (plumb.points, plumb.shape, plumb.group) == ([(10, 10), (90, 10)], None, None)
        assert become(shaped, "straight").points == [(10, 10), (50, 15), (90, 20)]
        assert done(level, do="kind", line="r1", kind="witness").action == "Line 1: changed to check line"

    def test_a_level_line_becomes_a_box_with_a_height(self) -> None:
        flat = build(recipe(300, 200, references=[line("r1", "level", (10, 10), (90, 10))]))
        box = after(flat, do="kind", line="r1", kind="rectangle").references[0]
        assert box.points == [(10, 10), (90, 10), (90, 50), (10, 50)]

    def test_a_straight_thing_gets_a_point_in_its_longest_part(self) -> None:
        thing = build(recipe(300, 200, references=[line("r1", "straight", (0, 0), (20, 10), (100, 20))]))
        assert after(thing, do="add point", line="r1").references[0].points == [
            (0, 0),
            (20, 10),
            (60, 15),
            (100, 20),
        ]

    def test_a_snapped_line_goes_back_to_the_hand(self) -> None:
        note = {"laid": [[1, 1], [90, 9]], "laid_sigma_px": 2, "clarity": 0.9, "moved_px": 3}
        snapped = build(recipe(300, 200, references=[{**HORIZON, "sigma_px": 0.2, "x-snap": note}]))
        back = after(snapped, do="as laid", line="r1").references[0]
        assert (back.points, back.sigma_px, back.model_extra) == ([(1, 1), (90, 9)], 2, {})
        moved = after(snapped, do="move", line="r1", points=[(2, 2), (90, 9)])
        assert moved.references[0].model_extra == {}
        with pytest.raises(RecipeError, match="was not snapped"):
            done(moved, do="as laid", line="r1")

    @pytest.mark.parametrize(
        ("asked", "words", "value"),
        [
            ({"do": "switch line", "active": False}, "Line 2: ignored", ("active", False)),
            ({"do": "switch line", "active": True}, "Line 2: used again", ("active", True)),
            ({"do": "weight", "weight": 2.5}, "Line 2: weight 2.5", ("weight", 2.5)),
            ({"do": "group", "group": "3"}, "Line 2: in parallel set 3", ("group", "3")),
        ],
    )
    def test_one_line_is_changed(self, asked: dict[str, Any], words: str, value: tuple[str, Any]) -> None:
        made = done(LAID, line="r2", **asked)
        assert made.action == words
        assert getattr(made.recipe.references[1], value[0]) == value[1]
        assert made.recipe.references[0] == LAID.references[0]

    def test_lines_are_taken_away(self) -> None:
        made = done(LAID, do="delete line", line="r1")
        assert ([one.id for one in made.recipe.references], made.action) == (["r2"], "Line 1: deleted")
        assert after(LAID, do="clear lines").references == []

    def test_a_line_that_is_gone_is_told(self) -> None:
        for asked in ({"do": "delete line"}, {"do": "snap"}, {"do": "weight", "weight": 2}):
            with pytest.raises(RecipeError, match="not there any more"):
                done(LAID, line="r9", **asked)


PROFILE = {
    "source": "profile",
    "model": "poly3",
    "unit_px": 100,
    "profile": {"camera": "A", "lens": "B 12", "focal_mm": 12, "terms": [-0.02]},
}


class TestLens:
    def test_a_profile_opens_what_was_solved_and_leaves_the_lines(self) -> None:
        solved = after(LAID, do="lens", source="profile", profile=PROFILE)
        assert solved.lens.profile is not None and solved.lens.profile.lens == "B 12"
        assert solved.references == LAID.references and solved.correction.roll is None
        assert done(LAID, do="lens", source="profile", profile=PROFILE).action == "Lens: profile B 12"

    def test_straight_things_tell_terms_anew_with_every_line(self) -> None:
        first = done(PLAIN, do="lens", source="straight")
        both = done(first.recipe, do="lens", source="straight", second=True)
        assert (first.action, both.action) == ("Lens: from straight edges", "Lens: complex distortion")
        assert both.recipe.correction.free == ["roll", "k1", "k2"]
        document = both.recipe.model_dump(mode="json")
        document["lens"] |= {"k1": -0.1, "k2": 0.01}
        found = after(build(document), do="clear lines").lens
        assert (found.source, found.k1, found.k2) == ("straight", 0, 0)
        none = after(build(document), do="lens", source="none")
        assert (none.correction.free, none.lens.k1) == (["roll"], 0)

    def test_the_hands_term_is_remembered(self) -> None:
        bent = after(PLAIN, do="bend", percent=8)
        assert (bent.lens.source, bent.lens.k1) == ("manual", -0.08)
        away = after(bent, do="lens", source="profile", profile=PROFILE)
        assert after(away, do="lens", source="manual").lens.k1 == -0.08
        assert done(bent, do="bend", percent=0).action == "Lens: distortion reset"

    def test_a_profile_belongs_to_its_source(self) -> None:
        for wrong in ({"source": "profile"}, {"source": "none", "profile": PROFILE}):
            with pytest.raises(ValidationError, match="needs lens.source"):
                READ.validate_python({"do": "lens", **wrong})


class TestCorrection:
    def test_so_much_is_taken_out_whatever_the_lines_say(self) -> None:
        turned = after(LAID, do="take out", angle="roll", degrees=1.25)
        assert evaluate(turned).taken_out("roll") == pytest.approx(1.25, abs=1e-4)
        again = after(turned, do="take out", angle="roll", degrees=-2)
        assert evaluate(again).taken_out("roll") == pytest.approx(-2, abs=1e-4)

    def test_the_hand_keeps_to_its_range(self) -> None:
        assert after(PLAIN, do="take out", angle="roll", degrees=90).correction.by_hand.roll == 45
        assert after(PLAIN, do="take out", angle="yaw", degrees=-90).correction.by_hand.yaw == -60

    def test_an_angle_that_is_not_taken_out_has_no_part_of_the_hand(self) -> None:
        turned = after(PLAIN, do="take out", angle="roll", degrees=1)
        off = done(turned, do="switch angle", angle="roll", on=False)
        assert (off.recipe.correction.on.roll, off.recipe.correction.by_hand.roll) == (False, 0)
        assert off.action == "Tilt: correction off"
        assert after(off.recipe, do="switch angle", angle="roll", on=True).correction.on.roll

    def test_the_hand_goes_back(self) -> None:
        turned = after(after(PLAIN, do="take out", angle="roll", degrees=1), do="proportion", percent=10)
        one = done(turned, do="hand back", angle="roll")
        assert (one.recipe.correction.by_hand.roll, one.recipe.correction.proportion) == (0, 1.1)
        assert one.action == "Tilt: hand adjustment removed"
        all_ = after(turned, do="hand back", angle=None).correction
        assert (all_.by_hand.roll, all_.proportion) == (0, 1)

    def test_amount_and_focal_length(self) -> None:
        made = done(PLAIN, do="amount", angle="pitch", share=0.85)
        assert (made.recipe.correction.amount.pitch, made.action) == (0.85, "Verticals: 85% corrected")
        free = after(PLAIN, do="focal length", free=True).correction
        assert free.free == ["roll", "focal_px"]
        known = after(after(PLAIN, do="focal length", free=True), do="focal length", free=False)
        assert known.correction.free == ["roll"]

    def test_a_way_and_an_offer_by_their_names(self) -> None:
        assert after(LAID, do="way", name="Square-on").correction.free == ["roll", "pitch", "yaw"]
        with pytest.raises(RecipeError, match="is no way; they are Nothing, Tilt only"):
            done(LAID, do="way", name="Sideways")
        walls = [line("a", "plumb", (50, 190), (65, 10)), line("b", "plumb", (250, 190), (235, 10))]
        leaning = build(recipe(300, 200, references=walls, correction={"free": ["roll", "pitch"]}))
        eased = done(leaning, do="offer", name="ease", label="Correct only 85%")
        assert eased.recipe.correction.amount.pitch == 0.85
        gone = done(eased.recipe, do="offer", name="ease", label="Correct only 85%")
        assert not gone.done and gone.recipe == eased.recipe and "no longer applies" in gone.words


class TestFrame:
    def test_a_frame_is_moved_or_resized(self) -> None:
        assert done(PLAIN, do="frame", rect=(10, 10, 150, 100)).action == "Frame: resized"
        small = after(PLAIN, do="frame", rect=(10, 10, 150, 100))
        assert done(small, do="frame", rect=(20, 10, 150, 100)).action == "Frame: moved"
        assert after(small, do="frame", rect=None).frame.rect is None

    def test_a_frame_that_is_drawn_out_is_filled_unless_corners_are_left(self) -> None:
        wide = after(PLAIN, do="draw out", rect=(-50, 0, 400, 200))
        assert (wide.edges.mode, wide.frame.allow_empty) == ("fill", True)
        left = build(recipe(300, 200, edges={"mode": "leave"}))
        assert after(left, do="draw out", rect=(-50, 0, 400, 200)).edges.mode == "leave"

    def test_a_mark_is_a_point_or_a_box_on_the_photo(self) -> None:
        def marked(*mark: tuple[float, float]) -> Any:
            return after(PLAIN, do="subject", mark=mark).frame.subject

        assert marked((10, 20)) == (10, 20)
        assert marked((110, 20), (10, 90)) == (10, 20, 100, 70)
        assert marked((-50, -50), (400, 150)) == (0, 0, 300, 150)
        assert marked((500, 90)) == (300, 90)

    def test_what_was_done_to_the_mark_is_called_by_its_name(self) -> None:
        box = done(PLAIN, do="subject", mark=[(10, 10), (60, 40)])
        moved = done(box.recipe, do="subject", mark=[(20, 10), (70, 40)])
        resized = done(moved.recipe, do="subject", mark=[(20, 10), (90, 40)])
        assert [one.action for one in (box, moved, resized, done(PLAIN, do="subject", mark=None))] == [
            "Subject: marked",
            "Subject: mark moved",
            "Subject: mark resized",
            "Subject: mark removed",
        ]

    def test_a_paper_keeps_its_border_in_its_own_unit_only(self) -> None:
        paper = done(PLAIN, do="paper", paper=(297, 210), unit="mm")
        assert paper.action == "Print: A4"
        bordered = done(paper.recipe, do="on paper", border=10)
        assert bordered.action == "Print: white border 10 mm"
        smaller = after(bordered.recipe, do="paper", paper=(210, 148), unit="mm").frame.print
        inches = after(bordered.recipe, do="paper", paper=(6, 4), unit="in").frame.print
        assert smaller is not None and inches is not None
        assert (smaller.border, inches.border) == (10, 0)
        with pytest.raises(RecipeError, match="Choose a paper size first"):
            done(PLAIN, do="on paper", ppi=240)

    def test_a_paper_taken_away_takes_its_size_and_no_other(self) -> None:
        paper = after(PLAIN, do="paper", paper=(6, 4), unit="in")
        sized = after(paper, do="size", width="print")
        assert after(sized, do="paper", paper=None).export.size is None
        typed = after(paper, do="size", width=150)
        assert after(typed, do="paper", paper=None).export.size == (150, 100)

    def test_a_way_of_framing_by_its_names(self) -> None:
        row = done(LAID, do="framing", turn="Verticals too", edges="nothing cut")
        assert row.action == "Verticals too: Fill, whole picture"
        assert row.recipe.frame.allow_empty and row.recipe.frame.ratio == "free"
        gone = done(PLAIN, do="framing", turn="Square-on", edges="trim")
        assert not gone.done and gone.recipe == PLAIN and "this choice is gone" in gone.words

    def test_the_nearest_is_taken_when_it_will_do(self) -> None:
        marked = after(LAID, do="subject", mark=[(1, 1)])
        asked: dict[str, Any] = {"do": "place", "what": "subject", "across": 2 / 3}
        near = done(marked, **asked)
        assert not near.done and near.words.startswith("This cannot be done exactly")
        will_do = done(marked, **asked, nearest=True)
        assert will_do.done and will_do.recipe == near.recipe and "nearest possible" in will_do.action


PATCH = {"sha256": SHA, "part": "top left corner", "box": (0, 0, 9, 9), "seed": 1, "made_for": "a" * 64}


class TestEdges:
    filled = build(recipe(300, 200, edges={"mode": "fill", "patches": [PATCH]}))

    def taken(self, before: Recipe, **asked: Any) -> Made:
        """With takes 2 and 3 done for what is there now, in two corners and one touch-up."""
        made_for = evaluate(before).made_for

        def takes(key: str) -> dict[int, list[PatchPart]]:
            parts = {made_for[""]: ["top left corner", "bottom right corner"]}
            parts[made_for.get("t1", "-")] = ["touch-up t1"]
            return {
                seed: [
                    PatchPart(sha256=SHA, part=part, box=(0, 0, 9, 9), seed=seed, made_for=key)
                    for part in parts[key]
                ]
                for seed in (2, 3)
                if key in parts
            }

        return READ.validate_python(asked).apply(before, takes)

    def test_a_take_is_chosen_for_all_corners_or_for_one(self) -> None:
        all_ = self.taken(self.filled, do="take", seed=2)
        assert all_.recipe.edges.seed == 2 and all_.action == "Corners: take 2 everywhere"
        assert [(one.part, one.seed) for one in all_.recipe.edges.patches] == [
            ("top left corner", 2),
            ("bottom right corner", 2),
        ]
        mixed = self.taken(all_.recipe, do="take", seed=3, part="bottom right corner")
        assert mixed.action == "Corners: take 3 in the bottom right corner" and mixed.recipe.edges.seed == 2
        assert {one.part: one.seed for one in mixed.recipe.edges.patches} == {
            "top left corner": 2,
            "bottom right corner": 3,
        }

    def test_a_take_that_is_not_done_is_refused(self) -> None:
        with pytest.raises(RecipeError, match="Take 9 is not ready"):
            self.taken(self.filled, do="take", seed=9)
        with pytest.raises(RecipeError, match="is not ready"):
            done(self.filled, do="take", seed=2)

    def test_a_touch_up_takes_its_own_and_leaves_the_corners(self) -> None:
        brushed = after(self.filled, do="draw", what="touch-up", area="t1", points=[(60, 60)], radius=9)
        made = self.taken(brushed, do="touch-up take", area="t1", seed=3)
        assert made.recipe.edges.touch_ups[0].seed == 3
        assert {one.part: one.seed for one in made.recipe.edges.patches} == {
            "top left corner": 1,
            "touch-up t1": 3,
        }
        # A take of every corner leaves that of the touch-up.
        both = self.taken(made.recipe, do="take", seed=2).recipe.edges.patches
        assert {one.part: one.seed for one in both} == {
            "touch-up t1": 3,
            "top left corner": 2,
            "bottom right corner": 2,
        }

    def test_areas_are_drawn_moved_and_removed(self) -> None:
        brushed = done(PLAIN, do="draw", what="touch-up", area="t1", points=[(10, 10), (40, 10)], radius=8)
        (one,) = brushed.recipe.edges.touch_ups
        assert (one.feather, one.amount, one.active) == (1, 1, True)
        marked = after(brushed.recipe, do="draw", what="from here", area="d1", points=[(5, 5)], radius=3)
        moved = done(marked, do="move area", area="t1", to=(15, 9))
        assert moved.recipe.edges.touch_ups[0].points == [(15, 9), (45, 9)]
        assert moved.action == "Touch-up 1: moved"
        assert done(marked, do="move area", area="d1", to=(6, 6)).action == "Sources: area moved"
        assert after(marked, do="remove area", area="d1").edges.donors == []
        assert after(marked, do="remove area", area="t1").edges.touch_ups == []
        for asked in (
            {"do": "remove area"},
            {"do": "move area", "to": (0, 0)},
            {"do": "hint", "hint": "sky"},
        ):
            with pytest.raises(RecipeError, match="This area is not there any more"):
                done(marked, area="t9", **asked)
        with pytest.raises(RecipeError, match="needs three points"):
            done(PLAIN, do="draw", what="not from here", area="d1", points=[(1, 1), (2, 2), (1, 1)])

    def test_a_stroke_is_kept_with_no_more_points_than_a_brush_needs(self) -> None:
        stroke = [(at / 8, 0.0) for at in range(2400)]
        points = (
            after(PLAIN, do="draw", what="touch-up", area="t1", points=stroke, radius=20)
            .edges.touch_ups[0]
            .points
        )
        assert points[0] == (0, 0) and points[-1] == (299.9, 0) and len(points) < 60
        long = [(float(at), 0.0) for at in range(9000)]
        thin = after(PLAIN, do="draw", what="touch-up", area="t1", points=long, radius=1).edges.touch_ups[0]
        assert len(thin.points) <= 400

    def test_a_touch_up_is_changed_in_words(self) -> None:
        brushed = after(PLAIN, do="draw", what="touch-up", area="t1", points=[(10, 10)], radius=8)
        said = [
            done(brushed, do="touch-up", area="t1", active=False),
            done(brushed, do="touch-up", area="t1", amount=0.5),
            done(brushed, do="touch-up", area="t1", feather=12),
            done(brushed, do="hint", area="t1", hint="grass"),
            done(brushed, do="hint", hint=None),
            done(brushed, do="strips", strips=3),
        ]
        assert [one.action for one in said] == [
            "Touch-up 1: hidden",
            "Touch-up 1: amount 50%",
            "Touch-up 1: feather 12 px",
            "Touch-up 1: painted, grass",
            "Corners: filled from the picture",
            "Corners: filled in 3 strips",
        ]
        assert said[1].recipe.edges.touch_ups[0].radius == 8


class TestExport:
    def test_a_width_has_the_frames_height(self) -> None:
        sized = done(PLAIN, do="size", width=150)
        assert (sized.recipe.export.size, sized.action) == ((150, 100), "Export: 150 × 100 px")
        assert after(sized.recipe, do="size", width=None).export.size is None

    def test_per_cent_and_a_long_edge(self) -> None:
        half, edge = done(PLAIN, do="size", percent=50), done(PLAIN, do="size", long_edge=120)
        assert (half.action, edge.action) == ("Export: 50% of the size", "Export: long edge 120 px")
        assert half.recipe.model_dump()["export"]["size"] == {"percent": 50}
        assert edge.recipe.model_dump()["export"]["size"] == {"long_edge": 120}

    def test_format_and_quality(self) -> None:
        made = done(done(PLAIN, do="format", format="png").recipe, do="quality", quality=80)
        assert (made.recipe.export.format, made.recipe.export.quality) == ("png", 80)
        assert made.action == "Export: quality 80"

    def test_bits_colours_and_what_stays_at_home(self) -> None:
        made = [
            done(PLAIN, do="depth", depth=16),
            done(PLAIN, do="depth", depth=None),
            done(PLAIN, do="subsampling", subsampling="420"),
            done(PLAIN, do="colours", profile="display-p3"),
            done(PLAIN, do="leave out", what="place", out=True),
        ]
        assert [one.action for one in made] == [
            "Export: 16 bits",
            "Export: as many bits as the photo",
            "Export: colours at half resolution",
            "Export: converted to Display P3",
            "Export: without the location",
        ]
        assert made[0].recipe.export.depth == 16 and made[3].recipe.export.profile == "display-p3"
        both = after(made[4].recipe, do="leave out", what="serials", out=True)
        assert both.export.leave_out == ["place", "serials"]
        assert after(both, do="leave out", what="place", out=False).export.leave_out == ["serials"]


def test_every_action_is_told_by_a_name_of_its_own() -> None:
    union, _ = typing.get_args(AnyAction)
    names = [
        name for one in typing.get_args(union) for name in typing.get_args(one.model_fields["do"].annotation)
    ]
    assert len(names) == len(set(names)) > 40


def test_what_is_no_action_is_refused() -> None:
    for wrong in ({"do": "dance"}, {}, {"do": "strips", "strips": 9}, {"do": "clear lines", "all": True}):
        with pytest.raises(ValidationError):
            READ.validate_python(wrong)
