"""Patches in a recipe: those that are known for its frame are listed in it when it is kept."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial

from sqlalchemy import select

from sequor.pipeline.edges.registry import mode_of
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.pipeline.new_pixels import TOUCH_UP, patch_name
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.edges import EdgesPart, PatchPart
from sequor.store.database import Store
from sequor.store.models import Take


def with_patches(store: Store, photo_id: int, recipe: Recipe, also: Take | None = None) -> Recipe:
    """The recipe with the patches that its takes have made, listed; stale ones stay until there are others.

    A part keeps the take that was chosen for it; what was removed has none any more. ``also``: a take that
    counts as done.
    """
    edges = recipe.edges
    fills = mode_of(edges).makes_pixels
    if not fills and not edges.touch_ups and not edges.patches:
        return recipe
    done = partial(_done, store, photo_id, also)
    now = evaluate(recipe).made_for
    corners = [patch for patch in edges.patches if not patch.part.startswith(TOUCH_UP)]
    if fills:
        corners = _of_corners(done, edges, corners, now[""])
        edges = evolve(edges, patches=corners)
        # What lies on the corners is made for them as they are now.
        now = Evaluated(evolve(recipe, edges=edges)).made_for
    found = [_of_touch_up(done, recipe.edges, one.id, now) for one in edges.touch_ups]
    patches = corners + [patch for patch in found if patch is not None]
    return evolve(recipe, edges=evolve(edges, patches=patches))


Done = Callable[[str], dict[int, Take]]
"""The takes that are done for a hash, by their seeds."""


def _of_corners(takes: Done, edges: EdgesPart, listed: list[PatchPart], key: str) -> list[PatchPart]:
    if listed and all(patch.made_for == key for patch in listed):
        return listed
    done = takes(key)
    chosen = {patch.part: patch.seed for patch in listed}
    wanted = {edges.seed, *chosen.values()}
    if not wanted <= set(done):
        return listed
    names = [part["part"] for part in done[edges.seed].parts]
    return [patch_of(done[chosen.get(name, edges.seed)], name) for name in names]


def _of_touch_up(takes: Done, edges: EdgesPart, name: str, now: Mapping[str, str]) -> PatchPart | None:
    """The patch of a touch-up: the one that is listed, else the one that its take has made."""
    called = patch_name(name)
    listed = next((patch for patch in edges.patches if patch.part == called), None)
    key, seed = now.get(name), next(one.seed for one in edges.touch_ups if one.id == name)
    if key is None or (listed is not None and (listed.made_for, listed.seed) == (key, seed)):
        return listed
    take = takes(key).get(seed)
    return patch_of(take, called) if take else listed


def _done(store: Store, photo_id: int, also: Take | None, key: str) -> dict[int, Take]:
    query = select(Take).where(Take.photo_id == photo_id, Take.made_for == key, Take.state == "done")
    with store.transaction() as session:
        found = {take.seed: take for take in session.scalars(query)}
    if also is not None and also.made_for == key:
        found[also.seed] = also
    return found


def patches_done(store: Store, photo_id: int, key: str) -> dict[int, list[PatchPart]]:
    """The patches of the takes that are done for a hash, by their seeds."""
    return {
        seed: [patch_of(take, part["part"]) for part in take.parts]
        for seed, take in _done(store, photo_id, None, key).items()
    }


def patch_of(take: Take, name: str) -> PatchPart:
    """The patch of a take that is done for one part."""
    part = next(one for one in take.parts if one["part"] == name)
    return PatchPart(
        sha256=part["sha256"], part=name, box=part["box"], seed=take.seed, made_for=take.made_for
    )
