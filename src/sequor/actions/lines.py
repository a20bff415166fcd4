"""Lines: laid, moved, changed, taken away. Whatever changes them, what they say is solved anew."""

from __future__ import annotations

import math
from typing import Annotated, Any, Literal

from pydantic import Field

from sequor.actions.base import Action, Takes
from sequor.advice.made import Made
from sequor.core.estimation.unknowns import ANGLES
from sequor.core.references.line import SMALLEST_SIGMA_PX
from sequor.core.references.registry import Kind, kind_of
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.base import Extent, Point, Text
from sequor.recipe.model.references import NOTE, ReferencePart
from sequor.recipe.parse import RecipeError
from sequor.recipe.reopen import taking_out, to_solve_anew
from sequor.wording.kinds import KIND_WORDS

Pointer = Literal["mouse", "pen", "touch", "keys"]

OFF_BY: dict[Pointer, float] = {"mouse": 1.0, "pen": 1.0, "touch": 3.0}
"""CSS px by which a pointer is off (docs/geometry.md)."""

OFF_BY_KEYS = 0.5
"""Photo pixels by which a point is off that was placed by keys under the magnifier."""

LaidKind = Literal[Kind, "slope"]
"""A kind; "slope": level or plumb, whichever the line lies nearer to."""

Weight = Annotated[float, Field(ge=0.1, le=10)]


class Pointing(Action):
    """Something that a hand points at. ``scale``: CSS px per photo pixel at that zoom."""

    by: Pointer = "mouse"
    scale: Annotated[float, Field(gt=0, le=1000, allow_inf_nan=False)] = 1.0

    @property
    def sigma_px(self) -> float:
        """The standard deviation of a point in photo pixels."""
        if self.by == "keys":
            return OFF_BY_KEYS
        return max(SMALLEST_SIGMA_PX, OFF_BY[self.by] / self.scale)


class Lay(Pointing):
    """A new line, through points in photo pixels, under an id that is still free; ``group`` is that of
    receding lines. ``snap``: onto the real edge under it, where there is one."""

    do: Literal["lay"]
    line: Text = Field(min_length=1, max_length=64)
    kind: LaidKind
    points: list[Point] = Field(min_length=2, max_length=1000)
    group: Text = "1"
    snap: bool = False

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        kind = _by_slope(self.points) if self.kind == "slope" else self.kind
        made = {
            "id": self.line,
            "kind": kind,
            "points": kind_of(kind).laid(_rounded(self.points)),
            "sigma_px": self.sigma_px,
            "group": self.group if kind_of(kind).grouped else None,
        }
        after = to_solve_anew(evolve(recipe, references=[*recipe.references, made]))
        words = f"Line {len(after.references)}: drawn, {KIND_WORDS[kind].called}"
        snap = (self.line,) if self.snap and not kind_of(kind).tells_lens else ()
        return Made(_square_on(after, kind), words, snap=snap)


class Move(Pointing):
    """A line with other points; a snapped one counts as laid anew."""

    do: Literal["move"]
    line: str
    points: list[Point] = Field(min_length=2, max_length=1000)
    snap: bool = False

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        number, before = line_of(recipe, self.line)
        changes = {"points": _rounded(self.points), "sigma_px": self.sigma_px, NOTE: None}
        snap = (self.line,) if self.snap and not kind_of(before.kind).tells_lens else ()
        return Made(_with_line(recipe, self.line, changes), f"Line {number}: moved", snap=snap)


class Become(Action):
    """A line of another kind, with as many points as that one needs."""

    do: Literal["kind"]
    line: str
    kind: Kind
    group: Text = "1"

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        number, before = line_of(recipe, self.line)
        kind = kind_of(self.kind)
        points = _rounded(kind.taken_over(before.points, kind_of(before.kind).joined))
        changes: dict[str, Any] = {
            "kind": self.kind,
            "points": points,
            "group": (before.group or self.group) if kind.grouped else None,
            "shape": before.shape if kind.shaped else None,
            "become": kind.becomes and before.become and {"way": kind.becomes},
        }
        if len(points) != len(before.points):
            changes[NOTE] = None
        after = _square_on(_with_line(recipe, self.line, changes), self.kind)
        return Made(after, f"Line {number}: changed to {KIND_WORDS[self.kind].called}")


class AddPoint(Action):
    """A straight thing with one point more, in the middle of its longest part."""

    do: Literal["add point"]
    line: str

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        points = list(line_of(recipe, self.line)[1].points)
        at = max(range(len(points) - 1), key=lambda index: math.dist(*points[index : index + 2]))
        (ax, ay), (bx, by) = points[at : at + 2]
        points.insert(at + 1, ((ax + bx) / 2, (ay + by) / 2))
        return _changed(recipe, self.line, "point added", points=_rounded(points))


class AsLaid(Action):
    """A snapped line back to where the hand had laid it."""

    do: Literal["as laid"]
    line: str

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        number, before = line_of(recipe, self.line)
        note = (before.model_extra or {}).get(NOTE) or {}
        if "laid" not in note:
            raise RecipeError(f"Line {number} was not snapped", "references")
        sigma = note.get("laid_sigma_px") or before.sigma_px
        changes = {"points": note["laid"], "sigma_px": sigma, NOTE: None}
        return Made(_with_line(recipe, self.line, changes), f"Line {number}: snap undone")


class Snap(Action):
    """A line onto the real edge under it."""

    do: Literal["snap"]
    line: str

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        number, _ = line_of(recipe, self.line)
        return Made(to_solve_anew(recipe), f"Line {number}: snapped to the edge", snap=(self.line,))


class Switch(Action):
    """A line that counts, or does not."""

    do: Literal["switch line"]
    line: str
    active: bool

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        said = "used again" if self.active else "ignored"
        return _changed(recipe, self.line, said, active=self.active)


class Weigh(Action):
    """How many times a line counts, as if it had been laid so often."""

    do: Literal["weight"]
    line: str
    weight: Weight

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        return _changed(recipe, self.line, f"weight {self.weight:g}", weight=self.weight)


class Group(Action):
    """The group of a receding line: those that are parallel in the world."""

    do: Literal["group"]
    line: str
    group: Text

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        return _changed(recipe, self.line, f"in parallel set {self.group}", group=self.group)


class Shape(Action):
    """The true proportion of a rectangle, width and height in any unit; null: it is not known."""

    do: Literal["shape"]
    line: str
    shape: tuple[Extent, Extent] | None

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        number, _ = line_of(recipe, self.line)
        return Made(
            _with_line(recipe, self.line, {"shape": self.shape}), f"Rectangle {number}: true proportions set"
        )


class Delete(Action):
    """A line taken away."""

    do: Literal["delete line"]
    line: str

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        number, _ = line_of(recipe, self.line)
        others = [one for one in recipe.references if one.id != self.line]
        return Made(to_solve_anew(evolve(recipe, references=others)), f"Line {number}: deleted")


class Clear(Action):
    """All lines taken away."""

    do: Literal["clear lines"]

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        return Made(to_solve_anew(evolve(recipe, references=[])), "Deleted all lines")


def line_of(recipe: Recipe, name: str) -> tuple[int, ReferencePart]:
    """The number of a line, as people count, and the line. Raises RecipeError."""
    for index, part in enumerate(recipe.references):
        if part.id == name:
            return index + 1, part
    raise RecipeError("This line is not there any more", "references")


def _with_line(recipe: Recipe, name: str, changes: dict[str, Any]) -> Recipe:
    """The recipe with one of its lines changed; its note goes when it is None there."""

    def changed(part: ReferencePart) -> object:
        values = {**dict(part), **changes}
        return {key: value for key, value in values.items() if key != NOTE or value is not None}

    references = [changed(part) if part.id == name else part for part in recipe.references]
    return to_solve_anew(evolve(recipe, references=references))


def _changed(recipe: Recipe, name: str, said: str, **changes: Any) -> Made:
    number, _ = line_of(recipe, name)
    return Made(_with_line(recipe, name, changes), f"Line {number}: {said}")


def _by_slope(points: list[Point]) -> Kind:
    (ax, ay), (bx, by) = points[0], points[-1]
    return "plumb" if abs(by - ay) > abs(bx - ax) else "level"


def _square_on(recipe: Recipe, kind: Kind) -> Recipe:
    """A rectangle is laid to be made square-on: all three angles come free."""
    return taking_out(recipe, *ANGLES) if kind_of(kind).shaped else recipe


def _rounded(points: list[Point]) -> list[Point]:
    return [(round(x, 2), round(y, 2)) for x, y in points]
