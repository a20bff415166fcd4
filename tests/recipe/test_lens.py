"""A recipe's lens: evaluated in its own model, solved for, written in, told in words, turned with the photo."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from pictures import line, recipe
from scenes import scene

from sequor.core.distortion.models import Lens, half_diagonal
from sequor.operations.map_tokens import map_from_token, map_token
from sequor.operations.revising import solved, with_frame_carried
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError, build
from sequor.recipe.quarter_turn import quarter_turned
from sequor.wording.finding import finding
from sequor.wording.report import solve_report, with_solved_values
from sequor.wording.words import bending_words, lens_words, lines_words, under_words

UNIT = half_diagonal(3000, 2000)
BARREL = Lens((1500, 1000), UNIT, k1=-0.1)
PTLENS = {
    "source": "profile",
    "model": "ptlens",
    "unit_px": 1000.0,
    "profile": {
        "camera": "Invented Optics IO-1",
        "lens": "Invented Optics IO 12-33mm",
        "focal_mm": 24,
        "terms": [0.0237, -0.0743, 0.0346],
    },
}


def made(references: list[Any] = [], free: tuple[str, ...] = ("roll",), **parts: Any) -> Recipe:  # noqa: B006
    return build(recipe(3000, 2000, references=references, correction={"free": list(free)}, **parts))


def bowed(
    name: str, first: tuple[float, float], last: tuple[float, float], count: int = 6, **more: Any
) -> dict[str, Any]:
    """A straight thing as the barrel records it, between two recorded ends."""
    ideal = BARREL.undistorted(np.array([first, last], float))
    shares = np.linspace(0, 1, count)[:, None]
    points = BARREL.distorted(ideal[0] + shares * (ideal[1] - ideal[0]))
    return line(name, "straight", *[tuple(map(float, point)) for point in points], **more)


THINGS = [
    bowed("a", (100, 200), (2900, 150)),
    bowed("b", (80, 300), (150, 1800)),
    bowed("c", (300, 1900), (2700, 1850)),
]


def seen(*arguments: Any, **parts: Any) -> Evaluated:
    return evaluate(made(*arguments, **parts))


def test_lines_stay_on_their_things_and_the_middle_where_it_is() -> None:
    """Taking a correction on or off moves nothing that was laid, and the photo's middle keeps its place and scale to 0.1%."""
    sill = line("r1", "level", (400, 1800), (2600, 1800))
    for lens in (
        {"source": "manual", "k1": -0.1},
        {"source": "manual", "k1": 0.05, "k2": -0.01, "p1": 0.002},
        PTLENS,
    ):
        plain, corrected = seen([sill]), seen([sill], lens=lens)
        assert corrected.recipe.references == plain.recipe.references
        middle = np.array([[1500.0, 1000.0], [1500.5, 1000.0], [1500.0, 1000.5]])
        there = corrected.warp.to_corrected(middle)
        assert there[0] == pytest.approx(middle[0], abs=1e-6)
        steps = (there[1:] - there[0]) / 0.5
        assert abs(np.linalg.det(steps) - 1) < 1e-3


def test_a_bowed_horizon_reads_true_through_the_lens() -> None:
    """A level line near the border, its ends at unequal distances: the barrel slopes it, the correction does not."""
    ends = BARREL.distorted(np.array([[300.0, 1800], [1800, 1800]]))
    laid = line("r1", "level", *[tuple(map(float, end)) for end in ends])
    assert abs(seen([laid]).solution.attitude.roll) > 0.5
    through = seen([laid], lens={"source": "manual", "k1": -0.1})
    assert through.solution.attitude.roll == pytest.approx(0, abs=1e-9)
    assert through.references[0].before_deg == pytest.approx(0, abs=1e-9)


def test_from_straight_things() -> None:
    evaluation = seen(THINGS, ("roll", "k1"), lens={"source": "straight"})
    assert evaluation.warp.lens.k1 == pytest.approx(-0.1, abs=1e-6)
    assert evaluation.solution.distortion.names == ("k1",)
    assert [result.verdict for result in evaluation.references] == ["agrees"] * 3
    assert lens_words(evaluation) == "from 3 straight edges"
    assert bending_words(evaluation) == "barrel distortion, 10.0 ± 0.2% at the corners"
    assert lines_words(evaluation) == "3 straight edges"
    report = solve_report(evaluation)
    assert report["lens"]["source"] == "straight" and report["lens"]["k1"] == pytest.approx(-0.1, abs=1e-6)
    assert list(report["sd"]) == ["roll", "pitch", "yaw", "k1"] and 0 < report["sd"]["k1"] < 0.001
    assert report["undetermined"] == ["roll"]


def test_written_in_and_used_as_it_stands() -> None:
    """Solved values make the same map, also through a tile's address; another solve is asked for by null angles alone."""
    first = seen(THINGS, ("roll", "k1"), lens={"source": "straight"})
    written = with_solved_values(first.recipe, first)
    assert written.lens.k1 == pytest.approx(-0.1, abs=1e-6) and written.correction.roll == 0
    again = evaluate(written)
    points = np.array([[10.0, 10.0], [2900.0, 1900.0]])
    assert again.warp.to_photo(points) == pytest.approx(first.warp.to_photo(points), abs=1e-6)
    assert map_from_token(map_token(first))[1].to_photo(points) == pytest.approx(
        first.warp.to_photo(points), abs=1e-6
    )
    other = written.model_copy(update={"lens": written.lens.model_copy(update={"k1": -0.05})})
    assert evaluate(other).warp.lens.k1 == -0.05
    assert solved(written) == written


def test_in_words() -> None:
    assert lens_words(seen()) == "not corrected" and bending_words(seen()) == "not corrected"
    by_hand = seen(lens={"source": "manual", "k1": 0.03})
    assert lens_words(by_hand) == "by hand"
    assert bending_words(by_hand) == "pincushion distortion, 3.00% at the corners"
    assert bending_words(seen(lens={"source": "manual"})) == "no distortion"
    assert lens_words(seen(lens=PTLENS)) == "profile: IO 12-33mm"
    assert lens_words(seen([], ("k1",), lens={"source": "straight"})) == "no straight edge yet"
    short = line("s", "straight", (1400, 990), (1450, 991), (1500, 990))
    assert lens_words(seen([short], ("k1",), lens={"source": "straight"})) == "1 straight edge: not enough"
    cut = seen(lens={"source": "manual", "k1": -0.16})
    assert "stretched too far and is left out" in finding(cut)


def test_still_lines_in_words() -> None:
    assert under_words("level", None, None, None) == "Outside the picture"
    assert under_words("level", -1.2, None, None) == "No clear edge here · as taken: drops 1.20° to the left"
    assert under_words("upright", 0.0, 0.31, 0.02) == "Edge: leans 0.31° to the right · as taken: vertical"


@pytest.mark.parametrize(
    ("references", "lens", "free", "field"),
    [
        (
            [line("r1", "level", (0, 0), (900, 0))],
            {"source": "manual", "k1": -0.4},
            ["roll"],
            "references.0.points",
        ),
        (
            [line("r1", "witness", (0, 0), (900, 0))],
            {"source": "manual", "k1": -0.4},
            ["roll"],
            "references.0.points",
        ),
        ([], PTLENS, ["roll", "k1"], "correction.free"),
        ([], {**PTLENS, "profile": {**PTLENS["profile"], "terms": [0.5, 0.5, 0.5]}}, ["roll"], "lens"),  # type: ignore[dict-item]
    ],
)
def test_what_cannot_be_done_names_the_field(
    references: list[Any], lens: dict[str, Any], free: list[str], field: str
) -> None:
    with pytest.raises(RecipeError) as refused:
        seen(references, tuple(free), lens=lens)
    assert refused.value.field == field


def test_a_quarter_turn_takes_the_tangential_terms_along() -> None:
    """The turned photo through the turned lens: the same points lie at the turned places."""
    before = made(lens={"source": "manual", "k1": -0.05, "p1": 0.01, "p2": -0.004})
    points = np.array([[200.0, 300.0], [2500.0, 1700.0], [1500.0, 100.0]])
    for clockwise in (True, False):
        after = quarter_turned(before, clockwise)

        def turn(these: np.ndarray, clockwise: bool = clockwise) -> np.ndarray:
            x, y = these.T
            return np.column_stack([2000 - y, x] if clockwise else [y, 3000 - x])

        expected = turn(evaluate(before).warp.to_corrected(points))
        assert evaluate(after).warp.to_corrected(turn(points)) == pytest.approx(expected, abs=1e-6)


def test_a_hand_made_frame_follows_a_lens_that_is_taken_in() -> None:
    framed = made(frame={"rect": [15, 10, 2970, 1980]})
    pinched = framed.model_copy(update={"lens": made(lens={"source": "manual", "k1": 0.08}).lens})
    carried = with_frame_carried(framed, pinched)
    assert carried.frame.rect is not None and carried.frame.rect[2] < 2970
    assert evaluate(carried).cost.empty < 1e-4


def test_the_viaduct_by_its_true_terms_stands_straight() -> None:
    """Its bowed edges, as truth has them, come straight to 0.3 px and level once the true attitude is taken out."""
    truth = scene("viaduct").truth
    edges = [
        line(f"h{n}", "straight", *[tuple(point) for point in one["polyline"][1:-1]])
        for n, one in enumerate(truth["lines"])
        if one["bow_px"] > 10
    ]
    lens = {"source": "manual", "k1": truth["distortion"]["k1"]}
    bent, straight = seen(edges), seen(edges, lens=lens)
    assert min(result.bend_px for result in bent.references) > 25
    assert max(result.bend_px for result in straight.references) < 0.3
