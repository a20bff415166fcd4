"""What is true under a recipe, as it goes over the wire."""

from __future__ import annotations

import base64
from typing import Literal

import numpy as np
from pydantic import Field

from sequor.advice.presets import Preset, presets
from sequor.advice.suggestions import Offer, offers
from sequor.core.camera import Array
from sequor.core.estimation.unknowns import ANGLES, Unknown
from sequor.core.warp.base import NEAREST_DEPTH
from sequor.operations.map_tokens import as_taken_token, map_token
from sequor.pipeline.evaluated import Evaluated
from sequor.pipeline.readings import ReferenceResult
from sequor.recipe.model import Recipe
from sequor.web.bench.framed import FrameOut
from sequor.web.wire import Wire
from sequor.wording import kinds, numbers, view, words
from sequor.wording.edges import edges_words
from sequor.wording.finding import advice_words, finding
from sequor.wording.frame import frame_words


class MeshOut(Wire):
    """The mesh the preview is drawn from: (rows + 1, columns + 1, 3) little-endian float32 in base64."""

    columns: int
    rows: int
    vertices: str
    nearest: float = Field(description="where W is smaller, nothing is drawn")


def path_of(points: Array) -> list[tuple[float, float]]:
    """Points (N, 2) as they go over the wire."""
    return [(round(float(x), 2), round(float(y), 2)) for x, y in points]


class LineOut(Wire):
    """A row of the field book. ``paths``: where its sides run on the photo, in photo pixels; null where they
    are straight in a flat picture."""

    id: str
    number: int
    kind: str
    as_taken: str
    brief: str
    after: str
    plus_minus: str
    verdict: str
    verdict_words: str
    paths: list[list[tuple[float, float]]] | None

    @classmethod
    def of(cls, number: int, result: ReferenceResult) -> LineOut:
        """The message for a line."""
        return cls(
            id=result.id,
            number=number,
            kind=result.kind,
            as_taken=kinds.taken_words(result),
            brief=kinds.brief_words(result),
            after=kinds.after_words(result),
            plus_minus=kinds.uncertainty_words(result),
            verdict=result.verdict,
            verdict_words=kinds.verdict_words(result),
            paths=None if result.paths is None else [path_of(path) for path in result.paths],
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
    def of(cls, evaluation: Evaluated, name: Unknown) -> AngleOut:
        """The message for an angle."""
        sd, taken_out = evaluation.solution.sd[name], evaluation.taken_out(name)
        return cls.model_validate(
            {
                "name": name,
                "solved": getattr(evaluation.solution.attitude, name),
                "sd": sd,
                "plus_minus": None if sd is None else numbers.plus_minus(sd),
                "taken_out": taken_out,
                "by_hand": getattr(evaluation.recipe.correction.by_hand, name),
                "words": words.angle_words(name, taken_out),
            }
        )


class ChoiceOut(Wire):
    """Something that can be done."""

    label: str


class OfferOut(Wire):
    """A question with its choices; it speaks of ``lines``."""

    name: str
    words: str
    lines: list[str]
    choices: list[ChoiceOut]

    @classmethod
    def of(cls, offer: Offer) -> OfferOut:
        """The message for an offer."""
        choices = [ChoiceOut(label=one.label) for one in offer.choices]
        return cls(name=offer.name, words=offer.words, lines=list(offer.lines), choices=choices)


class PresetOut(Wire):
    """How far the correction may go, and what that costs; ``kept``: the share of the picture that is left;
    ``loss``: what it cuts, in words, empty for nothing that matters."""

    name: str
    chosen: bool
    determined: bool
    words: str
    kept: float | None
    loss: str

    @classmethod
    def of(cls, preset: Preset) -> PresetOut:
        """The message for a way."""
        return cls(
            name=preset.name,
            chosen=preset.chosen,
            determined=preset.determined,
            words=preset.words,
            kept=preset.kept,
            loss=preset.loss,
        )


class AdviceOut(Wire):
    """The one line that would help most: its kind, and the band (x, y, width, height) in photo pixels."""

    kind: Literal["plumb", "level"]
    band: tuple[float, float, float, float]
    words: str

    @classmethod
    def of(cls, evaluation: Evaluated) -> AdviceOut | None:
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
    ``things`` how many straight things took part, ``determined`` the terms that they tell; ``open``: every ±
    allows for a bending that nobody told."""

    source: str
    words: str
    bending: str
    k1_percent: float
    things: int
    determined: list[str]
    open: bool

    @classmethod
    def of(cls, evaluation: Evaluated) -> LensOut:
        """The message for an evaluation."""
        bending = evaluation.solution.distortion
        return cls(
            source=evaluation.recipe.lens.source,
            words=words.lens_words(evaluation),
            bending=words.bending_words(evaluation),
            k1_percent=100 * evaluation.warp.lens.k1 * evaluation.corner**2,
            things=bending.things,
            determined=list(bending.names),
            open=evaluation.lens_open,
        )


class WideOut(Wire):
    """What a wide view does: how many times as much as across it stretches along at worst, how far a line may
    bow, as a share of its length, both in ``words``, and of each line that goes only so far what is to be
    told."""

    drawn_out: float
    bend: float
    words: str
    unmet: dict[str, str]

    @classmethod
    def of(cls, evaluation: Evaluated) -> WideOut | None:
        """The message for an evaluation; None where the picture is flat."""
        stretches = evaluation.stretches
        if stretches is None:
            return None
        return cls(
            drawn_out=stretches.drawn_out,
            bend=stretches.bend,
            words=view.cost_words(evaluation),
            unmet=view.unmet_words(evaluation),
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
    wide: WideOut | None
    offers: list[OfferOut] | None
    presets: list[PresetOut] | None
    advice: AdviceOut | None
    route: RouteOut
    state: str
    finding: str
    map: str
    map_as_taken: str
    made_for: str
    touch_ups: dict[str, str]

    @classmethod
    def of(cls, evaluation: Evaluated, choices: bool) -> EvaluateOut:
        """The message for an evaluation; without ``choices`` offers, ways and advice are null."""
        mesh = evaluation.warp.mesh()
        vertices = base64.b64encode(mesh.vertices.astype("<f4").tobytes()).decode()
        camera = evaluation.camera
        made_for = evaluation.made_for
        return cls(
            mesh=MeshOut(columns=mesh.columns, rows=mesh.rows, vertices=vertices, nearest=NEAREST_DEPTH),
            outline=[(float(x), float(y)) for x, y in np.asarray(evaluation.warp.outline())],
            frame=FrameOut.of(evaluation),
            lines=[LineOut.of(index + 1, result) for index, result in enumerate(evaluation.references)],
            angles=[AngleOut.of(evaluation, name) for name in ANGLES],
            undetermined=list(evaluation.solution.undetermined),
            focal=FocalOut(
                px=camera.focal_px,
                equivalent_mm=camera.equivalent_mm,
                source=camera.source,
                words=words.focal_words(evaluation),
            ),
            lens=LensOut.of(evaluation),
            wide=WideOut.of(evaluation),
            offers=[OfferOut.of(offer) for offer in offers(evaluation)] if choices else None,
            presets=[PresetOut.of(one) for one in presets(evaluation)] if choices else None,
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


class MadeOut(Wire):
    """The recipe after an action, the action for the log, and what else is to be told; ``done`` false: the
    recipe is the nearest to what was asked."""

    recipe: Recipe
    action: str
    words: str
    done: bool


class LookOut(EvaluateOut):
    """The same, and what an action has made of the recipe; null where that was not asked for."""

    after: MadeOut | None
