"""What is solved for and how much of it is taken out."""

from __future__ import annotations

from typing import Annotated, Any, Self

from pydantic import Field, model_validator

from sequor.core.estimation.unknowns import Unknown
from sequor.recipe.model.base import FocalPx, Part, Share

Angle = Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)]


class PerAngleShare(Part):
    """A share for each angle, 0 to 1."""

    roll: Share = 1.0
    pitch: Share = 1.0
    yaw: Share = 1.0


class PerAngleSwitch(Part):
    """On or off for each angle."""

    roll: bool = True
    pitch: bool = True
    yaw: bool = True


BY_HAND_RANGES: dict[str, float] = {"roll": 45.0, "pitch": 60.0, "yaw": 60.0}
"""How far the hand goes either way, in degrees."""


def _within(angle: str) -> Any:
    most = BY_HAND_RANGES[angle]
    return Field(default=0.0, ge=-most, le=most, allow_inf_nan=False)


class ByHand(Part):
    """The hand's part of each angle, in degrees."""

    roll: float = _within("roll")
    pitch: float = _within("pitch")
    yaw: float = _within("yaw")


Sd = Annotated[float, Field(gt=0, le=90, allow_inf_nan=False)]


class SeriesPart(Part):
    """Roll and pitch were found together with other photos of one camera position: how many photos in all,
    and what is left open of each angle, in degrees; pitch null where none tells it."""

    photos: Annotated[int, Field(ge=2, le=100_000)]
    roll_sd: Sd
    pitch_sd: Sd | None = None


class CorrectionPart(Part):
    """What is solved for and how much of it is taken out. Roll, pitch and yaw: all numbers or all null;
    ``series``: where they come from other photos too."""

    free: list[Unknown] = Field(default=["roll", "pitch"])
    roll: Angle | None = None
    pitch: Angle | None = None
    yaw: Angle | None = None
    focal_px: FocalPx | None = None
    amount: PerAngleShare = Field(default_factory=PerAngleShare)
    on: PerAngleSwitch = Field(default_factory=PerAngleSwitch)
    by_hand: ByHand = Field(default_factory=ByHand)
    proportion: Annotated[float, Field(ge=0.02, le=50, allow_inf_nan=False)] = 1.0
    series: SeriesPart | None = None

    @model_validator(mode="after")
    def _all_or_none(self) -> Self:
        missing = [name for name in ("roll", "pitch", "yaw") if getattr(self, name) is None]
        if 0 < len(missing) < 3:
            raise ValueError("roll, pitch and yaw must be all numbers or all null")
        if self.series is not None and missing:
            raise ValueError("correction.series needs roll, pitch and yaw as numbers")
        return self

    @property
    def solved(self) -> bool:
        """Whether the angles are numbers that are used as they stand."""
        return self.roll is not None

    def taken_out(self, angle: Unknown, solved: float) -> float:
        """What is taken out of an angle that was solved, in degrees: a part of it, and the hand's."""
        share = getattr(self.amount, angle) * getattr(self.on, angle)
        return float(share * solved + getattr(self.by_hand, angle))
