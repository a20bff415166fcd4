"""New pixels: takes, hints, strips, and what is drawn on the picture."""

from __future__ import annotations

import math
from typing import Annotated, Any, Literal

from pydantic import Field

from sequor.actions.base import Action, Takes
from sequor.advice.edges import with_edges
from sequor.advice.made import Made
from sequor.pipeline.evaluated import evaluate
from sequor.pipeline.new_pixels import TOUCH_UP, patch_name
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.base import Extent, Point, Share, Text
from sequor.recipe.model.edges import MOST_AREA_POINTS, Hint, PatchPart, Seed, TouchUpPart
from sequor.recipe.parse import RecipeError

USUAL_BRUSH, USUAL_FEATHER = 0.015, 0.004
"""Of the photo's longer side: the brush, and how far a touch-up runs out, where nothing else was said."""

SOURCE_WORDS = {"from here": "copy only from here", "not from here": "never copy from here"}

MOST_POINTS = 400
"""Points that one area is kept with."""

Strips = Annotated[int, Field(ge=1, le=8)]

Feather = Annotated[float, Field(ge=0, le=500)]


class TakeCorners(Action):
    """A take that is done, for one ``part`` of the empty area or, null, for all of it."""

    do: Literal["take"]
    seed: Seed
    part: str | None = None

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        chosen = _done(takes, evaluate(recipe).made_for[""], self.seed)
        found = [patch for patch in chosen if self.part in (None, patch.part)]
        if self.part is None:
            others = [patch for patch in recipe.edges.patches if patch.part.startswith(TOUCH_UP)]
            after = with_edges(recipe, seed=self.seed, patches=[*others, *found])
            return Made(after, f"Corners: take {self.seed} everywhere")
        others = [patch for patch in recipe.edges.patches if patch.part != self.part]
        return Made(
            with_edges(recipe, patches=[*others, *found]), f"Corners: take {self.seed} in the {self.part}"
        )


class TakeTouchUp(Action):
    """A take that is done, for a touch-up."""

    do: Literal["touch-up take"]
    area: str
    seed: Seed

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        key = evaluate(recipe).made_for.get(self.area, "")
        part = patch_name(self.area)
        found = [patch for patch in _done(takes, key, self.seed) if patch.part == part]
        others = [patch for patch in recipe.edges.patches if patch.part != part]
        after = with_edges(_with_touch_up(recipe, self.area, seed=self.seed), patches=[*others, *found])
        return Made(after, f"Touch-up {self.area[1:]}: take {self.seed}")


def _done(takes: Takes, key: str, seed: int) -> list[PatchPart]:
    """The patches of a take. Raises RecipeError when it is not done."""
    found = takes(key).get(seed)
    if found is None:
        raise RecipeError(
            f"Take {seed} is not ready for the picture as it is now. Wait for it, or ask for it again", "seed"
        )
    return list(found)


class SetHint(Action):
    """What an outside painter is to paint, into the corners or into a touch-up (``area``); null: they are
    filled from the picture."""

    do: Literal["hint"]
    hint: Hint | None
    area: str | None = None

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        if self.area is None:
            words = f"Corners: painted, {self.hint}" if self.hint else "Corners: filled from the picture"
            return Made(with_edges(recipe, hint=self.hint), words)
        name = f"Touch-up {self.area[1:]}"
        words = f"{name}: painted, {self.hint}" if self.hint else f"{name}: filled from the picture"
        return Made(_with_touch_up(recipe, self.area, hint=self.hint), words)


class SetStrips(Action):
    """In how many strips what is new is filled, from the picture outwards."""

    do: Literal["strips"]
    strips: Strips

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        words = f"Corners: filled in {'one go' if self.strips == 1 else f'{self.strips} strips'}"
        return Made(with_edges(recipe, strips=self.strips), words)


class Draw(Action):
    """An area in corrected pixels under an id that is still free: brushed with a ``radius``, or, null, drawn
    around. ``feather``: by how many pixels a touch-up runs out; null: as is usual."""

    do: Literal["draw"]
    what: Literal["touch-up", "from here", "not from here"]
    area: Text = Field(min_length=1, max_length=20)
    points: list[Point] = Field(min_length=1, max_length=MOST_AREA_POINTS)
    radius: Extent | None = None
    feather: Feather | None = None

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        made: dict[str, Any] = {
            "id": self.area,
            "points": thinned(self.points, self.radius),
            "radius": self.radius,
        }
        edges = recipe.edges
        if self.what == "touch-up":
            longer = max(recipe.photo.width, recipe.photo.height)
            usual = max(1.0, round(USUAL_FEATHER * longer))
            made["feather"] = usual if self.feather is None else self.feather
            return Made(
                with_edges(recipe, touch_ups=[*edges.touch_ups, made]), f"Touch-up {self.area[1:]}: added"
            )
        donors = [*edges.donors, {**made, "kind": self.what}]
        return Made(with_edges(recipe, donors=donors), f"Sources: area added ({SOURCE_WORDS[self.what]})")


def thinned(points: list[Point], radius: float | None) -> list[Point]:
    """A drawn line with fewer points, none of them farther off than half a brush, or a pixel; its ends stay.

    >>> thinned([(0.0, 0.0), (0.4, 0.0), (3.0, 0.0), (3.2, 0.0)], None)
    [(0.0, 0.0), (3.0, 0.0), (3.2, 0.0)]
    """
    apart = 1.0 if radius is None else max(1.0, radius / 2)
    while True:
        kept: list[Point] = []
        for point in points:
            if not kept or math.dist(kept[-1], point) >= apart:
                kept.append(point)
        if kept[-1] != points[-1]:
            kept.append(points[-1])
        if len(kept) <= MOST_POINTS:
            return [(round(x, 1), round(y, 1)) for x, y in kept]
        apart *= 2


class MoveArea(Action):
    """An area, whichever kind it is, moved so that its first point lies at ``to``, in corrected pixels."""

    do: Literal["move area"]
    area: str
    to: Point

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        moved = {}
        words = ""
        for kind in ("touch_ups", "donors"):
            areas = list(getattr(recipe.edges, kind))
            for index, one in enumerate(areas):
                if one.id == self.area:
                    dx, dy = self.to[0] - one.points[0][0], self.to[1] - one.points[0][1]
                    areas[index] = evolve(one, points=[(x + dx, y + dy) for x, y in one.points])
                    words = (
                        f"Touch-up {self.area[1:]}: moved" if kind == "touch_ups" else "Sources: area moved"
                    )
            moved[kind] = areas
        if not words:
            raise RecipeError(GONE, "edges")
        return Made(with_edges(recipe, **moved), words)


class ChangeTouchUp(Action):
    """A touch-up switched on or off, more or less of it, a softer or harder edge."""

    do: Literal["touch-up"]
    area: str
    active: bool | None = None
    amount: Share | None = None
    feather: Feather | None = None

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        said = [
            *([] if self.active is None else ["shown" if self.active else "hidden"]),
            *([] if self.amount is None else [f"amount {100 * self.amount:g}%"]),
            *([] if self.feather is None else [f"feather {self.feather:g} px"]),
        ]
        changes = self.model_dump(exclude={"do", "area"}, exclude_none=True)
        return Made(
            _with_touch_up(recipe, self.area, **changes), f"Touch-up {self.area[1:]}: {', '.join(said)}"
        )


class RemoveArea(Action):
    """An area taken away, whichever kind it is."""

    do: Literal["remove area"]
    area: str

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        edges = recipe.edges
        touch_ups = [one for one in edges.touch_ups if one.id != self.area]
        donors = [one for one in edges.donors if one.id != self.area]
        if len(touch_ups) < len(edges.touch_ups):
            return Made(with_edges(recipe, touch_ups=touch_ups), f"Touch-up {self.area[1:]}: removed")
        if len(donors) == len(edges.donors):
            raise RecipeError(GONE, "edges")
        (kind,) = (one.kind for one in edges.donors if one.id == self.area)
        return Made(with_edges(recipe, donors=donors), f"Sources: area removed ({SOURCE_WORDS[kind]})")


GONE = "This area is not there any more"


def _with_touch_up(recipe: Recipe, name: str, **changes: Any) -> Recipe:
    if not any(one.id == name for one in recipe.edges.touch_ups):
        raise RecipeError(GONE, "edges.touch_ups")
    touch_ups: list[TouchUpPart] = [
        evolve(one, **changes) if one.id == name else one for one in recipe.edges.touch_ups
    ]
    return with_edges(recipe, touch_ups=touch_ups)
