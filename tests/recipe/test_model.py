"""The recipe: what is let in, and how refusals name the field."""

from __future__ import annotations

from typing import Any

import jsonschema
import pytest
from pictures import line, recipe

from sequor.pipeline.evaluated import evaluate
from sequor.recipe.model import Recipe, json_schema
from sequor.recipe.parse import RecipeError, build, parse

EXAMPLE = {
    # the example of the published document, word for word; and what came later: the size of the export, more about the edges
    "format": "sequor-recipe", "version": 1,
    "photo": {"width": 6000, "height": 4000, "sha256": None, "quarter_turns": 0, "focal_35mm": 28.0, "focal_px": None},
    "develop": None,
    "lens": {"source": "none", "model": "brown", "unit_px": None, "k1": 0.0, "k2": 0.0, "k3": 0.0, "p1": 0.0, "p2": 0.0,
             "profile": None, "k1_sd": 0.0, "k4": 0.0, "focal_px": None},
    "references": [
        {"id": "r1", "kind": "level", "points": [[412.5, 1810.0], [5620.0, 1731.5]], "sigma_px": 0.7, "group": None,
         "shape": None, "weight": 1.0, "active": True, "become": None}
    ],
    "correction": {"free": ["roll", "pitch"], "roll": None, "pitch": None, "yaw": None, "focal_px": None,
                   "amount": {"roll": 1.0, "pitch": 1.0, "yaw": 1.0}, "on": {"roll": True, "pitch": True, "yaw": True},
                   "by_hand": {"roll": 0.0, "pitch": 0.0, "yaw": 0.0}, "proportion": 1.0, "series": None},
    "view": {"kind": "flat", "looks_like_35mm": None, "uprights": 3.0},
    "bend": {"on": True, "amount": 1.0, "border": "free"},
    "frame": {"ratio": "original", "rect": None, "allow_empty": False, "subject": None, "print": None},
    "edges": {"mode": "trim", "seed": 1, "strips": 1, "hint": None, "colour": None, "segments": None, "donors": [],
              "touch_ups": [], "patches": []},
    "export": {"format": "jpeg", "quality": 95, "size": None, "depth": None, "subsampling": "444", "progressive": False,
               "compression": "deflate", "profile": "keep", "sharpen": 0.0, "sharpen_for": "screen", "leave_out": [],
               "name": None},
}  # fmt: skip


def test_the_example_is_read_and_written_back_unchanged() -> None:
    assert build(EXAMPLE).model_dump(mode="json") == EXAMPLE


def test_everything_left_out_has_the_value_of_the_example() -> None:
    short = {"format": "sequor-recipe", "version": 1, "photo": {"width": 6000, "height": 4000}}
    expected = {**EXAMPLE, "references": []}
    assert build(short).model_dump(mode="json") == expected


def test_published_schema_is_draft_2020_12_and_agrees() -> None:
    """The reference implementation of JSON Schema, the package jsonschema."""
    schema = json_schema()
    jsonschema.Draft202012Validator.check_schema(schema)
    validator = jsonschema.Draft202012Validator(schema)
    validator.validate(EXAMPLE)
    validator.validate({**EXAMPLE, "x-own": {"anything": 1}})
    for wrong in ({**EXAMPLE, "own": 1}, {**EXAMPLE, "version": 2}, {**EXAMPLE, "references": [{"id": "a"}]}):
        assert not validator.is_valid(wrong)


def test_own_keys_are_kept() -> None:
    document = {**EXAMPLE, "x-note": {"a": [1]}, "photo": {**EXAMPLE["photo"], "x-card": "B"}}
    assert build(document).model_dump(mode="json") == document


LEVEL = line("r1", "level", (0, 0), (9, 1))


PROFILE = {"camera": "Invented Optics IO-1", "lens": "IO 12-33mm", "focal_mm": 12.2, "terms": [-0.02]}


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"colour": 1}, "colour"),
        ({"photo": {"width": 10, "height": 10, "depth": 8}}, "photo.depth"),
        ({"photo": {"width": 0, "height": 10}}, "photo.width"),
        ({"photo": {"width": 10, "height": 10, "quarter_turns": 4}}, "photo.quarter_turns"),
        ({"version": 2}, "version"),
        ({"references": [{**LEVEL, "kind": "sideways"}]}, "references.0.kind"),
        ({"references": [LEVEL, LEVEL]}, "references"),
        ({"references": [{**LEVEL, "points": [[0, 0]]}]}, "references.0.points"),
        ({"references": [{**LEVEL, "points": [[3, 3], [3, 3]]}]}, "references.0"),
        ({"references": [{**LEVEL, "kind": "straight"}]}, "references.0"),
        ({"references": [{**LEVEL, "kind": "rectangle"}]}, "references.0"),
        ({"references": [line("r1", "rectangle", (0, 0), (0, 9), (9, 9), (9, 0))]}, "references.0"),
        ({"references": [line("r1", "rectangle", (0, 0), (9, 0), (2, 2), (0, 9))]}, "references.0"),
        ({"references": [{**LEVEL, "shape": [2, 3]}]}, "references.0"),
        ({"references": [{**LEVEL, "shape": [2, 0]}]}, "references.0.shape.1"),
        ({"references": [{**LEVEL, "become": {"way": "sideways"}}]}, "references.0.become.way"),
        (
            {"references": [{**LEVEL, "become": {"way": "level", "off_deg": 6}}]},
            "references.0.become.off_deg",
        ),
        ({"references": [{**LEVEL, "become": {"way": "straight", "off_deg": 1}}]}, "references.0.become"),
        ({"references": [{**LEVEL, "kind": "witness", "become": {"way": "level"}}]}, "references.0"),
        ({"view": {"kind": "curved"}}, "view.kind"),
        ({"view": {"uprights": 21}}, "view.uprights"),
        ({"bend": {"border": "round"}}, "bend.border"),
        ({"lens": {"source": "manual", "model": "equisolid"}}, "lens"),
        ({"lens": {"source": "manual", "focal_px": 900}}, "lens"),
        ({"lens": {"source": "straight", "model": "equisolid", "focal_px": 900}}, "lens"),
        ({"lens": {"source": "manual", "model": "equisolid", "focal_px": 900, "k1": 0.1}}, "lens"),
        ({"lens": {"source": "manual", "k4": 0.1}}, "lens"),
        ({"references": [{**LEVEL, "weight": 0}]}, "references.0.weight"),
        ({"references": [{**LEVEL, "weight": 10.1}]}, "references.0.weight"),
        ({"references": [{**LEVEL, "points": [[0, 0], [float("nan"), 1]]}]}, "references.0.points.1.0"),
        ({"correction": {"free": ["roll"], "roll": 1.0}}, "correction"),
        ({"correction": {"free": ["tilt"]}}, "correction.free.0"),
        ({"correction": {"free": ["roll"], "amount": {"roll": 1.2}}}, "correction.amount.roll"),
        ({"frame": {"ratio": "3/2"}}, "frame.ratio"),
        ({"frame": {"ratio": "0:2"}}, "frame.ratio"),
        ({"frame": {"ratio": "51:1"}}, "frame.ratio"),
        ({"frame": {"rect": [0, 0, 0, 10]}}, "frame.rect.2"),
        ({"frame": {"rect": [1e300, 0, 10, 10]}}, "frame.rect.0"),
        ({"lens": {"source": "manual", "k1": 1e300}}, "lens.k1"),
        ({"references": [{**LEVEL, "points": [[0, 0], [1e-300, 0]]}]}, "references.0"),
        ({"references": [{**LEVEL, "points": [[0, 0], [1e300, 0]]}]}, "references.0.points.1.0"),
        ({"references": [{**LEVEL, "group": "a\x00b"}]}, "references.0.group"),
        (
            {"references": [line(f"r{n}", "straight", *[(i, n) for i in range(1000)]) for n in range(11)]},
            "references",
        ),
        ({"correction": {"free": [], "roll": 1e9, "pitch": 0, "yaw": 0}}, "correction.roll"),
        ({"correction": {"free": [], "proportion": 1e-300}}, "correction.proportion"),
        ({"frame": {"subject": [10]}}, "frame.subject.1"),
        ({"frame": {"subject": [10, 10, -5, 5]}}, "frame.subject"),
        ({"frame": {"subject": [3001, 10]}}, ""),
        ({"frame": {"subject": [2900, 10, 200, 20]}}, ""),
        ({"frame": {"print": {"unit": "in"}}}, "frame.print.paper"),
        ({"frame": {"print": {"paper": [300, 0]}}}, "frame.print.paper.1"),
        ({"frame": {"print": {"paper": [300, 200], "unit": "ft"}}}, "frame.print.unit"),
        ({"frame": {"print": {"paper": [300, 200], "border": 100}}}, "frame.print"),
        ({"frame": {"print": {"paper": [300, 200], "ppi": 5}}}, "frame.print.ppi"),
        ({"export": {"size": "large"}}, "export.size"),
        ({"export": {"size": [0, 10]}}, "export.size"),
        ({"export": {"quality": 101}}, "export.quality"),
        ({"lens": {"k1": -0.1}}, "lens"),
        ({"lens": {"source": "profile"}}, "lens"),
        ({"lens": {"source": "manual", "profile": PROFILE}}, "lens"),
        ({"lens": {"source": "profile", "profile": {"name": "x"}}}, "lens.profile.camera"),
        ({"lens": {"source": "profile", "model": "fisheye", "profile": PROFILE}}, "lens.model"),
        ({"lens": {"source": "profile", "model": "poly5", "profile": PROFILE}}, "lens"),
        ({"lens": {"source": "profile", "model": "poly3", "k2": 0.1, "profile": PROFILE}}, "lens"),
        ({"lens": {"source": "manual", "unit_px": 0}}, "lens.unit_px"),
    ],
)
def test_a_bad_recipe_is_refused_with_the_field(change: dict[str, Any], field: str) -> None:
    with pytest.raises(RecipeError) as refused:
        build(recipe(**change))
    assert refused.value.field == field


@pytest.mark.parametrize("text", ["", "{", "[1]", "null", '"x"', "[" * 100_000])
def test_what_is_no_recipe_at_all(text: str) -> None:
    with pytest.raises(RecipeError):
        parse(text)


def test_what_is_built_is_let_through() -> None:
    kinds = [line(kind, kind, (0, 0), (9, 1)) for kind in ("level", "plumb", "witness", "receding")]
    more = [
        line("s", "straight", (0, 0), (9, 1), (20, 3)),
        line("r", "rectangle", (0, 0), (9, 1), (9, 9), (0, 9), shape=[2, 3]),
    ]
    correction = {"free": ["roll", "pitch", "yaw", "focal_px"], "by_hand": {"yaw": 1}, "proportion": 1.1}
    assert evaluate(Recipe.model_validate(recipe(references=kinds + more, correction=correction)))
