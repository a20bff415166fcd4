"""Versions of a photo, and the way back to an older state."""

from __future__ import annotations

from apiflask import APIBlueprint

from sequor.operations import photos, revising, versions
from sequor.operations.photos import PhotoNow
from sequor.web.bench.schemas import BenchOut
from sequor.web.context import context, expected_version
from sequor.web.versions.schemas import NameIn, VersionOut, VersionsOut

versions_of = APIBlueprint("versions", __name__, url_prefix="/api/photos/<int:photo_id>", tag="Versions")


@versions_of.get("/versions")
@versions_of.output(VersionsOut)
def list_versions(photo_id: int) -> VersionsOut:
    """The named states of a photo."""
    return _all(photos.get_photo(context().store, photo_id))


@versions_of.post("/versions")
@versions_of.input(NameIn)
@versions_of.output(VersionsOut, status_code=201)
def keep_version(photo_id: int, json_data: NameIn) -> VersionsOut:
    """Keep the present state under a name."""
    name = json_data.name.strip()
    return _all(versions.keep_version(context().store, photo_id, expected_version(), name))


@versions_of.put("/versions/<int:version_id>")
@versions_of.output(VersionsOut)
def bring_up(photo_id: int, version_id: int) -> VersionsOut:
    """Let a version hold the present state."""
    return _all(versions.bring_up(context().store, photo_id, expected_version(), version_id))


@versions_of.delete("/versions/<int:version_id>")
@versions_of.output(VersionsOut)
def remove_version(photo_id: int, version_id: int) -> VersionsOut:
    """Take a version away; it can be restored."""
    return _all(versions.remove_version(context().store, photo_id, expected_version(), version_id))


@versions_of.post("/versions/<int:version_id>/restore")
@versions_of.output(VersionsOut)
def restore_version(photo_id: int, version_id: int) -> VersionsOut:
    """Undo a removal."""
    return _all(versions.restore_version(context().store, photo_id, expected_version(), version_id))


@versions_of.post("/revisions/<int:revision_id>/return")
@versions_of.output(BenchOut)
def return_to(photo_id: int, revision_id: int) -> BenchOut:
    """Make an older state the present one."""
    return BenchOut.of(revising.return_to(context().store, photo_id, expected_version(), revision_id))


def _all(now: PhotoNow) -> VersionsOut:
    found = versions.list_versions(context().store, now.photo.id)
    return VersionsOut(version=now.photo.changes, versions=[VersionOut.of(*one) for one in found])
