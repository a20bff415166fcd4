"""What a frame must hold or meet besides lying in the outline, and when there is none."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from sequor.core.rectangle import Rectangle


class NoFrameError(ValueError):
    """There is no such rectangle."""


@dataclass(frozen=True)
class FrameConstraints:
    """What a rectangle must do besides lying in the outline.

    ``around``: a rectangle that it holds. ``across``: (x, share), the x that lies at this share of its width;
    ``down`` likewise (y, share of its height); shares are more than 0 and less than 1. ``at_most``: the
    largest scale that is wanted, in units of the width and height asked for.
    """

    around: Rectangle | None = None
    across: tuple[float, float] | None = None
    down: tuple[float, float] | None = None
    at_most: float = np.inf

    @property
    def shares(self) -> tuple[float, float]:
        """The shares of width and height at which its anchor lies; the middle where nothing is asked."""
        return (self.across or (0.0, 0.5))[1], (self.down or (0.0, 0.5))[1]


ANY = FrameConstraints()
