"""The bending of the lens."""

from __future__ import annotations

from typing import Annotated, Literal, Self, get_args

from pydantic import Field, model_validator

from sequor.core.distortion.fisheye import Law
from sequor.core.distortion.models import TERM_COUNTS, Model
from sequor.recipe.model.base import FocalPx, Length, Part, Text

Term = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]


class ProfilePart(Part):
    """Where a profile comes from, and its terms when its model is one of the database's: poly3 (k1), poly5
    (k1, k2), ptlens (a, b, c). They are not looked up again."""

    camera: Text
    lens: Text
    focal_mm: Length
    terms: list[Term] = Field(default_factory=list, max_length=3)


BY_COUNT: dict[int, Model] = {count: model for model, count in TERM_COUNTS.items() if count}
"""Of a fisheye the number of terms in its profile tells the model."""

LAWS: tuple[str, ...] = get_args(Law)

OWN_TERMS = {"brown": ("k1", "k2", "k3", "p1", "p2"), "kannala-brandt": ("k1", "k2", "k3", "k4")}
"""The terms that a model has outside a profile."""

TERMS = ("k1", "k2", "k3", "k4", "p1", "p2")


class LensPart(Part):
    """The bending of the lens; r is counted in ``unit_px`` (null: half the diagonal). ``k1_sd``: what is left
    open of a k1 that was found from other photos; 0 for none. A fisheye goes by the law that is its ``model``
    and by ``focal_px``, its own focal length in photo pixels; kannala-brandt has k1 to k4 on the angle. The
    terms of its profile, by their number those of poly3, poly5 or ptlens, are how it departs from the law."""

    source: Literal["none", "manual", "profile", "straight"] = "none"
    model: Model | Law = "brown"
    unit_px: FocalPx | None = None
    k1: Term = 0.0
    k2: Term = 0.0
    k3: Term = 0.0
    p1: Term = 0.0
    p2: Term = 0.0
    profile: ProfilePart | None = None
    k1_sd: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 0.0
    k4: Term = 0.0
    focal_px: FocalPx | None = None

    @model_validator(mode="after")
    def _belong_together(self) -> Self:
        given = [name for name in TERMS if getattr(self, name) != 0]
        if (self.source == "profile") != (self.profile is not None):
            raise ValueError("lens.profile needs lens.source “profile”, and only that")
        if self.k1_sd and self.source != "manual":
            raise ValueError("lens.k1_sd belongs to the source manual; leave it out")
        if self.source == "none" and given:
            raise ValueError(f"{given[0]} is set but the source is none; say manual, or leave the term out")
        foreign = [name for name in given if name not in OWN_TERMS.get(self.model, ())]
        if foreign:
            raise ValueError(f"{foreign[0]} is no term of the model {self.model}")
        terms = self.profile.terms if self.profile else []
        for model, count in TERM_COUNTS.items():
            if model == self.model and len(terms) != count:
                raise ValueError(f"the model {model} has {count} terms in its profile, not {len(terms)}")
        if self.fisheye != (self.focal_px is not None):
            raise ValueError("a fisheye needs lens.focal_px, and nothing else has it")
        if self.fisheye and self.source not in ("manual", "profile"):
            raise ValueError(f"the source of the model {self.model} is manual or profile, not {self.source}")
        if self.fisheye and self.k1_sd:
            raise ValueError("lens.k1_sd belongs to the model brown; leave it out")
        return self

    @property
    def fisheye(self) -> bool:
        """Whether it is one."""
        return self.model in LAWS
