"""The ways with empty corners: what they make of the frame, what they cost, what they are called."""

from __future__ import annotations

from typing import Any

import pytest
from pictures import recipe

from sequor.advice.edges import choices, trimmed, with_corners, with_edges
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError, build
from sequor.wording.edges import edges_words
from sequor.wording.finding import finding

HASH = "ab" * 32


def turned(roll: float = 3.0, **parts: Any) -> Recipe:
    """A photo of 3000 x 2000 turned by hand."""
    return build(recipe(3000, 2000, correction={"by_hand": {"roll": roll}}, **parts))


def test_filling_widens_the_frame_to_the_size_it_had() -> None:
    """docs/geometry.md's closed form: a 3:2 frame of the photo's size, turned by a, leaves four right triangles empty."""
    done = with_corners(turned(), "fill", "as it is")
    now = evaluate(done.recipe)
    assert done.action == "Corners: filled, photo's own size"
    assert (now.frame.width, now.frame.height) == (3000, 2000)
    assert now.cost.empty == pytest.approx(0.02703, abs=1e-5)
    assert edges_words(now) == "2.7% new"
    assert "2.7% of the frame is new" in finding(now)


def test_nothing_cut_keeps_all_at_the_ratio_that_is_held() -> None:
    now = evaluate(with_corners(turned(), "fill", "nothing cut").recipe)
    assert now.cost.kept == pytest.approx(1, abs=2e-3)
    assert now.frame.width / now.frame.height == pytest.approx(1.5, abs=1e-3)
    free = evaluate(with_corners(turned(frame={"ratio": "free"}), "leave", "nothing cut").recipe)
    assert free.frame.width == pytest.approx(3000 * 0.99863 + 2000 * 0.052336, abs=1.5)
    assert free.cost.empty < now.cost.empty


@pytest.mark.parametrize("share", [0.0, 0.005, 0.02, 0.1])
@pytest.mark.parametrize("ratio", ["original", "free", "1:1"])
def test_a_mix_trims_to_at_most_a_share(share: float, ratio: str) -> None:
    now = evaluate(with_corners(turned(frame={"ratio": ratio}), "fill", "at most", share).recipe)
    assert now.cost.empty <= share + 1e-9
    everything = evaluate(
        with_corners(turned(frame={"ratio": ratio}), "fill", "nothing cut").recipe
    ).cost.empty
    assert now.cost.empty == pytest.approx(min(share, everything), abs=1.5e-3)


def test_a_mix_needs_its_share() -> None:
    with pytest.raises(RecipeError, match="how much of the frame may be empty"):
        with_corners(turned(), "fill", "at most")


def test_trimming_takes_back_what_filling_widened() -> None:
    before = evaluate(turned())
    for extent in ("same size", "nothing cut"):
        wide = with_corners(turned(), "fill", extent).recipe
        after = trimmed(wide)
        assert after.recipe.frame.rect is None and after.recipe.edges.mode == "trim"
        assert evaluate(after.recipe).frame == before.frame
    own = turned(frame={"rect": [100, 100, 3000, 2000], "allow_empty": True}, edges={"mode": "fill"})
    kept = evaluate(trimmed(own).recipe)
    assert kept.cost.empty == pytest.approx(0, abs=1e-9) and kept.recipe.frame.rect is not None


def test_clear_corners_turn_the_export_to_png() -> None:
    clear = with_corners(turned(), "leave", "as it is")
    assert clear.recipe.export.format == "png" and "PNG" in clear.words
    assert edges_words(evaluate(clear.recipe)) == "2.7% transparent"
    grey = with_corners(turned(), "leave", "as it is", colour="#a3a3a3")
    assert grey.recipe.export.format == "jpeg" and not grey.words
    assert edges_words(evaluate(grey.recipe)) == "2.7% in one colour"


def test_the_choices_and_their_costs() -> None:
    found = {(one.mode, one.extent): one for one in choices(turned())}
    trim, fill = found["trim", None], found["fill", "as it is"]
    assert trim.chosen and not fill.chosen
    assert (round(trim.kept, 4), trim.empty) == (0.8619, 0)
    assert fill.kept == pytest.approx(0.97297, abs=1e-5)
    again = {(one.mode, one.extent): one.chosen for one in choices(fill.recipe)}
    assert [key for key, chosen in again.items() if chosen] == [("fill", "as it is"), ("fill", "same size")]


def test_what_takes_depend_on() -> None:
    """The map and the frame; not the seed, the references or the export."""
    base = with_corners(turned(), "fill", "same size").recipe
    key = evaluate(base).made_for[""]
    same = [
        with_edges(base, seed=7),
        base.model_copy(update={"export": base.export.model_copy(update={"quality": 50})}),
        base.model_copy(update={"frame": base.frame.model_copy(update={"subject": (10.0, 10.0)})}),
    ]
    assert {evaluate(one).made_for[""] for one in same} == {key}
    moved = base.frame.model_copy(update={"rect": (1.0, 0.0, 3000, 2000)})
    turned_more = build({**base.model_dump(mode="json"), "correction": {"by_hand": {"roll": 3.001}}})
    other = [base.model_copy(update={"frame": moved}), turned_more]
    assert len({evaluate(one).made_for[""] for one in other} | {key}) == 3


def test_patches_are_stale_under_another_frame() -> None:
    base = with_corners(turned(), "fill", "same size").recipe
    patch = {"sha256": HASH, "part": "top left corner", "box": [0, 0, 9, 9], "seed": 2}
    fresh = build(
        {
            **base.model_dump(mode="json"),
            "edges": {"mode": "fill", "patches": [{**patch, "made_for": evaluate(base).made_for[""]}]},
        }
    )
    assert evaluate(fresh).stale == ()
    older = with_corners(fresh, "fill", "nothing cut").recipe
    assert [one.part for one in evaluate(older).stale] == ["top left corner"]
    assert edges_words(evaluate(older)).endswith("new, out of date")
    assert "being made again" in finding(evaluate(older))


@pytest.mark.parametrize(
    ("edges", "field"),
    [
        ({"mode": "leave", "colour": "red"}, "edges.colour"),
        ({"seed": -1}, "edges.seed"),
        ({"patches": [{"part": "x"}]}, "edges.patches.0.sha256"),
        (
            {
                "patches": 2
                * [{"sha256": HASH, "part": "a", "box": [0, 0, 1, 1], "seed": 1, "made_for": HASH}],
            },
            "edges.patches",
        ),
    ],
)
def test_edges_that_cannot_be_used(edges: dict[str, Any], field: str) -> None:
    with pytest.raises(RecipeError) as refused:
        turned(edges=edges)
    assert refused.value.field == field
