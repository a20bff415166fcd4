"""Lens profiles from the open database that lensfunpy ships, and from our own file of invented lenses.

Only bundled data counts, so that every machine has the same. A profile is given out with all its numbers:
nothing that is kept refers back to the database.
"""

from __future__ import annotations

import threading
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import lensfunpy

from sequor.core.camera import DIAGONAL_35MM
from sequor.core.distortion.fisheye import Law
from sequor.core.distortion.models import TERM_COUNTS, Model, half_diagonal

from .metadata import CameraFacts

INVENTED = Path(__file__).with_name("invented_lens.xml")

MOST_FOUND = 60

USUAL_ASPECT = 1.5
"""Width : height of the pictures a lens was measured on, where the database does not say."""

MODELS: dict[str, Model] = {"POLY3": "poly3", "POLY5": "poly5", "PTLENS": "ptlens"}
LAWS: dict[str, Law] = {
    "FISHEYE": "equidistant",
    "FISHEYE_EQUISOLID": "equisolid",
    "FISHEYE_STEREOGRAPHIC": "stereographic",
    "FISHEYE_ORTHOGRAPHIC": "orthographic",
}

# The library keeps state while it looks things up.
_ONE_AT_A_TIME = threading.Lock()


@dataclass(frozen=True)
class Profile:
    """The bending of a lens at a focal length, for one size of picture: the database's own model and terms, r
    in ``unit_px``. Of a fisheye ``law`` and ``focal_px``, its focal length in photo pixels; else None."""

    camera: str
    lens: str
    focal_mm: float
    model: Model
    unit_px: float
    terms: tuple[float, ...]
    law: Law | None = None
    focal_px: float | None = None


@dataclass(frozen=True)
class Found:
    """Profiles that may be the photo's, the likeliest first. ``sure``: the first is its own. ``reason`` says
    why there is none."""

    profiles: tuple[Profile, ...]
    sure: bool
    reason: str | None


def find_profiles(facts: CameraFacts, width: int, height: int) -> Found:
    """The profiles that match what the camera wrote into a photo of this size."""
    if not facts.make or not facts.model:
        return Found((), False, "the file does not say which camera took it")
    with _ONE_AT_A_TIME:
        cameras = _database().find_cameras(facts.make, facts.model)
        if not cameras:
            return Found((), False, f"the lens database does not list the camera {facts.model}")
        camera = cameras[0]
        lenses = _database().find_lenses(camera, None, facts.lens)
        profiles = _profiles(lenses, camera, facts, (width, height))
    named = _called(camera)
    if not profiles:
        what = facts.lens or "a lens"
        at = f" at {facts.focal_mm:g} mm" if facts.focal_mm else " without a focal length"
        return Found((), False, f"the lens database has no profile for {what}{at} on the {named}")
    own = len(profiles) == 1 or (facts.lens and _plain(profiles[0].lens).endswith(_plain(facts.lens)))
    return Found(profiles[:MOST_FOUND], bool(own), None)


def search_profiles(words: str, facts: CameraFacts, width: int, height: int) -> Found:
    """The profiles whose lens is called by all of these words, for a photo of this size."""
    wanted = words.lower().split()
    with _ONE_AT_A_TIME:
        cameras = _database().find_cameras(facts.make or "", facts.model or "") if facts.model else []
        lenses = [
            lens for lens in _database().lenses if all(word in _called(lens).lower() for word in wanted)
        ]
        lenses.sort(key=lambda lens: (len(lens.model), lens.model))
        profiles = _profiles(lenses, cameras[0] if cameras else None, facts, (width, height))
    if not profiles:
        reason = f"no lens named “{words}” has a profile at this focal length"
        return Found((), False, reason)
    return Found(profiles[:MOST_FOUND], False, None)


def _profiles(
    lenses: Iterable[Any], camera: Any | None, facts: CameraFacts, size: tuple[int, int]
) -> tuple[Profile, ...]:
    found: dict[tuple[str, tuple[float, ...]], Profile] = {}
    for lens in lenses:
        profile = _profile(lens, camera, facts, size)
        if profile is not None:
            found.setdefault((profile.lens, profile.terms), profile)
    return tuple(found.values())


def _profile(lens: Any, camera: Any | None, facts: CameraFacts, size: tuple[int, int]) -> Profile | None:
    """None for a lens that was not measured, not at this focal length, or of another kind than these."""
    law = LAWS.get(lens.type.name)
    if (lens.type != lensfunpy.LensType.RECTILINEAR and law is None) or not lens.calib_distortion:
        return None
    focal = facts.focal_mm or (lens.min_focal if lens.min_focal == lens.max_focal else None)
    shortest = min(point.focal for point in lens.calib_distortion)
    longest = max(point.focal for point in lens.calib_distortion)
    if focal is None or not 0.97 * shortest <= focal <= 1.03 * longest:
        return None
    terms = lens.interpolate_distortion(min(max(focal, shortest), longest))
    model = MODELS.get(terms.model.name) if terms else None
    if model is None:
        return None
    crop = camera.crop_factor if camera else lens.crop_factor
    # The library measures pictures from the middle of their first pixel to that of their last.
    half = half_diagonal(size[0] - 1, size[1] - 1)
    key = lens.model, round(lens.crop_factor, 3)
    aspect = _aspects().get(key, USUAL_ASPECT)
    unit = half * crop / lens.crop_factor / (1 + aspect**2) ** 0.5
    numbers = tuple(round(float(term), 9) for term in terms.terms[: TERM_COUNTS[model]])
    focal_px = None
    if law is not None:
        # A law goes by the scale at the centre, unless the database has a focal length for that.
        own = _real_focals().get((*key, focal))
        diagonal = DIAGONAL_35MM / crop
        focal_px = (own or focal * (1 - _off_centre(model, numbers))) * 2 * half / diagonal
    return Profile(
        camera=_called(camera) if camera else "a camera like the one it was measured on",
        lens=_called(lens),
        focal_mm=round(float(focal), 3),
        model=model,
        unit_px=unit,
        terms=numbers,
        law=law,
        focal_px=None if focal_px is None else round(focal_px, 4),
    )


def _off_centre(model: Model, terms: tuple[float, ...]) -> float:
    """What the terms of a model take of the scale at the centre."""
    return 0.0 if model == "poly5" else sum(terms)


def _called(thing: Any) -> str:
    """A lens or a camera by its maker and name, the maker once."""
    model = str(thing.model)
    return model if model.lower().startswith(str(thing.maker).lower()) else f"{thing.maker} {model}"


def _plain(name: str) -> str:
    return "".join(letter for letter in name.lower() if letter.isalnum())


@lru_cache(maxsize=1)
def _database() -> Any:
    return lensfunpy.Database(xml=INVENTED.read_text(), load_common=False)


def _aspects() -> dict[tuple[str, float], float]:
    """Width : height of the pictures that lenses were measured on, by lens and crop factor."""
    return _not_given_out()[0]


def _real_focals() -> dict[tuple[str, float, float], float]:
    """The focal length that a lens's own scale at the centre has, by lens, crop factor and nominal length."""
    return _not_given_out()[1]


@lru_cache(maxsize=1)
def _not_given_out() -> tuple[dict[tuple[str, float], float], dict[tuple[str, float, float], float]]:
    """What the library uses of its files but does not give out: aspects and real focal lengths."""
    aspects: dict[tuple[str, float], float] = {}
    focals: dict[tuple[str, float, float], float] = {}
    for path in sorted((Path(lensfunpy.__file__).parent / "db_files").glob("*.xml")):
        for lens in ElementTree.parse(path).getroot().iter("lens"):
            names = [name.text for name in lens.findall("model") if not name.get("lang")]
            if not names:
                continue
            key = names[-1] or "", round(float(lens.findtext("cropfactor") or 1), 3)
            across, _, down = (lens.findtext("aspect-ratio") or "").partition(":")
            if across:
                aspects[key] = float(across) / float(down or 1)
            for one in lens.iter("real-focal-length"):
                focals[*key, float(one.get("focal", 0))] = float(one.get("real-focal", 0))
    return aspects, focals
