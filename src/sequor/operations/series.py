"""Photos of one camera position, or of one lens, solved together: proposed with how well they agree, done
only when somebody asks for it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import isnan
from typing import Any, Literal

from sequor.core.estimation.series import (
    FLOOR_DEG,
    Shared,
    Telling,
    attitude_telling,
    lens_telling,
    put_together,
)
from sequor.operations.batches import LeftError, change
from sequor.operations.lenses import same_lens
from sequor.operations.photos import PhotoNow, get_photo
from sequor.operations.revising import Kept, settled
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.correction import SeriesPart
from sequor.recipe.parse import RecipeError
from sequor.recipe.reopen import to_solve_anew
from sequor.store.database import Store
from sequor.wording.series import Member, series_words

What = Literal["attitude", "lens"]

MOST_PHOTOS = 200
"""Photos that are solved together at once."""

TELLS: dict[What, Callable[[Any], Telling | None]] = {"attitude": attitude_telling, "lens": lens_telling}


class SeriesRefusedError(Exception):
    """Photos that do not share what they were to share, or do not tell it."""


@dataclass(frozen=True)
class Series:
    """Photos together: which of them tell something, what they tell, and it in words. ``odd``: the photo that
    does not belong; ``refused``: whether they cannot be solved together."""

    told: tuple[int, ...]
    shared: Shared | None
    words: tuple[str, ...]
    odd: int | None
    refused: bool


def series_of(store: Store, photos: Sequence[int], what: What) -> Series:
    """What photos tell together. Raises SeriesRefusedError for too many or unlike ones, PhotoUnknownError,
    UnreadableStateError, RecipeError."""
    if len(photos) > MOST_PHOTOS:
        raise SeriesRefusedError(f"Up to {MOST_PHOTOS} photos can be solved together; choose fewer")
    nows = [get_photo(store, number) for number in dict.fromkeys(photos)]
    _refuse_unlike(nows, what)
    found = [(now, TELLS[what](evaluate(now.recipe).solution)) for now in nows]
    telling = [(now, told) for now, told in found if told is not None]
    members = [Member(now.photo.title, told.values, told.own) for now, told in telling]
    numbers = tuple(now.photo.id for now, _ in telling)
    if len(telling) < 2:
        return Series(numbers, None, series_words(what, members, None), None, True)
    shared = put_together([told for _, told in telling], FLOOR_DEG if what == "attitude" else 0.0)
    odd = None if shared.odd is None else numbers[shared.odd]
    return Series(numbers, shared, series_words(what, members, shared), odd, shared.refused)


def _refuse_unlike(nows: Sequence[PhotoNow], what: What) -> None:
    first = nows[0]
    for now in nows[1:]:
        here, there = first.recipe.photo, now.recipe.photo
        if (here.width, here.height) != (there.width, there.height):
            raise SeriesRefusedError(
                f"“{now.photo.title}” has another size or orientation than “{first.photo.title}”; choose "
                "photos of one camera that were held alike"
            )
        if what == "lens" and not same_lens(first.photo.facts, now.photo.facts):
            raise SeriesRefusedError(
                f"“{now.photo.title}” was taken with another lens or focal length than "
                f"“{first.photo.title}”; choose photos of one lens"
            )


def settings_of(series: Series, what: What) -> dict[str, Any]:
    """What each photo of a series is given. Raises SeriesRefusedError."""
    shared = series.shared
    if shared is None or series.refused:
        raise SeriesRefusedError(" ".join(series.words))
    first, second = (None if isnan(value) else float(value) for value in shared.values)
    second_sd = None if second is None else shared.sd(1)
    return {
        "what": what,
        "photos": len(series.told),
        "values": [first, second],
        "sds": [shared.sd(0), second_sd],
    }


def share(
    store: Store,
    photo_id: int,
    batch: int,
    number: int,
    what: What,
    photos: int,
    values: Sequence[float | None],
    sds: Sequence[float | None],
) -> dict[str, Any]:
    """Give one photo of a batch what its series told. Raises as ``batches.change`` does."""

    def after(now: PhotoNow) -> tuple[Kept, str | None]:
        made = SHARED[what](now.recipe, photos, values, sds)
        words = f"{'Tilt and verticals' if what == 'attitude' else 'Lens'}: solved together, {photos} photos"
        return (settled(store, photo_id, now.recipe, made), words), None

    return change(store, batch, number, photo_id, after)


def _with_attitude(
    recipe: Recipe, photos: int, values: Sequence[float | None], sds: Sequence[float | None]
) -> Recipe:
    solution = evaluate(recipe).solution
    free = recipe.correction.free
    roll, pitch = values
    if "roll" not in free or roll is None or sds[0] is None:
        raise LeftError("Its tilt is not corrected, so there is nothing to share.")
    corrected = {
        "roll": round(roll, 6),
        "pitch": round(pitch, 6) if pitch is not None and "pitch" in free else solution.attitude.pitch,
        "yaw": solution.attitude.yaw,
        "series": SeriesPart(photos=photos, roll_sd=sds[0], pitch_sd=sds[1]),
    }
    return evolve(recipe, correction=evolve(recipe.correction, **corrected))


def _with_lens(
    recipe: Recipe, photos: int, values: Sequence[float | None], sds: Sequence[float | None]
) -> Recipe:
    k1, k2 = values
    if k1 is None or sds[0] is None:
        raise RecipeError("The straight edges do not tell the distortion", "lens")
    lens = evolve(
        recipe.lens,
        source="manual",
        model="brown",
        profile=None,
        k1=round(k1, 8),
        k2=round(k2 or 0.0, 8),
        k3=0.0,
        p1=0.0,
        p2=0.0,
        k1_sd=min(1.0, round(sds[0], 8)),
    )
    free = [name for name in recipe.correction.free if name not in ("k1", "k2")]
    return to_solve_anew(evolve(recipe, lens=lens), free=free)


SHARED: dict[What, Callable[..., Recipe]] = {"attitude": _with_attitude, "lens": _with_lens}
