"""A quarter turn of the photo, and everything in the recipe carried along."""

from __future__ import annotations

from collections.abc import Callable

from sequor.core.references.registry import kind_of
from sequor.recipe.model import Recipe
from sequor.recipe.model.correction import CorrectionPart
from sequor.recipe.model.edges import EdgesPart
from sequor.recipe.model.frame import FramePart
from sequor.recipe.model.lens import LensPart
from sequor.recipe.model.references import NOTE, ReferencePart

from .evolve import evolve

UPENDED = {"level": "upright", "upright": "level"}
"""What something is to become once the photo lies on its side."""


def quarter_turned(recipe: Recipe, clockwise: bool) -> Recipe:
    """The recipe after a quarter turn of the photo, everything in it carried along."""
    photo = recipe.photo
    width, height = float(photo.width), float(photo.height)

    def turn(x: float, y: float) -> tuple[float, float]:
        return (height - y, x) if clockwise else (y, width - x)

    references = [_reference_turned(part, turn) for part in recipe.references]
    frame = _frame_turned(recipe.frame, turn, clockwise)
    turned = evolve(
        photo,
        width=photo.height,
        height=photo.width,
        quarter_turns=(photo.quarter_turns + (1 if clockwise else 3)) % 4,
    )
    correction = _correction_turned(recipe.correction, clockwise)
    size = recipe.export.size
    sized = (size[1], size[0]) if isinstance(size, tuple) else size
    changed = {
        "photo": turned,
        "lens": _lens_turned(recipe.lens, clockwise),
        "references": references,
        "correction": correction,
        "frame": frame,
        "edges": _edges_turned(recipe.edges, turn),
        "export": evolve(recipe.export, size=sized),
    }
    return evolve(recipe, **changed)


def _frame_turned(
    frame: FramePart, turn: Callable[[float, float], tuple[float, float]], clockwise: bool
) -> FramePart:
    """The frame and its subject on the same things; its ratio lies the other way."""

    def box(x: float, y: float, w: float, h: float) -> tuple[float, float, float, float]:
        return (*(turn(x, y + h) if clockwise else turn(x + w, y)), h, w)

    changed: dict[str, object] = {}
    if frame.rect is not None:
        x, y, width, height = frame.rect
        changed["rect"] = (*box(x, y, width, height)[:2], height, width)
    if frame.subject is not None:
        changed["subject"] = turn(*frame.subject) if len(frame.subject) == 2 else box(*frame.subject)
    if ":" in frame.ratio:
        changed["ratio"] = ":".join(reversed(frame.ratio.split(":")))
    return evolve(frame, **changed)


def _edges_turned(edges: EdgesPart, turn: Callable[[float, float], tuple[float, float]]) -> EdgesPart:
    """Areas and straight things on the same things; patches are of no use any more."""
    segments = edges.segments and [(*turn(a, b), *turn(c, d)) for a, b, c, d in edges.segments]
    areas = {
        name: [evolve(area, points=[turn(*point) for point in area.points]) for area in getattr(edges, name)]
        for name in ("donors", "touch_ups")
    }
    return evolve(edges, segments=segments, patches=[], **areas)


def _lens_turned(lens: LensPart, clockwise: bool) -> LensPart:
    """The tangential terms change places with the axes; those of straight things are solved anew."""
    side = 1 if clockwise else -1
    changed: dict[str, float] = {"p1": side * lens.p2, "p2": -side * lens.p1}
    return evolve(lens, **changed)


def _correction_turned(correction: CorrectionPart, clockwise: bool) -> CorrectionPart:
    """Up becomes right in a clockwise turn, and right becomes down: pitch and yaw change places.

    The angles are solved anew from the lines, which have turned too.
    """
    hand, amount, on = correction.by_hand, correction.amount, correction.on
    side = 1 if clockwise else -1
    return evolve(
        correction,
        roll=None,
        pitch=None,
        yaw=None,
        by_hand=evolve(hand, pitch=-side * hand.yaw, yaw=side * hand.pitch),
        amount=evolve(amount, pitch=amount.yaw, yaw=amount.pitch),
        on=evolve(on, pitch=on.yaw, yaw=on.pitch),
        proportion=1 / correction.proportion,
    )


def _reference_turned(
    part: ReferencePart, turn: Callable[[float, float], tuple[float, float]]
) -> ReferencePart:
    kind = kind_of(part.kind)
    points = kind.turned([turn(*point) for point in part.points])
    changed: dict[str, object] = {"kind": kind.after_quarter_turn or part.kind, "points": points}
    changed["shape"] = part.shape and part.shape[::-1]
    if part.become is not None:
        way = UPENDED.get(part.become.way, part.become.way)
        # A lean keeps its sign: top to the right comes to be right end lower, and the other way about.
        changed["become"] = evolve(part.become, way=way)
    note = (part.model_extra or {}).get(NOTE)
    if note and "laid" in note:
        changed[NOTE] = {**note, "laid": [turn(*point) for point in note["laid"]]}
    return evolve(part, **changed)
