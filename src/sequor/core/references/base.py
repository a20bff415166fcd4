"""What a kind of reference is: what is known of a thing laid on the photo, and what follows from it."""

from __future__ import annotations

from abc import ABC
from typing import ClassVar, Literal

import numpy as np

from sequor.core.camera import Array
from sequor.core.references.line import lean_of, slope_of

LEVEL, PLUMB, RECEDING = 0, 1, 2
"""The directions that a line may be known to have in the world, as the equations number them."""

Points = list[tuple[float, float]]

Way = Literal["straight", "level", "upright"]
"""What a thing may become in a wide view."""


class ReferenceKind(ABC):
    """A kind of reference; what it is called in recipes is its ``name``."""

    name: ClassVar[str]
    fewest_points: ClassVar[int] = 2
    directions: ClassVar[tuple[int, ...]] = ()
    """The direction of each of its lines in the world; none where it says nothing of the attitude."""
    grouped: ClassVar[bool] = False
    """Whether those of one group are parallel in the world, and one alone says nothing."""
    joined: ClassVar[bool] = False
    """Whether its lines are the sides between its points, which they share."""
    shaped: ClassVar[bool] = False
    """Whether its true proportion may be known."""
    tells_lens: ClassVar[bool] = False
    """Whether it tells how the lens bends."""
    may_run_away: ClassVar[bool] = False
    """Whether people take a line that runs away from the camera for one of this kind."""
    reshape_follows: ClassVar[bool] = True
    """Whether a reshape leads it straight."""
    becomes: ClassVar[Way | None] = "straight"
    """What it becomes in a wide view unless something else is asked for; None: nothing."""
    after_quarter_turn: ClassVar[str | None] = None
    """What it is once the photo lies on its side; None: the same."""

    def refusal(self, points: Points) -> str | None:
        """Why points cannot be a reference of this kind; None when they can."""
        if len(points) < self.fewest_points:
            return f"a {self.name} reference needs at least {self.fewest_points} points"
        return None

    def laid(self, points: Points) -> Points:
        """Points in the order in which it keeps them, in whatever order they were laid."""
        return points

    def taken_over(self, points: Points, joined: bool) -> Points:
        """Its points where a reference of another kind was; ``joined``: that one's are corners.

        >>> ReferenceKind().taken_over([(0.0, 0.0), (5.0, 1.0), (9.0, 0.0)], joined=False)
        [(0.0, 0.0), (9.0, 0.0)]
        """
        if len(points) == self.fewest_points:
            return points
        return [points[0], points[1] if joined else points[-1]]

    def sides(self, points: Array) -> Array:
        """The lines that it consists of, (lines, N, 2), of its points (N, 2)."""
        return points[None]

    def off(self, side: int, along: Array, towards: Array | None) -> float:
        """How far a side that runs along a direction (2,) is off its own, in degrees.

        ``towards``: the direction (2,) in which its group runs away there; None where nothing tells it.
        """
        return off_direction(self.directions[side], along)

    def standing(
        self, side: int, carried: Array, along: Array, positions: Array, towards: Array | None
    ) -> tuple[float, float]:
        """How a side stands whose points ``carried`` (N, 2) lie ``along`` (2,) at ``positions`` (N,): degrees
        off, and the farther end's distance in pixels from its own direction through the other."""
        off = self.off(side, along, towards)
        return off, float(np.ptp(positions)) * abs(float(np.sin(np.deg2rad(off))))

    def turned(self, points: Points) -> Points:
        """Its points in the order they have after a quarter turn that has carried them."""
        return points


def off_direction(direction: int, along: Array) -> float:
    """How far a line along (2,) is off level, its slope, or off plumb, its lean; in degrees."""
    return lean_of(along) if direction == PLUMB else slope_of(along)


def nearer(along: Array) -> float:
    """How far a line along (2,) is off level or off plumb, whichever is less, in degrees."""
    return min((off_direction(one, along) for one in (LEVEL, PLUMB)), key=abs)
