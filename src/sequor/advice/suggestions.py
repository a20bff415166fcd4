"""What the photographer may want to do next: offered in words, never done unasked.

Every choice carries the recipe that it leads to, so that it can be looked at before it is taken.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from sequor.advice.presets import preset_action
from sequor.core.estimation.consistency import Conflict
from sequor.core.estimation.unknowns import ANGLES
from sequor.core.references.registry import kind_of
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.pipeline.readings import ReferenceResult
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.references import ReferencePart
from sequor.recipe.parse import RecipeError
from sequor.recipe.reopen import taking_out, to_solve_anew
from sequor.wording.frame import percent
from sequor.wording.kinds import KIND_WORDS
from sequor.wording.numbers import degrees
from sequor.wording.words import HARDLY_MEANT_DEG

STRONG_AIM_DEG = 10.0
"""From here on an upward aim is strong enough that walls brought fully upright look top-heavy."""

EASED_AMOUNT = 0.85
"""Leaving a tenth to a fifth of a strong upward aim looks natural (common practice, no source)."""

NOTICED_AIM_DEG = 0.5
"""Less than this turns no wall so far that it is seen (common practice, no source)."""

NOTICED_PROPORTION = 0.005

VERTICALS, SQUARE_ON = preset_action("Verticals too"), preset_action("Square-on")

LEFT = "x-left"
"""The key under which a recipe remembers which questions were answered with "leave as it is"."""


@dataclass(frozen=True)
class Choice:
    """Something that can be done: its name, the action in words for the log, and the recipe after it."""

    label: str
    action: str
    recipe: Recipe


@dataclass(frozen=True)
class Offer:
    """A question with its choices; ``name`` tells offers apart, ``lines`` are the references it speaks of."""

    name: str
    words: str
    lines: tuple[str, ...]
    choices: tuple[Choice, ...]


def offers(evaluation: Evaluated) -> list[Offer]:
    """What can be offered now."""
    found = [_about_conflict(evaluation, conflict) for conflict in evaluation.solution.conflicts]
    found += [*_about_what_is_left(evaluation), *_about_aim(evaluation), *_about_shapes(evaluation)]
    left = (evaluation.recipe.model_extra or {}).get(LEFT) or []
    return [offer for offer in found if offer.choices and offer.name not in left]


def _about_conflict(evaluation: Evaluated, conflict: Conflict) -> Offer:
    recipe = evaluation.recipe
    numbers = {part.id: index + 1 for index, part in enumerate(recipe.references)}
    called = {part.id: f"{KIND_WORDS[part.kind].noun} {numbers[part.id]}" for part in recipe.references}
    choices = []
    if conflict.reason == "receding-as-level":
        (name,) = conflict.ids
        choices.append(
            Choice(
                f"Yes, line {numbers[name]} recedes",
                f"Line {numbers[name]}: changed to receding",
                _with_reference(recipe, name, kind="receding", group=_group_for(recipe)),
            )
        )
        words = (
            f"Does line {numbers[name]} recede from the camera? Then its slope comes from perspective, not "
            "from a tilted camera."
        )
    elif conflict.turn_deg is not None and abs(conflict.turn_deg) <= HARDLY_MEANT_DEG:
        aside = f"{abs(conflict.turn_deg):.0f}°"
        better = "" if conflict.turn_meets else " much better"
        words = f"These lines agree{better} if the camera pointed {aside} to one side."
        choices.append(Choice("Make square-on", SQUARE_ON, taking_out(recipe, *ANGLES)))
    else:
        words = "These lines cannot all be right. Some buildings do slope; if so, leave it as it is."
    if len(conflict.ids) <= 2:
        choices += [
            Choice(
                f"Ignore {called[name]}",
                f"{called[name].capitalize()}: ignored",
                _with_reference(recipe, name, active=False),
            )
            for name in conflict.ids
        ]
    name = f"conflict {' '.join(sorted(conflict.ids))}"
    left = [*((recipe.model_extra or {}).get(LEFT) or []), name]
    choices.append(Choice("Leave as it is", "Disagreement: left as it is", evolve(recipe, **{LEFT: left})))
    return Offer(name, words, conflict.ids, tuple(choices))


def _about_what_is_left(evaluation: Evaluated) -> Iterator[Offer]:
    """What the lines know and nobody asked to take out: the aim, and how far the picture is turned aside."""
    also, recipe = evaluation.solution.also_determined, evaluation.recipe
    known = evaluation.solution.known
    if known is None or evaluation.solution.conflicts:
        return
    if "pitch" in also and abs(known.attitude.pitch) >= NOTICED_AIM_DEG:
        choices = _with_cost("Correct verticals too", VERTICALS, taking_out(recipe, "roll", "pitch"))
        yield Offer("aim", "The converging verticals can be corrected too.", (), choices)
    elif "yaw" in also and abs(known.attitude.yaw) >= NOTICED_AIM_DEG:
        choices = _with_cost("Make square-on", SQUARE_ON, taking_out(recipe, *ANGLES))
        yield Offer("aside", "The picture can be made square-on too.", (), choices)


def _with_cost(name: str, action: str, recipe: Recipe) -> tuple[Choice, ...]:
    """One choice with what it costs beside it; none where it turns too far."""
    try:
        there = evaluate(evolve(recipe, frame=evolve(recipe.frame, rect=None)))
    except RecipeError:
        return ()
    return (Choice(f"{name}: keeps {percent(there.cost.kept)}", action, recipe),)


def _about_aim(evaluation: Evaluated) -> Iterator[Offer]:
    solution, correction = evaluation.solution, evaluation.recipe.correction
    pitch = solution.attitude.pitch
    eased = correction.amount.pitch < 1 or not correction.on.pitch or correction.by_hand.pitch
    if solution.sd["pitch"] is None or solution.conflicts or pitch < STRONG_AIM_DEG or eased:
        return
    share = round(100 * EASED_AMOUNT)
    amount = evolve(correction.amount, pitch=EASED_AMOUNT)
    eased_recipe = evolve(evaluation.recipe, correction=evolve(correction, amount=amount))
    yield Offer(
        "ease",
        f"With the camera pointed {degrees(pitch, 0)} up, perfectly straight verticals can look top-heavy.",
        (),
        (Choice(f"Correct only {share}%", f"Verticals: {share}% corrected", eased_recipe),),
    )


def _about_shapes(evaluation: Evaluated) -> Iterator[Offer]:
    recipe = evaluation.recipe
    for index, result in enumerate(evaluation.references):
        if result.true_proportion is None or result.verdict == "off":
            continue
        wanted = result.true_proportion
        if abs(wanted / recipe.correction.proportion - 1) < NOTICED_PROPORTION:
            continue
        proportion = evolve(recipe.correction, proportion=wanted)
        choices = [
            Choice(
                "Use its proportions",
                f"Proportions: from rectangle {index + 1}",
                evolve(recipe, correction=proportion),
            )
        ]
        if "focal_px" not in recipe.correction.free:
            free = [*recipe.correction.free, "focal_px"]
            choices.append(
                Choice(
                    "Use it for the focal length",
                    f"Focal length: from rectangle {index + 1}",
                    to_solve_anew(recipe, free=free, proportion=1.0),
                )
            )
        yield Offer(
            f"shape {result.id}", _shape_words(index + 1, result, recipe), (result.id,), tuple(choices)
        )


def _shape_words(number: int, result: ReferenceResult, recipe: Recipe) -> str:
    off = 100 * abs(recipe.correction.proportion / (result.true_proportion or 1.0) - 1)
    too = "tall" if recipe.correction.proportion > (result.true_proportion or 1.0) else "wide"
    return f"Rectangle {number} comes out {off:.1f}% too {too} for its true proportions."


def _with_reference(recipe: Recipe, name: str, **changes: object) -> Recipe:
    references: list[ReferencePart] = [
        evolve(part, **changes) if part.id == name else part for part in recipe.references
    ]
    return to_solve_anew(evolve(recipe, references=references))


def _group_for(recipe: Recipe) -> str:
    """The group of the receding lines that are there, else the first."""
    groups = [part.group for part in recipe.references if kind_of(part.kind).grouped and part.group]
    return groups[0] if groups else "1"
