"""Leaning walls, house fronts and windows: what is said of them, what is offered, and what each way costs."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from pictures import line, recipe
from worlds import photographed

from sequor.advice.presets import presets
from sequor.advice.suggestions import EASED_AMOUNT, Offer, offers
from sequor.core.camera import Attitude
from sequor.core.distortion.models import no_lens
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError, build
from sequor.wording.finding import advice_words, finding
from sequor.wording.frame import percent
from sequor.wording.kinds import taken_words, uncertainty_words, verdict_words
from sequor.wording.measured import measure_report
from sequor.wording.report import as_csv, field_book_rows, solve_report, with_solved_values
from sequor.wording.words import lines_words, state

FOCAL = 2400.0
FRONT = {
    "sill": [(-3.0, 1.0, 10.0), (2.5, 1.0, 10.0)],
    "eave": [(-3.5, -2.5, 10.0), (3.0, -2.5, 10.0)],
    "left": [(-3.5, 1.5, 10.0), (-3.5, -2.5, 10.0)],
    "right": [(3.0, 1.5, 10.0), (3.0, -2.5, 10.0)],
    "middle": [(0.4, 1.5, 10.0), (0.4, -2.5, 10.0)],
}
WINDOW = [(-2.5, -2.0, 10.0), (2.0, -2.0, 10.0), (2.0, 1.0, 10.0), (-2.5, 1.0, 10.0)]
UP = Attitude(1.0, 16.0, 0.0)
ASIDE = Attitude(1.0, 0.0, 9.0)


def seen(name: str, kind: str, attitude: Attitude, points: Any = None, **more: Any) -> dict[str, Any]:
    """A thing of the house front as a reference of a recipe."""
    places = photographed(points or FRONT[name], attitude, FOCAL, no_lens(3000, 2000))
    return line(name, kind, *((float(x), float(y)) for x, y in places), **more)


def made(references: list[dict[str, Any]], parts: dict[str, Any] | None = None, **correction: Any) -> Recipe:
    document = recipe(
        references=references, correction={"free": ["roll", "pitch"], **correction}, **(parts or {})
    )
    document["photo"]["focal_px"] = FOCAL
    return build(document)


def run(references: list[dict[str, Any]], **correction: Any) -> Evaluated:
    return evaluate(made(references, **correction))


def walls(attitude: Attitude = UP) -> list[dict[str, Any]]:
    return [seen(name, "plumb", attitude) for name in ("left", "right")]


def levels(attitude: Attitude = ASIDE) -> list[dict[str, Any]]:
    return [seen(name, "level", attitude) for name in ("sill", "eave")]


def offered(evaluation: Evaluated) -> Offer:
    (offer,) = offers(evaluation)
    return offer


def test_two_walls_say_roll_and_pitch() -> None:
    evaluation = run(walls())
    assert evaluation.solution.attitude.pitch == pytest.approx(16.0)
    assert [result.after_deg for result in evaluation.references] == pytest.approx([0, 0], abs=1e-6)
    assert finding(evaluation) == (
        "As taken, verticals lean 1.0° ± 0.1° to the left; the camera pointed 16.0° ± 2.9° up. "
        "2 lines, and none checks another. One more would. Lens not corrected: the ± allows for that. "
        "Cropped to 3:2, 77% of the picture is kept."
    )
    assert (state(evaluation), lines_words(evaluation)) == ("verticals straight", "2 lines, not checked")


def test_walls_that_lean_because_of_the_aim() -> None:
    """Only the tilt is taken out of two walls that lean apart: they do not disagree, it is said why they
    lean, and what taking the aim out would cost."""
    apart = [
        line("a", "plumb", (1000, 1500), (1000, 500)),
        line("b", "plumb", (2000, 1500), (2033.1734, 500)),
    ]
    evaluation = run(apart, free=["roll"])
    assert "Verticals lean by up to 1.0°, because the camera pointed 4.5° ± 0.5° down." in finding(evaluation)
    assert state(evaluation) == "level"
    assert {verdict_words(result) for result in evaluation.references} == {"leans as the camera pointed"}
    (choice,) = offered(evaluation).choices
    both = evaluate(choice.recipe)
    assert choice.label == f"Correct verticals too: keeps {percent(both.cost.kept)}"
    assert both.solution.conflicts == () and both.solution.sd["pitch"] is not None
    assert both.solution.attitude.roll == evaluation.solution.attitude.roll
    assert state(both) == "verticals straight" and "because" not in finding(both)


def test_a_horizon_and_a_wall_in_words() -> None:
    """The sentence that replaces a disagreement: one wall leans, by how much, to which side, and why."""
    lines = [seen("sill", "level", UP), seen("right", "plumb", UP)]
    evaluation = run(lines, free=["roll"])
    assert "Line 2 leans 4.7° to the left because the camera pointed 15.6° ± " in finding(evaluation)
    assert evaluation.solution.conflicts == ()


def test_the_line_that_would_help_most_in_words() -> None:
    """One wall near the edge; a wall nearer the middle than its other half; and a horizon that needs no
    other."""
    alone = run([seen("right", "plumb", UP)], free=["roll"])
    assert alone.advice is not None
    words = advice_words(alone, alone.advice)
    assert words.startswith(
        "This line is far from the middle: if the camera pointed up or down, it leans anyway."
    )
    assert words.endswith(", or the horizon.") and "Draw a second vertical" in words
    pair = [line("a", "plumb", (2600, 1500), (2560, 500)), line("b", "plumb", (2800, 1500), (2757, 500))]
    two = run(pair, free=["roll"])
    assert two.advice is not None
    assert "the tilt would be known to ± " in advice_words(two, two.advice)
    assert run([seen("sill", "level", UP)], free=["roll"]).advice is None
    assert run([]).advice is None


def test_levels_that_only_a_turn_aside_can_meet() -> None:
    evaluation = run(levels())
    assert "both could be level if the camera pointed 9° to one side." in finding(evaluation)
    taken = evaluate(offered(evaluation).choices[0].recipe)
    assert taken.solution.attitude.yaw == pytest.approx(9.0)
    assert (state(taken), taken.solution.conflicts) == ("square-on", ())


def test_far_aside_is_hardly_meant() -> None:
    rail = line("rail", "level", (1600, 1900), (2400, 1100))
    evaluation = run([line("far", "level", (100, 900), (2900, 790)), rail], free=["roll"])
    assert "which is unlikely." in finding(evaluation)
    assert "Turn" not in " ".join(choice.label for choice in offered(evaluation).choices)


def test_a_level_line_that_recedes_is_named_and_mended_by_one_action() -> None:
    far = [line("far", "level", (100, 900), (2900, 790)), line("shore", "level", (200, 940), (2800, 838))]
    rail = line("rail", "level", (1600, 1900), (2400, 1100))
    evaluation = run([*far, rail])
    assert "Line 3 probably recedes" in finding(evaluation)
    assert evaluation.references[2].verdict == "receding?"
    offer = offered(evaluation)
    assert [choice.label for choice in offer.choices] == [
        "Yes, line 3 recedes",
        "Ignore line 3",
        "Leave as it is",
    ]
    receding, out, left = (choice.recipe for choice in offer.choices)
    assert (receding.references[2].kind, receding.references[2].group) == ("receding", "1")
    assert not out.references[2].active
    for choice in (receding, out):
        mended = evaluate(choice)
        assert mended.solution.conflicts == ()
        assert mended.solution.attitude.roll == pytest.approx(evaluation.solution.attitude.roll, abs=0.01)
    assert "needs a second parallel line" in verdict_words(evaluate(receding).references[2])
    assert offers(evaluate(left)) == [] and left.references == evaluation.recipe.references


def test_one_line_alone() -> None:
    assert "There is only one line, so nothing checks it. A second would." in finding(run(walls()[:1]))
    window = seen("w", "rectangle", ASIDE, WINDOW)
    aside = run([window])
    assert "because the camera pointed 9.0° ± 2.2° to the right." in finding(aside)
    (choice,) = offered(aside).choices
    assert choice.label.startswith("Make square-on: keeps ")
    assert state(evaluate(choice.recipe)) == "square-on"


def test_a_strong_aim_may_be_eased_but_never_is_unasked() -> None:
    evaluation = run(walls())
    assert evaluation.taken_out("pitch") == pytest.approx(16.0)
    offer = offered(evaluation)
    assert offer.name == "ease" and "top-heavy" in offer.words
    eased = evaluate(offer.choices[0].recipe)
    assert eased.recipe.correction.amount.pitch == EASED_AMOUNT
    assert eased.left_in("pitch") == pytest.approx(2.4)
    assert finding(eased).count("left uncorrected") == 1
    assert {verdict_words(result) for result in eased.references} == {"not checked yet"}
    assert offers(eased) == [] and offers(run(walls(Attitude(1.0, 8.0, 0.0)))) == []


def test_ways_and_their_cost() -> None:
    """Each way's cost is what evaluating it says; square-on is the dearest here."""
    front = [
        seen(name, "level" if name in ("sill", "eave") else "plumb", Attitude(1, 12, 14)) for name in FRONT
    ]
    nothing, *three = presets(run(front))
    assert (nothing.name, nothing.chosen, nothing.kept) == ("Nothing", False, pytest.approx(1))
    assert [(way.name, way.chosen, way.determined) for way in three] == [
        ("Tilt only", False, True), ("Verticals too", True, True), ("Square-on", False, True),
    ]  # fmt: skip
    for way in three:
        kept = evaluate(way.recipe).cost.kept
        assert f"keeps {percent(kept)}" in way.words
    only_tilt = presets(run(levels()))
    assert [(way.name, way.determined) for way in only_tilt] == [
        ("Nothing", True), ("Tilt only", True), ("Verticals too", False), ("Square-on", True),
    ]  # fmt: skip
    assert presets(run([])) == []
    undetermined = presets(run(walls()))[3]
    assert (undetermined.determined, undetermined.words) == (False, "needs horizontals too")


def test_a_witness_says_how_it_stands_afterwards() -> None:
    """The house's left wall leans outwards by 4.2 degrees where a wall of the front would stand upright."""
    leaning = line("wall", "witness", (300, 1800), (340, 900))
    evaluation = run([*walls(), leaning])
    assert verdict_words(evaluation.references[2]) == "now leans 4.2° to the left, outwards"
    plain = [*walls(), seen("middle", "witness", UP)]
    assert verdict_words(run(plain).references[2]) == "as it should be"
    assert verdict_words(run(plain, amount={"pitch": 0.8}).references[2]) == "as it should be"


def test_proportion_and_focal_length_from_a_known_shape() -> None:
    """The window is 4.5 x 3; told that it is 4.5 x 3.3, the picture must become a tenth taller."""
    window = seen("w", "rectangle", Attitude(1, 8, 20), WINDOW, shape=[4.5, 3.3])
    known = {"lens": {"source": "manual"}}
    evaluation = run([window], free=["roll", "pitch", "yaw"], parts=known)
    offer = offered(evaluation)
    assert offer.words == "Rectangle 1 comes out 9.1% too wide for its true proportions."
    taller = evaluate(offer.choices[0].recipe)
    width, height = np.ptp(taller.warp.to_corrected(np.array(window["points"])), axis=0)
    assert width / height == pytest.approx(4.5 / 3.3, rel=1e-6)
    found = evaluate(offer.choices[1].recipe)
    assert found.camera.source == "lines"
    width, height = np.ptp(found.warp.to_corrected(np.array(window["points"])), axis=0)
    # The shape is told wrong on purpose and the square corners speak too: it comes nearer, not all the way.
    assert abs(width / height - 4.5 / 3.3) < 0.5 * abs(1.5 - 4.5 / 3.3)
    assert "from your lines" in finding(found)


def test_an_assumed_focal_length_is_said_wherever_it_matters() -> None:
    document = made(walls()).model_dump(mode="json")
    document["photo"].update(focal_px=None, focal_35mm=None)
    assert "Focal length 28 mm full-frame equivalent, assumed" in finding(evaluate(build(document)))
    document["references"] = levels()[:1]
    assert "assumed" not in finding(evaluate(build(document)))


@pytest.mark.parametrize("angle", ["pitch", "yaw"])
@pytest.mark.parametrize("degrees", [-60, 60])
def test_nothing_breaks_at_the_limits(angle: str, degrees: float) -> None:
    evaluation = run(walls(Attitude()), by_hand={angle: degrees})
    assert "stretched too far and is left out" in finding(evaluation)
    assert 0 < evaluation.cost.kept < 1 and evaluation.cost.empty == pytest.approx(0, abs=1e-9)
    outline = evaluation.warp.outline()
    assert np.all(np.isfinite(outline)) and np.abs(outline).max() < 50_000


def test_too_much_by_hand_is_refused_with_the_remedy() -> None:
    with pytest.raises(RecipeError, match="take less of it out by hand") as refused:
        run(walls(Attitude(0, 40, 0)), by_hand={"pitch": 55})
    assert refused.value.field == "correction.by_hand"


def test_straight_things_and_receding_groups_in_words() -> None:
    bent = line("edge", "straight", (100, 300), (1500, 270), (2900, 300))
    kerbs = [
        line(name, "receding", (x, 1900), (x + 300, 1200), group="k") for name, x in (("a", 500), ("b", 2000))
    ]
    evaluation = run([bent, *kerbs])
    straight = evaluation.references[0]
    assert (taken_words(straight), verdict_words(straight)) == ("curved by 20.0 px", "not straight")
    assert uncertainty_words(straight) == "± 2.0 px"
    assert evaluation.references[1].verdict == "alone"
    assert evaluation.references[1].after_deg == pytest.approx(0, abs=1e-6)


def test_reports_of_all_kinds() -> None:
    """docs/recipe.md: a rectangle has its sides; what is not determined is named; solved values can be written."""
    window = seen("w", "rectangle", Attitude(1, 8, 20), WINDOW)
    rows = measure_report(made([window, *walls()]))["references"]
    assert list(rows[0]) == ["id", "kind", "sides"] and len(rows[0]["sides"]) == 4
    assert set(rows[0]["sides"][0]) == {"slope_deg", "lean_deg", "length_px", "sd_deg"}
    single = [*levels(Attitude(1, 0, 0)), line("k", "receding", (100, 1900), (700, 1100))]
    assert solve_report(run(single))["undetermined"] == ["pitch", "k"]
    solved = with_solved_values(made(walls()), run(walls()))
    assert (solved.correction.pitch, solved.correction.yaw) == (pytest.approx(16.0), 0.0)
    free = [seen("w", "rectangle", Attitude(1, 8, 20), WINDOW, shape=[4.5, 3])]
    evaluation = run(free, free=["roll", "pitch", "yaw", "focal_px"])
    written = with_solved_values(evaluation.recipe, evaluation)
    assert written.correction.focal_px == pytest.approx(FOCAL)
    assert evaluate(written).warp.homography == pytest.approx(evaluation.warp.homography)


def test_the_field_book_as_a_table() -> None:
    evaluation = run([*walls(), seen("w", "rectangle", UP, WINDOW)], free=["roll", "pitch", "yaw"])
    rows = field_book_rows(evaluation)
    assert [row["number"] for row in rows] == [1, 2, 3]
    head, first, *_ = as_csv(rows).split("\r\n")
    assert head.startswith("number,id,kind,group,as_taken,slope_deg")
    assert first.startswith("1,left,plumb,,leans 4.5° to the right,") and first.count(";") == 1
    assert as_csv([]).startswith("number,id,kind")
