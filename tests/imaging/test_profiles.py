"""Lens profiles: found, chosen, refused, and their maps against the library's own."""

from __future__ import annotations

from collections.abc import Iterator

import lensfunpy
import numpy as np
import pytest
from scenes import SCENES, scene

from sequor.core.distortion.models import Lens, database_lens
from sequor.imaging.metadata import CameraFacts
from sequor.imaging.profiles import MODELS, Profile, find_profiles, search_profiles

DATABASE = lensfunpy.Database(load_common=False)


def entries(model: str, most: int) -> Iterator[tuple[object, object]]:
    """Real lenses measured in a model, spread over the database, each at one focal length."""
    found = [
        (lens, point)
        for lens in DATABASE.lenses
        if lens.type == lensfunpy.LensType.RECTILINEAR
        for point in lens.calib_distortion
        if point.model.name == model and any(point.terms)
    ]
    picked = np.unique(np.linspace(0, len(found) - 1, most).astype(int))
    yield from (found[at] for at in picked)


def as_lens(profile: Profile, width: int, height: int) -> Lens:
    return database_lens(profile.model, (width / 2, height / 2), profile.unit_px, profile.terms)


@pytest.mark.parametrize("model", MODELS)
def test_against_the_librarys_own_maps(model: str) -> None:
    """Fifteen real entries of every model that the database has (of poly5: all five), on two sensor sizes, upright and
    lying: to 0.05 px on 3000 x 2000, about the library's single precision. Its maps are read column by column: read in
    rows, its vector code is off by up to some tenths of a pixel in three of four columns. It leaves the scale at the
    centre as the terms give it, we make it 1."""
    checked = 0
    for lens, point in entries(model, 15):
        for factor, (width, height) in ((1.0, (3000, 2000)), (1.3, (2000, 3000))):
            crop = lens.crop_factor * factor  # type: ignore[attr-defined]
            modifier = lensfunpy.Modifier(lens, crop, width, height)
            modifier.initialize(point.focal, 8.0, 1000.0, scale=1.0, flags=lensfunpy.ModifyFlags.DISTORTION)  # type: ignore[attr-defined]
            ours = profile_for(lens, point, crop, width, height)
            bent = as_lens(ours, width, height)
            middle = bent.unit_px / ours.unit_px
            for x in (0, width // 4, width - 1):
                theirs = modifier.apply_geometry_distortion(x, 0, 1, height)
                if theirs is None:
                    continue
                output = np.column_stack([np.full(height, x + 0.5), np.arange(height) + 0.5])
                centre = np.array([width / 2, height / 2])
                mine = bent.distorted((output - centre) * middle + centre) - 0.5
                assert np.abs(mine - theirs[:, 0]).max() < 0.05, lens
                checked += 1
    assert checked >= 30


def profile_for(lens: object, point: object, crop: float, width: int, height: int) -> Profile:
    """What we make of an entry, through the same code that finds profiles."""
    from sequor.imaging import profiles

    class Camera:
        maker, model, crop_factor = "Invented Optics", "test", crop

    facts = CameraFacts("Invented Optics", "test", None, float(point.focal))  # type: ignore[attr-defined]
    found = profiles._profile(lens, Camera(), facts, (width, height))
    assert found is not None
    return found


@pytest.mark.parametrize("name", SCENES)
def test_the_demo_photos_have_their_true_terms(name: str) -> None:
    """Our own file gives the terms that the photos were made with, to a quarter of a pixel in the corner."""
    truth = scene(name).truth
    facts = CameraFacts("Invented Optics", "IO-1", None, round(truth["f_mm"], 2))
    found = find_profiles(facts, *scene(name).size)
    assert found.sure and len(found.profiles) == 1
    width, height = scene(name).size
    true = Lens((width / 2, height / 2), scene(name).lens.unit_px, k1=truth["distortion"]["k1"])
    points = np.random.default_rng(1).uniform([0, 0], [width, height], (200, 2))
    assert (
        np.abs(as_lens(found.profiles[0], width, height).distorted(points) - true.distorted(points)).max()
        < 0.25
    )


def test_a_named_lens_is_sure_and_the_next_ones_can_be_chosen() -> None:
    facts = CameraFacts("Canon", "Canon EOS 5D Mark III", "EF24-105mm f/4L IS USM", 24.0)
    found = find_profiles(facts, 5760, 3840)
    assert found.sure and found.profiles[0].lens == "Canon EF 24-105mm f/4L IS USM"
    assert found.profiles[0].model == "ptlens" and len(found.profiles) == 2
    nameless = find_profiles(CameraFacts("Canon", "Canon EOS 5D Mark III", None, 24.0), 5760, 3840)
    assert not nameless.sure and len(nameless.profiles) > 10


@pytest.mark.parametrize(
    ("facts", "words"),
    [
        (CameraFacts(), "does not say which camera took it"),
        (CameraFacts("Nobody", "Nothing 9", None, 24.0), "does not list the camera Nothing 9"),
        (CameraFacts("Invented Optics", "IO-1", "IO 400mm", 400.0), "no profile for IO 400mm at 400 mm"),
        (CameraFacts("Invented Optics", "IO-1", "IO 12-33mm"), "without a focal length"),
    ],
)
def test_why_there_is_none(facts: CameraFacts, words: str) -> None:
    found = find_profiles(facts, 3000, 2000)
    assert not found.profiles and words in (found.reason or "")


def test_looking_for_a_lens_by_name() -> None:
    found = search_profiles("io 12-33", CameraFacts(None, None, None, 15.66), 3000, 2000)
    assert [profile.lens for profile in found.profiles] == ["Invented Optics IO 12-33mm"] and not found.sure
    assert "like the one it was measured on" in found.profiles[0].camera
    assert "no lens named" in (
        search_profiles("wendlow", CameraFacts(focal_mm=20.0), 3000, 2000).reason or ""
    )


def test_a_fisheye_is_not_offered() -> None:
    """It does not draw straight edges straight even without faults."""
    fisheye = next(
        lens for lens in DATABASE.lenses if lens.type == lensfunpy.LensType.FISHEYE and lens.calib_distortion
    )
    focal = fisheye.calib_distortion[0].focal
    found = search_profiles(fisheye.model, CameraFacts(None, None, None, focal), 3000, 2000)
    assert fisheye.model not in [profile.lens for profile in found.profiles]
