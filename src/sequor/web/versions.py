"""Versions of a photo, and the way back to an older state."""

from __future__ import annotations

from apiflask import APIBlueprint

from sequor.operations import revising, versions
from sequor.store.models import Version

from .frame_schemas import NameIn, VersionOut, VersionsOut
from .schemas import BenchOut
from .services import expected_version, services

versions_of = APIBlueprint("versions", __name__, url_prefix="/api/photos/<int:photo_id>", tag="Versions")


@versions_of.get("/versions")
@versions_of.output(VersionsOut)
def list_versions(photo_id: int) -> VersionsOut:
    """The named states of a photo."""
    found = versions.list_versions(services().store, photo_id)
    return VersionsOut(versions=[VersionOut.of(*one) for one in found])


@versions_of.post("/versions")
@versions_of.input(NameIn)
@versions_of.output(VersionOut, status_code=201)
def keep_version(photo_id: int, json_data: NameIn) -> VersionOut:
    """Keep the present state under a name."""
    store = services().store
    return _out(photo_id, versions.keep_version(store, photo_id, json_data.name.strip()))


@versions_of.put("/versions/<int:version_id>")
@versions_of.output(VersionOut)
def bring_up(photo_id: int, version_id: int) -> VersionOut:
    """Let a version hold the present state."""
    return _out(photo_id, versions.bring_up(services().store, photo_id, version_id))


@versions_of.delete("/versions/<int:version_id>")
@versions_of.output({}, status_code=204)
def remove_version(photo_id: int, version_id: int) -> str:
    """Take a version away; it can be restored."""
    versions.remove_version(services().store, photo_id, version_id)
    return ""


@versions_of.post("/versions/<int:version_id>/restore")
@versions_of.output(VersionOut)
def restore_version(photo_id: int, version_id: int) -> VersionOut:
    """Undo a removal."""
    return _out(photo_id, versions.restore_version(services().store, photo_id, version_id))


@versions_of.post("/revisions/<int:revision_id>/return")
@versions_of.output(BenchOut)
def return_to(photo_id: int, revision_id: int) -> BenchOut:
    """Make an older state the present one."""
    return BenchOut.of(revising.return_to(services().store, photo_id, expected_version(), revision_id))


def _out(photo_id: int, version: Version) -> VersionOut:
    recipe = revising.get_revision(services().store, photo_id, version.revision_id)
    return VersionOut.of(version, recipe)
