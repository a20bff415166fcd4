"""What goes over the wire; from these the OpenAPI document and the TypeScript types are made."""

from __future__ import annotations

import base64
from datetime import datetime
from typing import Annotated, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from sequor.advice.suggestions import Offer, offers
from sequor.advice.ways import Way, ways
from sequor.core.camera import DIAGONAL_35MM
from sequor.core.estimation.unknowns import ANGLES, Unknown
from sequor.core.mapping import NEAREST_DEPTH
from sequor.core.printing import COARSE_PPI
from sequor.core.rectangle import Rectangle
from sequor.jobs.jobs import Begun
from sequor.operations.rendering import as_taken_token, map_token
from sequor.operations.revising import PhotoNow
from sequor.pipeline.evaluate import Evaluation, evaluate
from sequor.pipeline.fingerprints import keys
from sequor.pipeline.frame import ratio_of
from sequor.pipeline.readings import ReferenceResult
from sequor.recipe.model import ExportPart, LensPart, Recipe, Text
from sequor.store.models import WorkState
from sequor.wording import words
from sequor.wording.edges import edges_words
from sequor.wording.finding import advice_words, finding
from sequor.wording.frame import cut_words, frame_ratio_words, frame_words, paper_words, ppi_words

Rect = tuple[float, float, float, float]


class Wire(BaseModel):
    """A message: nothing in it that is not declared; an object with the same attributes can be made one."""

    model_config = ConfigDict(extra="forbid", from_attributes=True)


Name = Annotated[str, StringConstraints(pattern=r"^[^\x00-\x1f\x7f]*[^\s\x00-\x1f\x7f][^\x00-\x1f\x7f]*$")]
"""Words in one line that are not all blank."""


class SessionOut(Wire):
    """What a page needs before it may change anything; ``painter``: whether an outside painter is set up."""

    token: str
    painter: bool


class PhotoOut(Wire):
    """A photo on the contact sheet; ``version`` is what a change must name in If-Match. When its state cannot
    be read, ``revision`` is the newest that can, or null."""

    id: int
    title: str
    file_name: str
    width: int
    height: int
    ratio: str
    state: str
    readable: bool
    revision: int | None
    version: int
    camera: str | None
    keeps_place: bool
    imported_at: datetime
    versions: list[str]

    @classmethod
    def of(cls, now: PhotoNow) -> PhotoOut:
        """The message for a photo."""
        photo, maker = now.photo, " ".join(filter(None, map(now.photo.facts.get, ("make", "model"))))
        seen = now if now.is_readable else now.before
        size = seen.recipe.photo if seen else None
        return cls(
            id=photo.id,
            title=photo.title,
            file_name=photo.file_name,
            width=size.width if size else photo.width,
            height=size.height if size else photo.height,
            ratio=frame_ratio_words(seen.recipe) if seen else "",
            state=now.revision.state if seen is now else words.UNREADABLE,
            readable=seen is now,
            revision=seen.revision.id if seen else None,
            version=photo.changes,
            camera=maker or None,
            keeps_place=bool(photo.facts.get("has_place")),
            imported_at=photo.imported_at,
            versions=[one.name for one in photo.versions if one.removed_at is None],
        )


class PhotoListOut(Wire):
    """All photos on the contact sheet."""

    photos: list[PhotoOut]


class TitleIn(Wire):
    """A new title."""

    title: Name = Field(max_length=200)


class TurnIn(Wire):
    """A quarter turn."""

    direction: Literal["left", "right"]


class ReviseIn(Wire):
    """A completed action: the recipe after it, the action in words for the log, and the references whose real
    edges are to be found first."""

    recipe: Recipe
    action: Name = Field(max_length=200)
    snap: list[Text] = Field(default_factory=list, max_length=100)


class EvaluateIn(Wire):
    """A recipe to look at without storing it; ``before`` carries a hand-made frame along. ``choices`` asks
    for offers and ways as well, which takes several evaluations."""

    recipe: Recipe
    before: Recipe | None = None
    choices: bool = False


class MeshOut(Wire):
    """The mesh the preview is drawn from: (rows + 1, columns + 1, 3) little-endian float32 in base64."""

    columns: int
    rows: int
    vertices: str
    nearest: float = Field(description="where W is smaller, nothing is drawn")


class PrintOut(Wire):
    """The frame on paper: ``shown`` is what a printer that fills the sheet leaves of it, in frame pixels."""

    paper: str
    ppi: float
    coarse: bool
    words: str
    cut: float
    cut_words: str
    shown: Rect
    pixels: tuple[int, int]


class FrameOut(Wire):
    """The frame in corrected pixels and what it costs. ``shape``: width : height as a number, null when it is
    free; ``subject``: the box about the subject mark in corrected pixels, without size for a point."""

    x: float
    y: float
    width: int
    height: int
    kept: float
    empty: float
    ratio: str
    shape: float | None
    subject: Rect | None
    subject_inside: bool | None
    printed: PrintOut | None

    @classmethod
    def of(cls, evaluation: Evaluation) -> FrameOut:
        """The message for the frame of an evaluation."""
        frame, cost, mark = evaluation.frame, evaluation.cost, evaluation.subject
        ratio = ratio_of(evaluation.recipe)
        return cls(
            x=frame.x,
            y=frame.y,
            width=round(frame.width),
            height=round(frame.height),
            kept=cost.kept,
            empty=cost.empty,
            ratio=frame_ratio_words(evaluation.recipe),
            shape=None if ratio is None else ratio[0] / ratio[1],
            subject=None if mark is None else rect_of(mark),
            subject_inside=evaluation.subject_inside,
            printed=_printed(evaluation),
        )


def rect_of(rectangle: Rectangle) -> Rect:
    """A rectangle as it goes over the wire."""
    return rectangle.x, rectangle.y, rectangle.width, rectangle.height


def _printed(evaluation: Evaluation) -> PrintOut | None:
    printed, part = evaluation.printed, evaluation.recipe.frame.print
    if printed is None or part is None:
        return None
    return PrintOut(
        paper=paper_words(part),
        ppi=printed.ppi,
        coarse=printed.ppi < COARSE_PPI,
        words=ppi_words(printed),
        cut=printed.cut,
        cut_words=cut_words(printed, evaluation),
        shown=rect_of(printed.shown),
        pixels=printed.pixels(part.ppi),
    )


class LineOut(Wire):
    """A row of the field book."""

    id: str
    number: int
    kind: str
    as_taken: str
    after: str
    plus_minus: str
    verdict: str
    verdict_words: str

    @classmethod
    def of(cls, number: int, result: ReferenceResult) -> LineOut:
        """The message for a line."""
        return cls(
            id=result.id,
            number=number,
            kind=result.kind,
            as_taken=words.taken_words(result),
            after=words.after_words(result),
            plus_minus=words.uncertainty_words(result),
            verdict=result.verdict,
            verdict_words=words.verdict_words(result),
        )


class AngleOut(Wire):
    """One angle: what the lines say, what is taken out, and that in words; ``sd`` null: not solved."""

    name: Literal["roll", "pitch", "yaw"]
    solved: float
    sd: float | None
    plus_minus: str | None
    taken_out: float
    by_hand: float
    words: str

    @classmethod
    def of(cls, evaluation: Evaluation, name: Unknown) -> AngleOut:
        """The message for an angle."""
        sd, taken_out = evaluation.solution.sd[name], evaluation.taken_out(name)
        return cls.model_validate(
            {
                "name": name,
                "solved": getattr(evaluation.solution.attitude, name),
                "sd": sd,
                "plus_minus": None if sd is None else words.plus_minus(sd),
                "taken_out": taken_out,
                "by_hand": getattr(evaluation.recipe.correction.by_hand, name),
                "words": words.angle_words(name, taken_out),
            }
        )


class ChoiceOut(Wire):
    """Something that can be done, and the recipe after it."""

    label: str
    action: str
    recipe: Recipe


class OfferOut(Wire):
    """A question with its choices; it speaks of ``lines``."""

    name: str
    words: str
    lines: list[str]
    choices: list[ChoiceOut]

    @classmethod
    def of(cls, offer: Offer) -> OfferOut:
        """The message for an offer."""
        choices = [ChoiceOut(label=one.label, action=one.action, recipe=one.recipe) for one in offer.choices]
        return cls(name=offer.name, words=offer.words, lines=list(offer.lines), choices=choices)


class WayOut(Wire):
    """What may be taken out: only the tilt, leaning walls too, all of it; its cost, the recipe after it."""

    name: str
    chosen: bool
    determined: bool
    words: str
    recipe: Recipe

    @classmethod
    def of(cls, way: Way) -> WayOut:
        """The message for a way."""
        return cls(
            name=way.name, chosen=way.chosen, determined=way.determined, words=way.words, recipe=way.recipe
        )


class AdviceOut(Wire):
    """The one line that would help most: its kind, and the band (x, y, width, height) in photo pixels."""

    kind: Literal["plumb", "level"]
    band: tuple[float, float, float, float]
    words: str

    @classmethod
    def of(cls, evaluation: Evaluation) -> AdviceOut | None:
        """The message for an evaluation; None where no single line would help."""
        advice = evaluation.advice
        if advice is None:
            return None
        return cls(kind=advice.kind, band=advice.band, words=advice_words(evaluation, advice))


class FocalOut(Wire):
    """The focal length that angles and proportions rest on."""

    px: float
    equivalent_mm: float
    source: str
    words: str


class LensOut(Wire):
    """What is known of the lens. ``k1_percent``: by how much Brown's first term moves the photo's corner;
    ``things`` how many straight things took part, ``determined`` the terms that they tell."""

    source: str
    words: str
    bending: str
    k1_percent: float
    things: int
    determined: list[str]

    @classmethod
    def of(cls, evaluation: Evaluation) -> LensOut:
        """The message for an evaluation."""
        bending = evaluation.solution.bending
        return cls(
            source=evaluation.recipe.lens.source,
            words=words.lens_words(evaluation),
            bending=words.bending_words(evaluation),
            k1_percent=100 * evaluation.mapping.lens.k1 * evaluation.corner**2,
            things=bending.things,
            determined=list(bending.names),
        )


class RouteOut(Wire):
    """A true word on each step."""

    lens: str
    lines: str
    frame: str
    edges: str


class EvaluateOut(Wire):
    """All that is true under a recipe; ``map`` and ``map_as_taken`` name maps in tile addresses, ``made_for``
    what takes of the corners depend on, ``touch_ups`` what those of each touch-up that is on do."""

    mesh: MeshOut
    outline: list[tuple[float, float]]
    frame: FrameOut
    lines: list[LineOut]
    angles: list[AngleOut]
    undetermined: list[str]
    focal: FocalOut
    lens: LensOut
    offers: list[OfferOut] | None
    ways: list[WayOut] | None
    advice: AdviceOut | None
    route: RouteOut
    state: str
    finding: str
    map: str
    map_as_taken: str
    made_for: str
    touch_ups: dict[str, str]

    @classmethod
    def of(cls, evaluation: Evaluation, choices: bool) -> EvaluateOut:
        """The message for an evaluation; without ``choices`` offers, ways and advice are null."""
        mesh = evaluation.mapping.mesh()
        vertices = base64.b64encode(mesh.vertices.astype("<f4").tobytes()).decode()
        camera = evaluation.camera
        made_for = keys(evaluation)
        return cls(
            mesh=MeshOut(columns=mesh.columns, rows=mesh.rows, vertices=vertices, nearest=NEAREST_DEPTH),
            outline=[(float(x), float(y)) for x, y in np.asarray(evaluation.mapping.outline())],
            frame=FrameOut.of(evaluation),
            lines=[LineOut.of(index + 1, result) for index, result in enumerate(evaluation.references)],
            angles=[AngleOut.of(evaluation, name) for name in ANGLES],
            undetermined=list(evaluation.solution.undetermined),
            focal=FocalOut(
                px=camera.focal_px,
                equivalent_mm=camera.focal_px * DIAGONAL_35MM / float(np.hypot(camera.width, camera.height)),
                source=camera.source,
                words=words.focal_words(evaluation),
            ),
            lens=LensOut.of(evaluation),
            offers=[OfferOut.of(offer) for offer in offers(evaluation)] if choices else None,
            ways=[WayOut.of(way) for way in ways(evaluation)] if choices else None,
            advice=AdviceOut.of(evaluation) if choices else None,
            route=RouteOut(
                lens=words.lens_words(evaluation),
                lines=words.lines_words(evaluation),
                frame=frame_words(evaluation),
                edges=edges_words(evaluation),
            ),
            state=words.state(evaluation),
            finding=finding(evaluation),
            map=map_token(evaluation),
            map_as_taken=as_taken_token(evaluation.recipe),
            made_for=made_for[""],
            touch_ups={name: key for name, key in made_for.items() if name},
        )


class BenchOut(Wire):
    """A photo with its current recipe, and all that is true under it (without offers and ways)."""

    photo: PhotoOut
    recipe: Recipe
    can_undo: bool
    can_redo: bool
    action: str
    evaluation: EvaluateOut

    @classmethod
    def of(cls, now: PhotoNow) -> BenchOut:
        """The message for a photo on the bench."""
        return cls(
            photo=PhotoOut.of(now),
            recipe=now.recipe,
            can_undo=now.can_undo,
            can_redo=now.can_redo,
            action=now.revision.action,
            evaluation=EvaluateOut.of(evaluate(now.recipe), choices=False),
        )


class ProfilesOut(Wire):
    """Lens profiles as parts of a recipe; ``sure``: the first is the photo's own; ``reason``: why none is."""

    profiles: list[LensPart]
    sure: bool
    reason: str | None


class StillLine(Wire):
    """A line that stands still on the screen: its ends in corrected pixels."""

    way: Literal["level", "upright"]
    ends: tuple[tuple[float, float], tuple[float, float]]


class UnderIn(Wire):
    """Still lines over a recipe."""

    recipe: Recipe
    lines: list[StillLine] = Field(max_length=20)


class UnderOut(Wire):
    """What the picture does under each line, in words."""

    words: list[str]


class RevisionOut(Wire):
    """One completed action."""

    id: int
    action: str
    at: datetime
    current: bool


class RevisionsOut(Wire):
    """Everything that was done to a photo, the import first."""

    revisions: list[RevisionOut]


class RevisionSeenOut(Wire):
    """A photo as it was after an action."""

    recipe: Recipe
    evaluation: EvaluateOut


class JobOut(Wire):
    """Long work: how far it is, and what came of it. ``code`` and ``error``: why it failed; ``notices``: what
    was left out; ``filled``: the share of an export that is new."""

    id: str
    label: str
    state: WorkState
    progress: float
    words: str
    code: str | None
    error: str | None
    notices: list[str]
    photo_id: int | None
    known: bool
    filled: float

    @classmethod
    def of(cls, job: Begun) -> JobOut:
        """The message for a job."""
        row, result = job.row, job.row.result or {}
        return cls(
            id=row.id,
            label=row.label,
            state=row.state,
            progress=job.progress,
            words=job.words,
            code=row.code,
            error=row.error,
            notices=row.notices,
            photo_id=result.get("photo_id"),
            known=result.get("known", False),
            filled=result.get("filled", 0.0),
        )


class ExportIn(Wire):
    """An export: how the current revision is written.

    With ``versions`` (their ids) these are written into one file, as each of them says; ``now``: the current
    revision too.
    """

    export: ExportPart
    versions: list[int] = Field(default_factory=list, max_length=50)
    now: bool = True
