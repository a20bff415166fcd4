"""Profiles of the lens database as parts of a recipe."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from sequor.imaging.decode import read_header
from sequor.imaging.metadata import CameraFacts, camera_facts
from sequor.imaging.profiles import Found, Profile, find_profiles, search_profiles
from sequor.recipe.evolve import evolve
from sequor.recipe.first import first_recipe
from sequor.recipe.model import Recipe
from sequor.recipe.model.lens import LensPart, ProfilePart
from sequor.recipe.model.photo import PhotoPart
from sequor.store.models import Photo

Facts = Mapping[str, Any]
"""What a camera recorded, as a photo's row has it."""


@dataclass(frozen=True)
class Profiles:
    """What the database has for a photo, the likeliest first: ``sure`` when the first is its own lens, and in
    ``reason`` why there is nothing."""

    parts: tuple[LensPart, ...]
    sure: bool
    reason: str | None


def profiles_of(photo: Photo, size: PhotoPart, words: str) -> Profiles:
    """The profiles that match what the camera recorded, or those of lenses that are called by these words."""
    facts = CameraFacts(**photo.facts)
    arguments = (facts, size.width, size.height)
    found: Found = search_profiles(words, *arguments) if words else find_profiles(*arguments)
    return Profiles(tuple(_part(profile) for profile in found.profiles), found.sure, found.reason)


def recognised(facts: Facts, size: PhotoPart) -> LensPart | None:
    """The profile that is the photo's own by what its camera recorded; None when that is not sure."""
    found = find_profiles(CameraFacts(**facts), size.width, size.height)
    return _part(found.profiles[0]) if found.sure else None


def same_lens(one: Facts, other: Facts) -> bool:
    """Whether two photos were taken with one camera, lens and focal length, by what the cameras recorded."""
    return all(one.get(name) == other.get(name) for name in ("make", "model", "lens", "focal_mm"))


def recipe_of_file(photo: Path, sha256: str) -> tuple[Recipe, CameraFacts]:
    """The first recipe of a photo that is no more than a file, with the profile of its own lens where that is
    sure, and what its camera recorded. Raises UnreadablePictureError, OSError."""
    header, facts = read_header(photo), camera_facts(photo)
    recipe = first_recipe(header.width, header.height, sha256, facts.focal_35mm)
    lens = recognised(asdict(facts), recipe.photo)
    return (recipe if lens is None else evolve(recipe, lens=lens)), facts


def _part(profile: Profile) -> LensPart:
    return LensPart(
        source="profile",
        model=profile.law or profile.model,
        unit_px=profile.unit_px,
        focal_px=profile.focal_px,
        profile=ProfilePart(
            camera=profile.camera,
            lens=profile.lens,
            focal_mm=profile.focal_mm,
            terms=list(profile.terms),
        ),
    )
