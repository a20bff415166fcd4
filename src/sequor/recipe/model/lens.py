"""The bending of the lens."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from sequor.core.distortion.models import Model
from sequor.recipe.model.base import FocalPx, Length, Part, Text

Term = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]


class ProfilePart(Part):
    """Where a profile comes from, and its terms when its model is one of the database's: poly3 (k1), poly5
    (k1, k2), ptlens (a, b, c). They are not looked up again."""

    camera: Text
    lens: Text
    focal_mm: Length
    terms: list[Term] = Field(default_factory=list, max_length=3)


TERM_COUNTS: dict[str, int] = {"brown": 0, "poly3": 1, "poly5": 2, "ptlens": 3}


class LensPart(Part):
    """The bending of the lens; r is counted in ``unit_px`` (null: half the diagonal)."""

    source: Literal["none", "manual", "profile", "straight"] = "none"
    model: Model = "brown"
    unit_px: FocalPx | None = None
    k1: Term = 0.0
    k2: Term = 0.0
    k3: Term = 0.0
    p1: Term = 0.0
    p2: Term = 0.0
    profile: ProfilePart | None = None

    @model_validator(mode="after")
    def _belong_together(self) -> Self:
        brown = [name for name in ("k1", "k2", "k3", "p1", "p2") if getattr(self, name) != 0]
        if (self.source == "profile") != (self.profile is not None):
            raise ValueError("lens.profile needs lens.source “profile”, and only that")
        if self.source == "none" and brown:
            raise ValueError(f"{brown[0]} is set but the source is none; say manual, or leave the term out")
        if self.model != "brown" and brown:
            raise ValueError(f"{brown[0]} is a term of the model brown, not of {self.model}")
        terms = self.profile.terms if self.profile else []
        if len(terms) != TERM_COUNTS[self.model]:
            raise ValueError(
                f"the model {self.model} has {TERM_COUNTS[self.model]} terms in its profile, not {len(terms)}"
            )
        return self
