"""Messages of what Sequor has found by itself."""

from __future__ import annotations

from collections.abc import Callable

from sequor.operations.looking import Angle, Held, Look, parts_of
from sequor.recipe.model.references import ReferencePart
from sequor.web.wire import Wire
from sequor.wording.found import EXTENT_NAMES, Extent, confidence_words, counted
from sequor.wording.frame import percent
from sequor.wording.numbers import degrees, plus_minus
from sequor.wording.words import pointed, tilted


class FoundAngleOut(Wire):
    """An angle that would be taken out, in words: which, how much, and how sure it is (sure, likely,
    unsure); ``sure``: the same from 0 to 1."""

    name: str
    words: str
    confidence: str
    sure: float


class FoundExtentOut(Wire):
    """How far a proposal may go: its name, the share of the picture that it keeps, and its lines."""

    extent: Extent
    name: str
    kept: float
    words: str
    lines: list[ReferencePart]


class FoundOut(Wire):
    """A proposal, nothing of it done. ``suggested``: how far it should go; ``shares``: how much each line
    says, by its id, adding up to 1."""

    words: str
    suggested: Extent | None
    angles: list[FoundAngleOut]
    extents: list[FoundExtentOut]
    shares: dict[str, float]

    @classmethod
    def of(cls, look: Look, held: Held) -> FoundOut:
        """The message for a look; ``held``: the roll and pitch that the camera has recorded."""
        told = "" if held is None or held[0] is None else f" The camera recorded: {_tilt(held[0])}."
        if look.cannot_tell is not None:
            return cls(words=look.cannot_tell + told, suggested=None, angles=[], extents=[], shares={})
        angles = [
            _angle(name, one, words)
            for name, one, words in (
                ("Tilt", look.tilt, tilted),
                ("Verticals", look.aim, _aim),
                ("Horizontals", look.turn, _turn),
            )
            if one is not None
        ]
        return cls(
            words=f"{counted(len(look.references))}, dashed. Nothing is changed until you take them.{told}",
            suggested=look.suggested,
            angles=angles,
            extents=[
                FoundExtentOut(
                    extent=cost.extent,
                    name=EXTENT_NAMES[cost.extent],
                    kept=cost.kept,
                    words=f"keeps {percent(cost.kept)}",
                    lines=parts_of(look.references, cost.extent == "square-on"),
                )
                for cost in look.extents
            ],
            shares={one.id: one.share for one in look.references},
        )


def _angle(name: str, angle: Angle, words: Callable[[float], str]) -> FoundAngleOut:
    told = f"{degrees(angle.deg)} {plus_minus(angle.sd)} {words(angle.deg)}"
    return FoundAngleOut(
        name=name, words=told, confidence=confidence_words(angle.confidence), sure=angle.confidence
    )


def _tilt(roll: float) -> str:
    return f"{degrees(roll)} {tilted(roll)}"


def _aim(pitch: float) -> str:
    return pointed("pitch", pitch)


def _turn(yaw: float) -> str:
    return pointed("yaw", yaw)
