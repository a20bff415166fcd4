"""A recipe evaluated, and what is said of it in words."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pictures import line, recipe

from sequor.core.references.line import read
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.recipe.parse import RecipeError, build
from sequor.wording.finding import finding
from sequor.wording.frame import frame_words, ratio_words
from sequor.wording.kinds import verdict_words
from sequor.wording.measured import measure_report
from sequor.wording.numbers import slope_words
from sequor.wording.report import solve_report, with_solved_values
from sequor.wording.words import lines_words, state

RISE = 2800 * np.tan(np.deg2rad(2.3))
HORIZON = line("r1", "level", (100, 900), (2900, 900 - RISE), sigma_px=0.7)
RAIL = line("r2", "level", (500, 1200), (2500, 1350))
MAST = line("r3", "plumb", (1500, 1500), (1500 - 1000 * np.tan(np.deg2rad(2.3)), 500))


def run(**parts: Any) -> Evaluated:
    return evaluate(build(recipe(**parts)))


def correction(**parts: Any) -> dict[str, Any]:
    return {"free": ["roll"], **parts}


def test_the_shore_from_end_to_end() -> None:
    """The worked example of the interface: a waterline that rises by 2.30 degrees."""
    evaluation = run(references=[HORIZON])
    assert evaluation.solution.attitude.roll == pytest.approx(2.3)
    assert evaluation.references[0].after_deg == pytest.approx(0, abs=1e-9)
    assert finding(evaluation) == (
        "As taken, the horizon drops 2.30° ± 0.04° to the left. There is only one line, so nothing checks it. A second would. "
        "Lens not corrected: the ± allows for that. "
        "Cropped to 3:2, 89.1% of the picture is kept."
    )
    assert (state(evaluation), lines_words(evaluation)) == ("level", "1 horizontal")
    assert frame_words(evaluation) == "3:2 · keeps 89.1%"


def test_a_lot_that_is_cut_off_on_one_side_is_told() -> None:
    """A frame on the right half of the picture: the left half is named; with a fifth of it on each side nothing is."""
    half = {"rect": [1500, 0, 1500, 2000], "ratio": "free"}
    assert "A lot of the picture is cut off: 50% on the left." in finding(run(frame=half))
    fifth = {"rect": [600, 0, 1800, 2000], "ratio": "free"}
    assert "cut off" not in finding(run(frame=fifth))


def test_two_that_agree_and_a_witness() -> None:
    evaluation = run(references=[HORIZON, MAST, line("w", "witness", (0, 0), (1000, 0))])
    verdicts = [result.verdict for result in evaluation.references]
    assert verdicts == ["agrees", "agrees", "witness"]
    assert evaluation.references[2].after_deg == pytest.approx(2.3, abs=1e-6)
    assert verdict_words(evaluation.references[2]) == "now drops 2.3° to the right"
    assert lines_words(evaluation) == "2 lines agree"


def test_the_trap_is_reported() -> None:
    evaluation = run(references=[HORIZON, RAIL])
    assert state(evaluation) == "lines disagree"
    assert [result.verdict for result in evaluation.references] == ["disagrees", "disagrees"]
    assert "Lines 1 and 2 disagree by 6.6°; the correction is in between" in finding(evaluation)


def test_three_lines_name_the_one_that_fights() -> None:
    evaluation = run(references=[HORIZON, RAIL, MAST])
    assert "Line 2 probably recedes: it is 6.6° off the others." in finding(evaluation)
    assert [result.verdict for result in evaluation.references] == ["agrees", "receding?", "agrees"]


@given(st.floats(0, 1), st.booleans(), st.floats(-45, 45))
def test_amount_switch_and_hand(amount: float, on: bool, by_hand: float) -> None:
    """A = solved + by hand, T = (1 - amount * on) * solved: what is taken out is their difference."""
    parts = correction(amount={"roll": amount}, on={"roll": on}, by_hand={"roll": by_hand})
    evaluation = run(references=[HORIZON], correction=parts)
    expected = by_hand + amount * on * 2.3
    turned = evaluation.warp.to_corrected(np.array([[0.0, 0], [1000, 0]]))
    assert read(turned).slope_deg == pytest.approx(expected, abs=1e-6)
    assert evaluation.taken_out("roll") == pytest.approx(expected)
    assert evaluation.references[0].misfit_deg == pytest.approx(by_hand, abs=1e-6)


def test_numbers_are_used_as_they_stand() -> None:
    parts = correction(roll=1.0, pitch=0.0, yaw=0.0)
    evaluation = run(references=[HORIZON], correction=parts)
    assert evaluation.solution.attitude.roll == 1.0
    assert evaluation.references[0].after_deg == pytest.approx(-1.3)
    assert (
        with_solved_values(build(recipe(references=[HORIZON])), run(references=[HORIZON])).correction.pitch
        == 0
    )


@pytest.mark.parametrize(
    ("parts", "expected"),
    [
        ({}, "not measured"),
        ({"references": [HORIZON]}, "level"),
        (
            {"references": [HORIZON], "correction": correction(on={"roll": False})},
            "lines drawn, not corrected",
        ),
        ({"references": [HORIZON], "correction": correction(amount={"roll": 0.5})}, "corrected by hand"),
        ({"correction": correction(by_hand={"roll": 1})}, "corrected by hand"),
        ({"references": [{**HORIZON, "active": False}]}, "not measured"),
    ],
)
def test_states(parts: dict[str, Any], expected: str) -> None:
    assert state(run(**parts)) == expected


def test_eased_off_and_switched_off_are_said() -> None:
    assert "1.00° of the tilt is left uncorrected." in finding(
        run(references=[HORIZON], correction=correction(by_hand={"roll": -1}))
    )
    assert "switched off" in finding(run(references=[HORIZON], correction=correction(on={"roll": False})))
    assert "3.00° of tilt to the right corrected by hand." in finding(
        run(correction=correction(by_hand={"roll": -3}))
    )
    assert "Nothing measured yet" in finding(run())


def test_frames_that_cannot_be_are_refused() -> None:
    for rect, why in (([0, 0, 3000, 2000], "empty"), ([500, 500, 900, 900], "ratio")):
        with pytest.raises(RecipeError, match=why) as refused:
            run(references=[HORIZON], frame={"rect": rect})
        assert refused.value.field == "frame.rect"
    kept = run(references=[HORIZON], frame={"rect": [500.5, 400.25, 1500, 1000]}).cost
    assert (kept.kept, kept.empty) == (pytest.approx(0.25), pytest.approx(0, abs=1e-12))


def test_words_for_lines() -> None:
    assert slope_words(read(np.array([[0.0, 0], [1000, 40]]), 1)) == "drops 2.3° to the right"
    assert slope_words(read(np.array([[0.0, 1000], [40, 0]]), 0.2)) == "leans 2.29° to the right"
    assert slope_words(read(np.array([[0.0, 0], [1000, 0]]), 1)) == "level"
    assert slope_words(read(np.array([[0.0, 0], [0, 900]]), 1)) == "vertical"


@pytest.mark.parametrize(
    ("size", "words"),
    [((6000, 4000), "3:2"), ((4000, 6000), "2:3"), ((4032, 3024), "4:3"), ((1000, 1000), "1:1"), ((1920, 1080), "16:9"),
     ((5472, 3648), "3:2"), ((1, 1), "1:1"), ((2831, 1887), "3:2"), ((9000, 500), "18:1"), ((101, 67), "1.51:1")],
)  # fmt: skip
def test_ratios_in_words(size: tuple[int, int], words: str) -> None:
    assert ratio_words(*size) == words


def test_reports_have_the_promised_shape() -> None:
    document = solve_report(run(references=[HORIZON]))
    assert set(document) == {
        "roll", "pitch", "yaw", "focal_px", "focal_source", "lens", "sd", "sd_known", "undetermined", "references",
        "conflicts", "frame",
    }  # fmt: skip
    assert document["sd"]["pitch"] is None and document["sd"]["roll"] > 0
    assert document["focal_source"] == "assumed"
    (row,) = measure_report(build(recipe(references=[HORIZON])))["references"]
    assert set(row) == {"id", "kind", "slope_deg", "lean_deg", "length_px", "sd_deg"}
