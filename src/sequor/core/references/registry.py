"""The kinds of references that there are."""

from __future__ import annotations

from typing import Literal

from sequor.core.references.base import ReferenceKind
from sequor.core.references.level import Level
from sequor.core.references.plumb import Plumb
from sequor.core.references.receding import Receding
from sequor.core.references.rectangle import Rectangle
from sequor.core.references.straight import Straight
from sequor.core.references.witness import Witness

Kind = Literal["level", "plumb", "receding", "straight", "rectangle", "witness"]

KINDS: dict[Kind, ReferenceKind] = {
    "level": Level(),
    "plumb": Plumb(),
    "receding": Receding(),
    "straight": Straight(),
    "rectangle": Rectangle(),
    "witness": Witness(),
}


def kind_of(name: Kind) -> ReferenceKind:
    """The kind of a name.

    >>> kind_of("rectangle").fewest_points, kind_of("level").after_quarter_turn
    (4, 'plumb')
    """
    return KINDS[name]
