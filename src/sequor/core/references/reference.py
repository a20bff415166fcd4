"""One reference: a thing of known direction that was laid on the photo."""

from __future__ import annotations

from dataclasses import dataclass

from sequor.core.camera import Array
from sequor.core.references.base import ReferenceKind
from sequor.core.references.registry import Kind, kind_of


@dataclass(frozen=True)
class Reference:
    """``points`` is (N, 2) in photo pixels as recorded.

    ``group`` ties receding lines that are parallel in the world; ``shape`` is the true (width, height) of
    a rectangle, in any unit.

    >>> import numpy as np
    >>> horizon = Reference("r1", "level", np.array([[0.0, 100.0], [3000.0, 160.0]]))
    >>> horizon.counts, horizon.sides.shape
    (True, (1, 2, 2))
    """

    id: str
    kind: Kind
    points: Array
    sigma_px: float = 1.0
    weight: float = 1.0
    active: bool = True
    group: str | None = None
    shape: tuple[float, float] | None = None

    @property
    def rules(self) -> ReferenceKind:
        """What its kind says."""
        return kind_of(self.kind)

    @property
    def counts(self) -> bool:
        """Whether it says anything about the attitude."""
        return self.active and bool(self.rules.directions)

    @property
    def sides(self) -> Array:
        """The lines it consists of, (N, 2, 2) or one (1, N, 2): a rectangle's top, right, bottom, left."""
        return self.rules.sides(self.points)
