"""A recipe is changed in one way, which validates; fingerprints of many touch-ups cost little."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest
from pictures import recipe

from sequor.pipeline import evaluate, fingerprints
from sequor.recipe.evolve import evolve
from sequor.recipe.parse import RecipeError, build

SOURCES = Path(fingerprints.__file__).parents[1]
PLAIN = build(recipe())


@pytest.mark.parametrize(
    ("part", "change", "field"),
    [
        (PLAIN.export, {"qualty": 80}, "qualty"),
        (PLAIN.export, {"quality": 180}, "quality"),
        (PLAIN.frame, {"rect": (0, 0, "wide", 2)}, "rect.2"),
        (PLAIN.correction, {"roll": 1.0}, ""),
        (PLAIN, {"edges": {"mode": "glue"}}, "edges.mode"),
    ],
)
def test_a_wrong_change_is_refused_with_its_field(
    part: object, change: dict[str, object], field: str
) -> None:
    with pytest.raises(RecipeError) as refused:
        evolve(part, **change)  # type: ignore[type-var]
    assert refused.value.field == field


def test_a_change_leaves_the_part_as_it_was_and_keeps_own_notes() -> None:
    noted = evolve(PLAIN, **{"x-note": {"a": 1}})
    changed = evolve(noted, export=evolve(noted.export, quality=70))
    assert (noted.export.quality, changed.export.quality) == (95, 70)
    assert (changed.model_extra or {})["x-note"] == {"a": 1}


def test_no_other_way_is_used() -> None:
    """pydantic's model_copy checks nothing."""
    for file in SOURCES.rglob("*.py"):
        names = {
            node.attr for node in ast.walk(ast.parse(file.read_text())) if isinstance(node, ast.Attribute)
        }
        assert not names & {"model_copy", "model_construct"}, file


def test_fingerprints_grow_with_the_touch_ups_not_with_their_square(monkeypatch: pytest.MonkeyPatch) -> None:
    """Counted, not timed: each shape is written once, each outline looked at once, however many lie beneath."""
    areas = [{"id": f"t{n}", "points": [[40 + n, 40], [60 + n, 40], [60 + n, 60]]} for n in range(50)]
    now = evaluate.evaluate(build(recipe(edges={"touch_ups": areas})))
    written: list[int] = []
    real = fingerprints._json
    monkeypatch.setattr(fingerprints, "_json", lambda value: written.append(1) or real(value))
    fingerprints._shape.cache_clear()
    found = fingerprints.keys(now)
    assert len(found) == 51 and len(set(found.values())) == 51
    assert len(written) < 51 * 8
    # Asked again of the same evaluation, nothing is worked out.
    written.clear()
    assert fingerprints.keys(now) is found and not written
