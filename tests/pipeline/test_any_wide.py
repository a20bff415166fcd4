"""Any wide view that a recipe can ask for is shown, or refused in words; nothing in it is no number."""

from __future__ import annotations

from typing import Any

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pictures import line, recipe

from sequor.pipeline.evaluated import evaluate
from sequor.recipe.parse import RecipeError, build
from sequor.web.bench.evaluation import EvaluateOut
from sequor.wording.finding import finding

WIDE, HIGH = 600, 400
LAWS = ["equidistant", "equisolid", "stereographic", "orthographic"]

lenses = st.one_of(
    st.just({}),
    st.builds(lambda k1: {"source": "manual", "k1": k1}, st.floats(-0.3, 0.3)),
    st.builds(
        lambda law, focal: {"source": "manual", "model": law, "focal_px": focal},
        st.sampled_from(LAWS),
        st.floats(60, 3000),
    ),
)
views = st.builds(
    lambda kind, mm, uprights: {"kind": kind, "looks_like_35mm": mm, "uprights": uprights},
    st.sampled_from(["flat", "round", "sideways"]),
    st.sampled_from([None, 8, 24, 50, 400]),
    st.floats(0, 20),
)
places = st.tuples(st.floats(0, WIDE), st.floats(0, HIGH))
wishes = st.one_of(
    st.none(),
    st.builds(
        lambda way, off: {"way": way, "off_deg": 0 if way == "straight" else off},
        st.sampled_from(["straight", "level", "upright"]),
        st.floats(-5, 5),
    ),
)
lines = st.lists(st.tuples(st.sampled_from(["level", "plumb"]), places, places, wishes), max_size=4)
hands = st.builds(
    lambda roll, pitch, yaw: {"roll": roll, "pitch": pitch, "yaw": yaw},
    st.floats(-30, 30),
    st.floats(-40, 40),
    st.floats(-30, 30),
)


def shown(told: dict[str, Any]) -> None:
    seen = evaluate(build(told))
    assert np.all(np.isfinite(seen.warp.mesh().vertices))
    assert "nan" not in finding(seen)
    message = EvaluateOut.of(seen, choices=False)
    assert message.wide is None or np.isfinite([message.wide.drawn_out, message.wide.bend]).all()
    assert 0 < message.frame.kept <= 1.000001


@settings(max_examples=25, suppress_health_check=[HealthCheck.too_slow])
@given(lenses, views, lines, hands, st.sampled_from(["free", "free", "rectangle"]))
def test_it_is_shown_or_refused(lens: Any, view: Any, drawn: Any, hand: Any, border: str) -> None:
    references = [
        line(f"r{number}", kind, first, last) | {"become": become}
        for number, (kind, first, last, become) in enumerate(drawn)
        if np.hypot(first[0] - last[0], first[1] - last[1]) > 5
    ]
    told = recipe(WIDE, HIGH, references=references, correction={"by_hand": hand})
    try:
        shown(told | {"lens": lens, "view": view, "bend": {"border": border}})
    except RecipeError as error:
        assert error.field and len(str(error)) > 20


def test_what_lies_behind_the_corrected_camera_is_cut() -> None:
    """A short lens aimed far up: the lower corners come to lie behind the level camera."""
    told = recipe(WIDE, HIGH, correction={"by_hand": {"roll": 10.0, "pitch": -32.0, "yaw": 0.0}})
    told["photo"]["focal_35mm"] = 14.0
    told |= {"view": {"kind": "round", "looks_like_35mm": 14.0}}
    seen = evaluate(build(told))
    assert seen.warp.cuts
    assert np.ptp(seen.warp.outline(), axis=0).max() < 30 * WIDE
    shown(told)


def test_the_rim_of_a_circle_has_a_place() -> None:
    """An orthographic lens records 90 degrees where its radius has stopped growing."""
    told = recipe(WIDE, HIGH, correction={"by_hand": {"roll": 0.0, "pitch": -40.0, "yaw": 0.0}})
    shown(told | {"lens": {"source": "manual", "model": "orthographic", "focal_px": 60.0}})


def test_a_wish_beyond_what_is_shown_asks_for_nothing() -> None:
    """It would have no end in the picture, and took for ever."""
    beyond = line("r1", "plumb", (2, 2), (4, 396)) | {"become": {"way": "upright"}}
    told = recipe(WIDE, HIGH, references=[beyond], correction={"roll": 0.0, "pitch": 0.0, "yaw": 0.0})
    told |= {"lens": {"source": "manual", "model": "equisolid", "focal_px": 180.0}}
    shown(told)
