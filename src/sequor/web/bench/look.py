"""Messages of what Sequor has found by itself."""

from __future__ import annotations

from collections.abc import Callable

from sequor.operations.looking import Angle, Look, parts_of
from sequor.recipe.model.references import ReferencePart
from sequor.web.wire import Wire
from sequor.wording.found import EXTENT_NAMES, Extent, confidence_words, counted
from sequor.wording.frame import percent
from sequor.wording.numbers import degrees, plus_minus
from sequor.wording.words import pointed, tilted


class FoundAngleOut(Wire):
    """An angle that would be taken out, in words: which, how much, and how sure it is (sure, likely,
    unsure)."""

    name: str
    words: str
    confidence: str


class FoundExtentOut(Wire):
    """How far a proposal may go: its name, what it keeps, and its lines."""

    extent: Extent
    name: str
    words: str
    lines: list[ReferencePart]


class FoundOut(Wire):
    """A proposal, nothing of it done. ``shares``: how much each line says, by its id, adding up to 1."""

    words: str
    angles: list[FoundAngleOut]
    extents: list[FoundExtentOut]
    shares: dict[str, float]

    @classmethod
    def of(cls, look: Look) -> FoundOut:
        """The message for a look."""
        if look.cannot_tell is not None:
            return cls(words=look.cannot_tell, angles=[], extents=[], shares={})
        angles = [
            ("Tilt", look.tilt, tilted),
            ("Verticals", look.aim, _aim),
            ("Horizontals", look.turn, _turn),
        ]
        return cls(
            words=f"Sequor found {counted(len(look.references))}. Nothing is changed until you take them.",
            angles=[_angle(name, one, words) for name, one, words in angles if one is not None],
            extents=[
                FoundExtentOut(
                    extent=cost.extent,
                    name=EXTENT_NAMES[cost.extent],
                    words=f"keeps {percent(cost.kept)}",
                    lines=parts_of(look.references, cost.extent == "square-on"),
                )
                for cost in look.extents
            ],
            shares={one.id: one.share for one in look.references},
        )


def _angle(name: str, angle: Angle, words: Callable[[float], str]) -> FoundAngleOut:
    told = f"{degrees(angle.deg)} {plus_minus(angle.sd)} {words(angle.deg)}"
    return FoundAngleOut(name=name, words=told, confidence=confidence_words(angle.confidence))


def _aim(pitch: float) -> str:
    return pointed("pitch", pitch)


def _turn(yaw: float) -> str:
    return pointed("yaw", yaw)
