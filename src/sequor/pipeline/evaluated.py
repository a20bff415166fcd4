"""A recipe evaluated: every stage worked out when it is first asked for, and kept by its fingerprint."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Any, TypeVar

import numpy as np

from sequor.core.camera import Intrinsics
from sequor.core.distortion.models import half_diagonal
from sequor.core.estimation.next_line import Advice, most_telling
from sequor.core.estimation.priors import open_distortion
from sequor.core.estimation.solve import Solution
from sequor.core.estimation.unknowns import Unknown
from sequor.core.fill.areas import Area
from sequor.core.fill.receding import Receding
from sequor.core.frame.cost import Cost, CutOff
from sequor.core.frame.print import Printed
from sequor.core.rectangle import Rectangle
from sequor.core.warp.base import Warp
from sequor.core.warp.reshape import Reshaped
from sequor.core.warp.wide.make import Wide
from sequor.core.warp.wide.measured import Stretches
from sequor.pipeline import retouch
from sequor.pipeline.cuts import CutThing, cut_things
from sequor.pipeline.edges.registry import mode_of
from sequor.pipeline.fingerprint import fingerprint, settled
from sequor.pipeline.frame import WHOLE, Crop, CutOffs, Mark, ratio_of
from sequor.pipeline.new_pixels import TOUCH_UP, Donate, Fill, Filling, Ground, Recede, patch_name
from sequor.pipeline.output import Output, Write, printed_on
from sequor.pipeline.readings import Read, ReferenceResult
from sequor.pipeline.references import as_reference
from sequor.pipeline.results import RESULTS
from sequor.pipeline.solve import Stand, Standing
from sequor.pipeline.stage import UNSAID, Stage
from sequor.pipeline.warp import Bend
from sequor.recipe.model import Recipe
from sequor.recipe.model.edges import PatchPart

Result = TypeVar("Result")


class Evaluated:
    """All that is true of a photo under its recipe. Asking may raise RecipeError, which names the field."""

    def __init__(self, recipe: Recipe) -> None:
        self.recipe = recipe
        self._results: dict[type[Stage[Any]], Any] = {}
        self._fingerprints: dict[type[Stage[Any]], str] = {}
        self._standing: dict[type[Stage[Any]], str] = {}

    def result(self, stage: type[Stage[Result]]) -> Result:
        """The result of a stage."""
        if stage not in self._results:

            def make() -> Result:
                return stage().run(self.recipe, *(self.result(before) for before in stage.after))

            self._results[stage] = RESULTS.get(stage.__name__, self.fingerprint(stage), make, stage.kept)
        found: Result = self._results[stage]
        return found

    def fingerprint(self, stage: type[Stage[Any]]) -> str:
        """What the result of a stage is made from."""
        if stage not in self._fingerprints:
            upstream = [told for before in stage.after if (told := self._stood_on(before))]
            self._fingerprints[stage] = fingerprint(stage(), self.recipe, upstream)
        return self._fingerprints[stage]

    def _stood_on(self, stage: type[Stage[Any]]) -> str:
        """What later stages are told of one: the numbers it comes down to, else what it is made from."""
        if stage not in self._standing:
            numbers = None
            if stage.settles is not Stage.settles:
                numbers = stage().settles(self.result(stage))
            if numbers is UNSAID:
                self._standing[stage] = ""
            else:
                self._standing[stage] = self.fingerprint(stage) if numbers is None else settled(numbers)
        return self._standing[stage]

    @property
    def standing(self) -> Standing:
        """The camera as it is gone by, with what the lines say of it."""
        return self.result(Stand)

    @property
    def camera(self) -> Intrinsics:
        """The camera, its focal length from the lines where they tell it."""
        return self.standing.camera

    @property
    def solution(self) -> Solution:
        """What the lines say; its attitude is the one that is gone by."""
        return self.standing.solution

    @property
    def lens_open(self) -> bool:
        """Whether what the lines say rests on a lens that may bend and of which nothing tells how much."""
        told = self.recipe.lens.source in ("profile", "manual") or self.solution.distortion.names
        return self.solution.solved and not told and open_distortion(self.camera) > 0

    @property
    def warp(self) -> Warp:
        """The one map between the photo and the corrected picture."""
        return self.result(Bend).warp

    @property
    def reshaped(self) -> Reshaped | None:
        """What a reshape does to the picture; None without one."""
        return self.result(Bend).reshaped

    @property
    def wide(self) -> Wide | None:
        """The wide view, and what it met of what its lines were asked for; None where there is none."""
        return self.result(Bend).wide

    @property
    def stretches(self) -> Stretches | None:
        """What a wide view does to what it shows; None where there is none."""
        return None if self.wide is None else self.wide.stretches

    @property
    def frame(self) -> Rectangle:
        """The frame in corrected pixels."""
        return self.result(Crop).frame

    @property
    def cost(self) -> Cost:
        """What the frame costs."""
        return self.result(Crop).cost

    @property
    def cut_off(self) -> CutOff:
        """What the frame cuts off on each side."""
        return self.result(CutOffs)

    @property
    def cut_things(self) -> tuple[CutThing, ...]:
        """What was marked or drawn that the frame cuts."""
        return cut_things(self.recipe, self.warp, self.frame)

    @property
    def references(self) -> tuple[ReferenceResult, ...]:
        """How each reference stands, in the recipe's order."""
        return self.result(Read)

    @property
    def output(self) -> Output:
        """The file that is to be written."""
        return self.result(Write)

    @property
    def recedes(self) -> list[Receding]:
        """What runs away, in the frame's pixels."""
        frame = self.frame
        return [one.moved(-frame.x, -frame.y) for one in self.result(Recede)]

    @property
    def filling(self) -> Filling:
        """How empty corners are filled, where they are."""
        return self.result(Fill)

    @property
    def sources(self) -> tuple[tuple[bool, Area], ...]:
        """Where new pixels may come from."""
        return self.result(Donate)

    @property
    def placed(self) -> retouch.Placed:
        """Where the touch-ups lie."""
        return self.result(retouch.Retouch)

    @property
    def ratio(self) -> tuple[float, float]:
        """The frame's ratio width : height; when it is free, that of its pixels."""
        return ratio_of(self.recipe) or (self.frame.width, self.frame.height)

    @property
    def subject(self) -> Rectangle | None:
        """The subject mark in corrected pixels; a point has no size. None without one, or where it is cut."""
        return self.result(Mark)

    @property
    def subject_inside(self) -> bool | None:
        """Whether the frame holds the subject mark; None without one."""
        if self.recipe.frame.subject is None:
            return None
        mark = self.subject
        return mark is not None and self.frame.contains(mark, WHOLE)

    @property
    def printed(self) -> Printed | None:
        """The frame on the paper that is chosen."""
        return printed_on(self.recipe, self.frame)

    @property
    def corner(self) -> float:
        """How far the photo's corner lies from its middle, in the unit that the lens counts in."""
        return half_diagonal(self.camera.width, self.camera.height) / self.warp.lens.unit_px

    @property
    def corner_growth(self) -> float:
        """How far from the middle the lens recorded what belongs into the photo's corner, as a share; of a
        fisheye it says nothing."""
        return float(self.warp.lens.growth(np.array([self.corner]))[0])

    @property
    def corner_sd(self) -> float | None:
        """The standard deviation of the same, where straight things told it."""
        distortion = self.solution.distortion
        if self.recipe.lens.source != "straight" or not distortion.names:
            return None
        by = np.array([self.corner ** (2 if name == "k1" else 4) for name in distortion.names])
        return float(np.sqrt(by @ distortion.covariance @ by))

    @property
    def advice(self) -> Advice | None:
        """The one line that would leave least open of what is taken out."""
        return most_telling(self.solution, [as_reference(one) for one in self.recipe.references], self.camera)

    @property
    def counting(self) -> list[ReferenceResult]:
        """The references that the solve listened to."""
        return [result for result in self.references if result.counts]

    def taken_out(self, angle: Unknown) -> float:
        """The angle in degrees that the map takes out: the solved part by its amount, and the hand's part."""
        return self.recipe.correction.taken_out(angle, getattr(self.solution.attitude, angle))

    def left_in(self, angle: Unknown) -> float:
        """What of a solved angle the corrected picture still has, in degrees."""
        return float(getattr(self.solution.attitude, angle)) - self.taken_out(angle)

    @cached_property
    def made_for(self) -> Mapping[str, str]:
        """What takes are made for: of the corners by "", and of each active touch-up by its id."""
        corners, edges = self.fingerprint(Fill), self.recipe.edges
        if not edges.touch_ups:
            return {"": corners}
        shapes, ground = self.result(retouch.Shape), self.fingerprint(Ground)
        return {"": corners, **retouch.prints(edges, shapes, self.placed, ground, corners)}

    @cached_property
    def stale(self) -> tuple[PatchPart, ...]:
        """The patches of the recipe that were made for something else than what it is now."""
        edges = self.recipe.edges
        if not edges.patches:
            return ()
        wanted = {patch_name(name): key for name, key in self.made_for.items() if name}
        corners = self.made_for[""] if mode_of(edges).makes_pixels else None
        found = []
        for patch in edges.patches:
            key = wanted.get(patch.part) if patch.part.startswith(TOUCH_UP) else corners
            if key is not None and patch.made_for != key:
                found.append(patch)
        return tuple(found)


def evaluate(recipe: Recipe) -> Evaluated:
    """A recipe evaluated whose warp and frame are known to be such as can be. Raises RecipeError."""
    evaluated = Evaluated(recipe)
    evaluated.result(Stand)
    evaluated.result(Crop)
    return evaluated
