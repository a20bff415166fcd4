"""Lines made right: the field that carries out wishes, found beside what was worked out once.

Each wish adds rows that bring the points of a line onto a straight one, of a direction that is asked for or
free; its place is always free. Against the rest they are so heavy that they are met. Of the whole only these
rows are worked with (M. A. Woodbury, *Inverting modified matrices*, Princeton, 1950), so that a line that is
dragged costs little. A free direction is found by Gauss and Newton's iteration.

Where a field would fold the picture, found by the determinant of its derivative, the wish that lies nearest
is let go and taken up again as far as it can be."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from sequor.core.camera import Array
from sequor.core.references.line import fold
from sequor.core.warp.wide.field import Field
from sequor.core.warp.wide.ground import CELLS, Ground, rows_at
from sequor.core.warp.wide.wish import Wish, along

LINE = 1e7 / (CELLS * 40)
"""What a point of a line counts."""

ROUNDS = 4
LEAST_AREA = 0.1
"""What is squeezed to less of its area is taken for a fold."""

HALVINGS = 7


@dataclass(frozen=True)
class Wished:
    """``field``: what carries the wishes out; ``met``: of each wish by its id how far it could be met, of
    what was asked."""

    field: Field
    met: dict[str, float]


def carry_out(ground: Ground, wishes: Sequence[Wish], amount: float = 1.0) -> Wished:
    """The field of some wishes, of which a part is carried out. The picture never folds."""
    lines = [_Line(ground, wish) for wish in wishes if wish.amount > 0]
    lines = [line for line in lines if len(line.points) and np.all(np.isfinite(line.points))]
    met = {wish.id: 1.0 for wish in wishes}
    kept, let_go = lines, []
    field = _solve(ground, kept)
    while kept and (where := _fold(ground, field, amount)) is not None:
        nearest = min(kept, key=lambda line: line.distance(where))
        let_go.append(nearest)
        kept = [line for line in kept if line is not nearest]
        field = _solve(ground, kept)
    alone, now = field, field
    for line in reversed(let_go):
        wanted = _solve(ground, [*kept, line])
        step = wanted.weights - alone.weights

        def holds(share: float, step: Array = step, now: Field = now) -> bool:
            return _fold(ground, replace(now, weights=now.weights + share * step), amount) is None

        share = _farthest(holds)
        now = replace(now, weights=now.weights + share * step)
        met[line.wish.id] = min(share, met[line.wish.id])
    return Wished(ground.unasked.towards(now, amount), met)


class _Line:
    """A wish, and where its points lie in the base view."""

    def __init__(self, ground: Ground, wish: Wish) -> None:
        self.wish = wish
        exact = ground.exact
        self.points = along(wish, exact.view.from_level, exact.base_of, ground.field)
        if len(self.points):
            self.middle = self.points.mean(axis=0)
            # Without any wish it would stand like this, and of a wish in part a part of that stays.
            self.unasked = self.points + ground.unasked(self.points)
            x, y = self.unasked[-1] - self.unasked[0]
            self.chord = float(np.arctan2(y, x))
        self.free = wish.slope is None

    @property
    def direction(self) -> float:
        """Radians that it is begun with: those asked for, in part where only a part is."""
        if self.wish.slope is None:
            return self.chord
        return self.chord + self.wish.amount * float(
            np.deg2rad(fold(self.wish.slope - np.rad2deg(self.chord)))
        )

    @property
    def left_bent(self) -> Array:
        """How far its points (N,) are to stay off the straight line."""
        square_to = np.array([-np.sin(self.chord), np.cos(self.chord)])
        away = (self.unasked - self.unasked.mean(axis=0)) @ square_to
        return np.asarray((1 - self.wish.amount) * away)

    def distance(self, point: Array) -> float:
        return float(np.linalg.norm(self.points - point, axis=1).min())


def _solve(ground: Ground, lines: Sequence[_Line]) -> Field:
    from scipy.linalg import cho_factor, cho_solve
    from scipy.sparse import csr_matrix

    if not lines:
        return ground.unasked
    counts = [len(line.points) for line in lines]
    owner, total = np.repeat(np.arange(len(lines)), counts), sum(counts)
    points = np.concatenate([line.points for line in lines])
    at, by = rows_at(ground.field, points)
    reads = csr_matrix(
        (by.ravel(), at.ravel(), np.arange(0, 16 * total + 1, 16)), (total, len(ground.rest) // 2)
    )
    inverse, cell = ground.inverse, ground.field.cell
    axes = (0, 1)
    shared = [[reads @ (reads @ inverse[c::2, e::2].T).T for e in axes] for c in axes]
    rests = np.stack([reads @ ground.rest[c::2] for c in axes], axis=-1)
    from_middle = points - np.stack([line.middle for line in lines])[owner]
    left_bent = np.concatenate([line.left_bent for line in lines])
    direction = np.array([line.direction for line in lines])
    free = [index for index, line in enumerate(lines) if line.free]
    places = np.zeros((total, len(lines)))
    places[np.arange(total), owner] = 1
    now, field = points, ground.unasked
    for _ in range(ROUNDS if free else 1):
        square_to = np.column_stack([-np.sin(direction), np.cos(direction)])[owner]
        along_it = np.column_stack([square_to[:, 1], -square_to[:, 0]])
        normal = sum(square_to[:, c, None] * shared[c][e] * square_to[None, :, e] for c in axes for e in axes)
        normal = normal + np.eye(total) / LINE
        off = (left_bent - np.sum(from_middle * square_to, axis=1)) / cell - np.sum(square_to * rests, axis=1)
        middles = np.stack([np.bincount(owner, now[:, axis]) / counts for axis in axes], axis=-1)
        turning = np.sum((now - middles[owner]) * along_it, axis=1) / cell
        # The place of each line is free, and the direction of some.
        loose = np.hstack([places, turning[:, None] * places[:, free]])
        factor = cho_factor(normal)
        eased = cho_solve(factor, loose)
        found = np.linalg.lstsq(loose.T @ eased, -(eased.T @ off), rcond=1e-12)[0]
        pull = cho_solve(factor, off + loose @ found)
        back = np.stack([reads.T @ (square_to[:, axis] * pull) for axis in axes], axis=-1).ravel()
        field = ground.filled(ground.rest + inverse @ back)
        now = points + field(points)
        for index, line in enumerate(free):
            direction[line] += found[len(lines) + index]
    return field


def _fold(ground: Ground, field: Field, amount: float) -> Array | None:
    """The place (2,) that a field, carried out in part, squeezes most, where that is as good as folded; None
    where nothing is."""
    slopes = ground.unasked.towards(field, amount).slopes(ground.watched) + np.eye(2)
    area = slopes[:, 0, 0] * slopes[:, 1, 1] - slopes[:, 0, 1] * slopes[:, 1, 0]
    worst = int(np.argmin(area))
    return ground.watched[worst] if area[worst] < LEAST_AREA else None


def _farthest(holds: Callable[[float], bool]) -> float:
    """The share, 0 to 1, up to which something holds."""
    if holds(1.0):
        return 1.0
    near, far = 0.0, 1.0
    for _ in range(HALVINGS):
        middle = (near + far) / 2
        near, far = (middle, far) if holds(middle) else (near, middle)
    return near
