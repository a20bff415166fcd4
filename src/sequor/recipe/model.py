"""The recipe, version 1: the pydantic model from which the JSON Schema (draft 2020-12) is made.

Unknown keys are refused with their name, except keys that begin with ``x-``. Every key but ``format``,
``version`` and ``photo`` may be left out.
"""

from __future__ import annotations

from collections import Counter
from typing import Annotated, Any, Literal, Self, TypeVar

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, field_validator, model_validator

from sequor.core.distortion.models import Model
from sequor.core.estimation.unknowns import Unknown
from sequor.core.frame.print import MM_PER, USUAL_PPI, Sheet, Unit
from sequor.core.frame.ratio import parse_ratio
from sequor.core.references.base import Kind

LARGEST_COORDINATE = 1e6
"""Pixels: fifteen times the longest side of a photo. Beyond it no place in a picture can be meant."""
SMALLEST_EXTENT = 1e-3
"""Pixels that the points of a line must lie apart, and an area must reach."""

ROUNDING = 1e-6
MOST_POINTS = 3_000
"""Points of all lines of a photo together, so that a solve ends while somebody waits."""
MOST_GROUPS = 40
"""Groups of receding lines: each is one unknown more."""
MOST_AREA_POINTS = 20_000
"""Points of all areas of a photo together."""

Coordinate = Annotated[float, Field(ge=-LARGEST_COORDINATE, le=LARGEST_COORDINATE, allow_inf_nan=False)]
Extent = Annotated[float, Field(ge=SMALLEST_EXTENT, le=LARGEST_COORDINATE, allow_inf_nan=False)]
Term = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]
Angle = Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)]
FocalPx = Annotated[float, Field(ge=1, le=1e7, allow_inf_nan=False)]
Focal35mm = Annotated[float, Field(ge=1, le=20_000, allow_inf_nan=False)]
Length = Annotated[float, Field(gt=0, le=1e5, allow_inf_nan=False)]
Text = Annotated[str, StringConstraints(max_length=200, pattern=r"^[^\x00-\x1f\x7f]*$")]
"""Words without control characters."""
Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
Point = tuple[Coordinate, Coordinate]
Side = Annotated[int, Field(ge=1, le=65_500)]
Place = Annotated[int, Field(ge=-1_000_000, le=1_000_000)]
Seed = Annotated[int, Field(ge=0, le=2**31 - 1)]
Colour = Annotated[str, StringConstraints(pattern=r"^#[0-9a-f]{6}$")]
Sha256 = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]

Hint = Annotated[
    str,
    StringConstraints(strip_whitespace=True, min_length=1, max_length=200, pattern=r"^[^\x00-\x1f\x7f]*$"),
]

FEWEST_POINTS: dict[str, int] = {"straight": 3, "rectangle": 4}
Ratio = Annotated[str, StringConstraints(max_length=40)]
SubjectPoint = tuple[Coordinate, Coordinate]
SubjectBox = tuple[Coordinate, Coordinate, Extent, Extent]

NOTE = "x-snap"
"""The key under which a reference remembers how it was laid, or why it could not be snapped."""


class Part(BaseModel):
    """A part of the recipe: unknown keys are an error, keys that begin with ``x-`` are kept as they are."""

    model_config = ConfigDict(
        extra="allow", json_schema_extra={"additionalProperties": False, "patternProperties": {"^x-": {}}}
    )

    @model_validator(mode="after")
    def _only_known_keys(self) -> Self:
        for key in self.model_extra or {}:
            if not key.startswith("x-"):
                raise UnknownKeyError(key)
        return self


class UnknownKeyError(ValueError):
    """A key that the recipe does not know; ``key`` is its name."""

    def __init__(self, key: str) -> None:
        super().__init__(f"the key {key!r} is not known; own keys must begin with x-")
        self.key = key


class PhotoPart(Part):
    """The photo after its recorded orientation and its quarter turns."""

    width: int = Field(gt=0, le=65535)
    height: int = Field(gt=0, le=65535)
    sha256: Sha256 | None = None
    quarter_turns: int = Field(default=0, ge=0, le=3, description="clockwise")
    focal_35mm: Focal35mm | None = 28.0
    focal_px: FocalPx | None = None


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
            raise ValueError("profile is given with the source profile, and with no other")
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


class ReferencePart(Part):
    """One reference; ``points`` in photo pixels as taken."""

    id: Text = Field(min_length=1, max_length=64)
    kind: Kind
    points: list[Point] = Field(min_length=2, max_length=1000)
    sigma_px: Annotated[float, Field(ge=1e-4, le=1e4, allow_inf_nan=False)] | None = None
    group: Text | None = None
    shape: tuple[Extent, Extent] | None = None
    weight: float = Field(default=1.0, gt=0, le=10, allow_inf_nan=False)
    active: bool = True

    @model_validator(mode="after")
    def _enough_points(self) -> Self:
        fewest = FEWEST_POINTS.get(self.kind, 2)
        if len(self.points) < fewest:
            raise ValueError(f"a {self.kind} reference needs at least {fewest} points")
        if self.kind == "rectangle":
            if len(self.points) != 4:
                raise ValueError("a rectangle has four corners")
            if not _runs_clockwise(self.points):
                raise ValueError(
                    "a rectangle's corners run clockwise from its top left, and none of them points inwards"
                )
        if self.shape is not None and self.kind != "rectangle":
            raise ValueError("only a rectangle has a shape")
        if _reach(self.points) < SMALLEST_EXTENT:
            raise ValueError("all points of the line coincide")
        return self


USED_TWICE = "the id {!r} is used twice"


def _refuse_twice(names: list[str], words: str) -> None:
    """Raise ValueError with these words for a name that occurs twice."""
    twice = [name for name, count in Counter(names).items() if count > 1]
    if twice:
        raise ValueError(words.format(min(twice)))


def _reach(points: list[Point]) -> float:
    """The longer side of the box about some points."""
    return max(max(values) - min(values) for values in ([x for x, _ in points], [y for _, y in points]))


def _runs_clockwise(corners: list[Point]) -> bool:
    """Whether four corners, y down, turn right at each of them."""
    for index, (x, y) in enumerate(corners):
        before, after = corners[index - 1], corners[(index + 1) % 4]
        if (x - before[0]) * (after[1] - y) - (y - before[1]) * (after[0] - x) <= 0:
            return False
    return True


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


class ByHand(Part):
    """The hand's part of each angle, in degrees."""

    roll: float = Field(default=0.0, ge=-45, le=45, allow_inf_nan=False)
    pitch: float = Field(default=0.0, ge=-60, le=60, allow_inf_nan=False)
    yaw: float = Field(default=0.0, ge=-60, le=60, allow_inf_nan=False)


class CorrectionPart(Part):
    """What is solved for and how much of it is taken out. Roll, pitch and yaw: all numbers or all null."""

    free: list[Unknown] = ["roll", "pitch"]
    roll: Angle | None = None
    pitch: Angle | None = None
    yaw: Angle | None = None
    focal_px: FocalPx | None = None
    amount: PerAngleShare = Field(default_factory=PerAngleShare)
    on: PerAngleSwitch = Field(default_factory=PerAngleSwitch)
    by_hand: ByHand = Field(default_factory=ByHand)
    proportion: Annotated[float, Field(ge=0.02, le=50, allow_inf_nan=False)] = 1.0

    @model_validator(mode="after")
    def _all_or_none(self) -> Self:
        missing = [name for name in ("roll", "pitch", "yaw") if getattr(self, name) is None]
        if 0 < len(missing) < 3:
            raise ValueError("roll, pitch and yaw must be all numbers or all null")
        return self

    @property
    def solved(self) -> bool:
        """Whether the angles are numbers that are used as they stand."""
        return self.roll is not None


class PrintPart(Part):
    """The paper that the frame is printed on: its size, and on every side the white border and what the
    printer trims, in ``unit``; ``ppi`` is what is wanted. Upright or lying makes no difference."""

    paper: tuple[Length, Length]
    unit: Unit = "mm"
    border: float = Field(default=0.0, ge=0, le=1e5, allow_inf_nan=False)
    trim: float = Field(default=0.0, ge=0, le=1e5, allow_inf_nan=False)
    ppi: float = Field(default=USUAL_PPI, ge=10, le=10_000, allow_inf_nan=False)

    @model_validator(mode="after")
    def _leaves_room(self) -> Self:
        if 2 * self.border >= min(self.paper):
            raise ValueError("the border leaves nothing of the paper; make it smaller")
        if not all(1 <= side * MM_PER[self.unit] <= 10_000 for side in self.paper):
            raise ValueError("a paper is 1 mm to 10 m wide and high")
        return self

    @property
    def sheet(self) -> Sheet:
        """The same in millimetres."""
        mm = MM_PER[self.unit]
        return Sheet(self.paper[0] * mm, self.paper[1] * mm, self.border * mm, self.trim * mm)


class FramePart(Part):
    """The crop rectangle in corrected pixels; ``rect`` null: the largest that fits. ``subject``: a point
    [x, y] or a box [x, y, width, height] in photo pixels."""

    ratio: Ratio = "original"
    rect: tuple[Coordinate, Coordinate, Side, Side] | None = None
    allow_empty: bool = False
    subject: SubjectPoint | SubjectBox | None = None
    print: PrintPart | None = None

    @field_validator("ratio")
    @classmethod
    def _known_ratio(cls, value: str) -> str:
        if value not in ("original", "free"):
            parse_ratio(value)
        return value


class PatchPart(Part):
    """New pixels for one part of the frame's empty area: a file named by the hash of its content.

    ``box``: [x, y, width, height] in the frame's pixels. ``seed`` is the take it belongs to, ``made_for`` the
    hash of all that it depends on: under a recipe that has another one it is stale.
    """

    sha256: Sha256
    part: Text = Field(min_length=1, max_length=40)
    box: tuple[Place, Place, Side, Side]
    seed: Seed
    made_for: Sha256


class AreaPart(Part):
    """An area of the corrected picture: what is brushed along ``points`` with ``radius``, or, null, what lies
    within them. In corrected pixels, like the frame."""

    id: Text = Field(min_length=1, max_length=20)
    points: list[Point] = Field(min_length=1, max_length=2000)
    radius: Extent | None = None

    @model_validator(mode="after")
    def _has_area(self) -> Self:
        if self.radius is None and (len(set(self.points)) < 3 or _reach(self.points) < SMALLEST_EXTENT):
            raise ValueError("an area that is drawn around needs three points; a brushed one has a radius")
        return self


class DonorPart(AreaPart):
    """An area that new pixels must not, or may only, come from."""

    kind: Literal["from here", "not from here"]


class TouchUpPart(AreaPart):
    """An area that is filled like a corner: in full within it, then over ``feather`` pixels less and less;
    ``amount``: how much of what was there is replaced. ``hint``: painted by the outside painter from it."""

    feather: float = Field(default=0.0, ge=0, le=500, allow_inf_nan=False)
    amount: Share = 1.0
    active: bool = True
    seed: Seed = 1
    hint: Hint | None = None


Area = TypeVar("Area", bound=AreaPart)


class EdgesPart(Part):
    """What happens with empty corners. Filled: those parts that ``patches`` names by them, the others by the
    take ``seed``; in so many ``strips``, from the picture outwards, each from all before it; with a ``hint``
    by the outside painter. Reshaped: ``segments``, [x, y, x, y] in photo pixels, are the straight things that
    follow the correction; null = not looked for yet. Left: in ``colour``, null = clear."""

    mode: Literal["trim", "fill", "reshape", "leave"] = "trim"
    seed: Seed = 1
    strips: int = Field(default=1, ge=1, le=8)
    hint: Hint | None = None
    colour: Colour | None = None
    segments: list[tuple[Coordinate, Coordinate, Coordinate, Coordinate]] | None = Field(
        default=None, max_length=500
    )
    donors: list[DonorPart] = Field(default_factory=list, max_length=50)
    touch_ups: list[TouchUpPart] = Field(default_factory=list, max_length=50)
    patches: list[PatchPart] = Field(default_factory=list, max_length=150)

    @field_validator("patches")
    @classmethod
    def _each_part_once(cls, value: list[PatchPart]) -> list[PatchPart]:
        _refuse_twice([patch.part for patch in value], "the part {!r} has two patches")
        return value

    @model_validator(mode="after")
    def _few_points(self) -> Self:
        if sum(len(area.points) for area in (*self.donors, *self.touch_ups)) > MOST_AREA_POINTS:
            raise ValueError(f"the areas have more than {MOST_AREA_POINTS} points in all; draw them coarser")
        return self

    @field_validator("donors", "touch_ups")
    @classmethod
    def _areas_differ(cls, value: list[Area]) -> list[Area]:
        _refuse_twice([area.id for area in value], USED_TWICE)
        return value


class ExportPart(Part):
    """The format of the exported file; ``quality`` counts for JPEG. ``size``: null = the frame's own pixels;
    "print" = just the ppi that the print wants; [width, height] = just these, in the frame's ratio."""

    format: Literal["jpeg", "png"] = "jpeg"
    quality: int = Field(default=95, ge=1, le=100)
    size: Literal["print"] | tuple[Side, Side] | None = None


class Recipe(Part):
    """All that is done to one photo."""

    format: Literal["sequor-recipe"]
    version: Literal[1]
    photo: PhotoPart
    lens: LensPart = Field(default_factory=LensPart)
    references: list[ReferencePart] = Field(default_factory=list, max_length=500)
    correction: CorrectionPart = Field(default_factory=CorrectionPart)
    frame: FramePart = Field(default_factory=FramePart)
    edges: EdgesPart = Field(default_factory=EdgesPart)
    export: ExportPart = Field(default_factory=ExportPart)

    @model_validator(mode="after")
    def _subject_on_photo(self) -> Self:
        if self.frame.subject is not None:
            x, y, *size = self.frame.subject
            width, height = size or (0.0, 0.0)
            # A quarter turn rounds: what touches the border stays inside.
            low = x + width <= self.photo.width + ROUNDING and y + height <= self.photo.height + ROUNDING
            if min(x, y) < -ROUNDING or not low:
                raise ValueError("the subject lies outside the photo; frame.subject is in photo pixels")
        return self

    @field_validator("references")
    @classmethod
    def _unique_ids(cls, value: list[ReferencePart]) -> list[ReferencePart]:
        if sum(len(reference.points) for reference in value) > MOST_POINTS:
            raise ValueError(f"the lines have more than {MOST_POINTS} points in all; take some of them away")
        if len({one.group for one in value if one.kind == "receding"}) > MOST_GROUPS:
            raise ValueError(f"there are more than {MOST_GROUPS} groups of receding lines; join some of them")
        _refuse_twice([reference.id for reference in value], USED_TWICE)
        return value


def json_schema() -> dict[str, Any]:
    """The published JSON Schema (draft 2020-12) of the whole recipe."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Sequor recipe",
        **{key: value for key, value in Recipe.model_json_schema().items() if key != "title"},
    }
