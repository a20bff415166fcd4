"""What a choice cuts of the things that were marked or drawn, told before it is taken."""

from __future__ import annotations

from typing import Any

import pytest
from pictures import line, recipe

from sequor.actions.base import no_takes
from sequor.actions.frame import Place
from sequor.advice.edges import choices
from sequor.advice.framing_options import cost_rows
from sequor.advice.presets import presets
from sequor.operations.acting import shrunk_words
from sequor.pipeline.cuts import CutThing
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.parse import build

HORIZON = line("h", "level", (50, 330), (850, 270))


def made(*references: Any, **frame: Any) -> Recipe:
    return build(recipe(900, 600, references=list(references), frame=frame, correction={"free": ["roll"]}))


@pytest.mark.parametrize(
    ("reference", "rect", "found"),
    [
        (line("v", "plumb", (300, 100), (300, 500)), [200, 150, 300, 400], CutThing("top", 1)),
        (line("v", "plumb", (300, 500), (300, 100)), [200, 80, 300, 200], CutThing("foot", 1)),
        (line("v", "plumb", (300, 100), (300, 500)), [400, 150, 300, 200], CutThing("all", 1)),
        (line("v", "plumb", (300, 0), (300, 500)), [200, 150, 300, 400], None),
        (line("v", "plumb", (300, 100), (300, 500), active=False), [200, 150, 300, 400], None),
        (line("h", "level", (100, 300), (800, 300)), [200, 150, 300, 400], None),
        (
            line("r", "rectangle", (300, 200), (400, 200), (400, 400), (300, 400)),
            [200, 150, 150, 400],
            CutThing("all", 1),
        ),
        (
            line("r", "rectangle", (300, 200), (400, 200), (400, 400), (300, 400)),
            [200, 150, 300, 400],
            None,
        ),
    ],
)
def test_ends_inside_the_photo_that_the_frame_cuts(
    reference: Any, rect: list[float], found: CutThing
) -> None:
    there = evaluate(
        build(
            recipe(
                900,
                600,
                references=[reference],
                frame={"ratio": "free", "rect": rect},
                correction={"free": []},
            )
        )
    )
    assert there.cut_things == (() if found is None else (found,))


def test_every_choice_tells_what_it_cuts() -> None:
    """A subject in the corner that a turned frame leaves out: each way that cuts it says so, none that keeps it."""
    asked = made(HORIZON, ratio="original", subject=[20, 20, 40, 40])
    rows = {row.label: row.loss for row in cost_rows(asked) if row.present}
    assert rows["Crop to 3:2"] == "cuts into the subject" and rows["Fill, whole picture"] == ""
    ways = {one.name: one.loss for one in presets(evaluate(asked))}
    assert ways["Tilt only"] == "cuts into the subject" and ways["Nothing"] == ""
    reaches = {(one.mode, one.extent): one.loss for one in choices(asked)}
    assert reaches["trim", None] == "cuts into the subject" and reaches["fill", "nothing cut"] == ""


def test_what_is_chosen_is_what_happens() -> None:
    """One horizon tells the tilt and nothing of the verticals, whatever may be corrected."""
    both = build(recipe(900, 600, references=[HORIZON], correction={"free": ["roll", "pitch"]}))
    assert [one.name for one in presets(evaluate(both)) if one.chosen] == ["Tilt only"]


def test_a_frame_may_reach_beyond_the_picture_rather_than_shrink() -> None:
    asked = made(subject=[850, 300])
    wish = {"do": "place", "what": "subject", "across": 1 / 3, "down": None}
    shrunk = Place.model_validate(wish).apply(asked, no_takes)
    assert shrunk.words.startswith("The frame was reduced to") and not shrunk.recipe.frame.allow_empty
    filled = Place.model_validate({**wish, "fill": True}).apply(asked, no_takes)
    assert filled.words == "" and filled.recipe.edges.mode == "fill"
    there = evaluate(filled.recipe)
    assert there.frame.width == 900 and there.frame.at(1 / 3, 0)[0] == pytest.approx(850)


def test_a_frame_that_has_to_follow_and_shrinks_is_told() -> None:
    before, asked = made(rect=[0, 0, 900, 600]), made(HORIZON, rect=[0, 0, 900, 600])
    after = evolve(asked, frame=evolve(asked.frame, rect=(30.0, 20.0, 810.0, 540.0)))
    assert shrunk_words(before, asked, after).startswith("The frame was reduced to 90%:")
    assert shrunk_words(before, asked, asked) == ""
    assert shrunk_words(before, after, after) == ""
