"""A step, or all of them, as when the photo was imported."""

from __future__ import annotations

from typing import Any

import pytest
from pictures import line, recipe

from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.parse import build
from sequor.recipe.reset import Step, hand_term, reset, without_lens

FIRST = build(recipe())
STRAIGHT = line("s", "straight", (0, 0), (50, 1), (90, 0))
LEVEL = line("l", "level", (0, 0), (90, 3))


def worked(**parts: Any) -> Recipe:
    """A photo on which something was done at every step."""
    document = FIRST.model_dump(mode="json")
    changed = {
        "references": [STRAIGHT, LEVEL],
        "lens": {"source": "straight"},
        "correction": {"free": ["roll", "k1", "k2"], "by_hand": {"roll": 1.5}},
        "frame": {"ratio": "1:1", "rect": [1, 2, 30, 30], "print": {"paper": [6, 4]}},
        "edges": {"mode": "fill", "seed": 4},
        "export": {"format": "png", "size": "print"},
    }
    return build({**document, **changed, **parts})


def test_lines_keep_what_the_lens_is_told_by() -> None:
    after = reset(worked(), FIRST, "lines")
    assert [one.id for one in after.references] == ["s"]
    assert after.correction.free == [*FIRST.correction.free, "k1", "k2"]
    assert after.correction.by_hand == FIRST.correction.by_hand
    assert after.frame == worked().frame


def test_lines_go_where_no_straight_thing_tells_the_lens() -> None:
    after = reset(worked(lens={"source": "manual", "k1": 0.1}), FIRST, "lines")
    assert after.references == [] and after.correction == FIRST.correction
    assert after.lens.k1 == 0.1


def test_the_frame_takes_the_size_of_its_print_along() -> None:
    after = reset(worked(), FIRST, "frame")
    assert after.frame == FIRST.frame
    assert after.export.size is None and after.export.format == "png"
    typed = reset(worked(export={"size": [600, 400]}), FIRST, "frame")
    assert typed.export.size == (600, 400)


def test_edges_make_the_frame_the_largest_again() -> None:
    wide = {"rect": [-5, -5, 90, 60], "allow_empty": True}
    after = reset(worked(frame=wide), FIRST, "edges")
    assert after.edges == FIRST.edges
    assert after.frame.rect is None and not after.frame.allow_empty
    inside = reset(worked(), FIRST, "edges")
    assert inside.frame == worked().frame


def test_the_lens_leaves_the_lines_and_solves_them_anew() -> None:
    solved = worked(
        correction={"free": ["roll", "focal_px", "k1"], "roll": 1, "pitch": 0, "yaw": 0, "focal_px": 800}
    )
    after = reset(solved, FIRST, "lens")
    assert after.lens.source == "none" and [one.id for one in after.references] == ["s", "l"]
    assert after.correction.free == ["roll", "focal_px"]
    assert not after.correction.solved and after.correction.focal_px is None


def test_the_lens_that_was_recognised_on_import_comes_back() -> None:
    profile = {"source": "profile", "profile": {"camera": "A", "lens": "B", "focal_mm": 9, "terms": []}}
    first = build({**recipe(), "lens": profile})
    after = reset(worked(), first, "lens")
    assert after.lens == first.lens and after.correction.free == ["roll"]


def test_what_the_hand_gave_the_lens_is_remembered() -> None:
    by_hand = worked(lens={"source": "manual", "k1": -0.05})
    bare = without_lens(by_hand)
    assert hand_term(bare) == -0.05 and bare.lens.k1 == 0
    # Also through another step without it.
    assert hand_term(without_lens(bare)) == -0.05
    assert hand_term(without_lens(FIRST)) == 0


@pytest.mark.parametrize("step", ["lens", "lines", "frame", "edges", "export"])
def test_a_step_that_is_as_imported_stays_so(step: Step) -> None:
    assert reset(FIRST, FIRST, step) == evolve(FIRST)


def test_all_is_the_photo_as_it_was_imported() -> None:
    assert reset(worked(), FIRST, None) == FIRST
