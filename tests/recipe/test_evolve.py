"""A recipe is changed in one way, which validates."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest
from pictures import recipe
from pydantic import ValidationError

import sequor
from sequor.recipe.evolve import evolve
from sequor.recipe.parse import RecipeError, build

SOURCES = Path(sequor.__file__).parent
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


def test_a_recipe_does_not_change_once_it_was_read() -> None:
    with pytest.raises(ValidationError, match="frozen"):
        PLAIN.export.quality = 3  # type: ignore[misc]


def test_no_other_way_is_used() -> None:
    """pydantic's model_copy checks nothing."""
    for file in SOURCES.rglob("*.py"):
        names = {
            node.attr for node in ast.walk(ast.parse(file.read_text())) if isinstance(node, ast.Attribute)
        }
        assert not names & {"model_copy", "model_construct"}, file
