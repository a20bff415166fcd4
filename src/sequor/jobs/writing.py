"""What is asked for when many files are written: which, in which lane, under which names."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sqlalchemy import Row, func, select
from sqlalchemy.orm import Session

from sequor.imaging.formats.registry import FORMATS
from sequor.operations.export_names import TOGETHER, File, about, names_of
from sequor.operations.telling import UNFINISHED
from sequor.pipeline.edges.registry import MODES
from sequor.recipe.model.export import ExportPart
from sequor.store.chunks import chunks
from sequor.store.models import BatchPhoto, Job, Photo, Revision, Version

from .asking import Asked, hash_of


@dataclass(frozen=True)
class Writing:
    """A file that is to be written: its name, what is asked for it, and how many bytes it may have."""

    photo_id: int
    name: str
    asked: Asked
    room: int


def asked(
    session: Session,
    batch: int,
    photos: Sequence[Photo],
    settings: ExportPart,
    versions: bool,
    folder: Path | None,
) -> list[Writing]:
    """The files of some photos with one sheet of settings; ``versions``: the named ones too; ``folder``:
    where they are put, None: they are fetched."""
    wanted = _states(session, photos, settings, versions)
    taken = [] if folder is None else [*(one.name for one in folder.iterdir()), *_promised(session, folder)]
    names = names_of([file for _, _, file in wanted], settings.name or TOGETHER, taken)
    filled = _filled(session, [revision for _, revision, _ in wanted])
    # The name of a file is no part of its content.
    content = {**settings.model_dump(mode="json"), "name": None}
    found = []
    for (photo, revision, _), name in zip(wanted, names, strict=True):
        spec: dict[str, Any] = {"photo_id": photo.id, "sha256": photo.sha256, "revision_id": revision}
        spec["export"] = content
        made_of = hash_of("write", spec)
        if folder is not None:
            spec |= {"folder": str(folder), "name": name}
            made_of = hash_of("write", spec, batch)
        lane = "fill" if revision in filled else None
        room = FORMATS[settings.format].bytes_of(photo.shown_width * photo.shown_height)
        found.append(Writing(photo.id, name, Asked("write", name, spec, made_of, lane), room))
    return found


def _states(
    session: Session, photos: Sequence[Photo], settings: ExportPart, versions: bool
) -> list[tuple[Photo, int, File]]:
    """Of which photo, which revision, and what names are made of."""
    named: dict[int, list[Row[int, int, str]]] = {}
    if versions:
        query = select(Version.photo_id, Version.revision_id, Version.name).where(
            Version.removed_at.is_(None)
        )
        for some in chunks([photo.id for photo in photos]):
            for one in session.execute(query.where(Version.photo_id.in_(some)).order_by(Version.id)):
                named.setdefault(one.photo_id, []).append(one)
    found = []
    for photo in photos:
        of, own = about(photo), named.get(photo.id, [])
        assert photo.revision_id is not None
        current = File(of, "current" if own else "", photo.ratio, settings.format)
        found.append((photo, photo.revision_id, current))
        found += [(photo, one.revision_id, File(of, one.name, photo.ratio, settings.format)) for one in own]
    return found


def _filled(session: Session, revisions: Sequence[int]) -> set[int]:
    """Those revisions whose export makes new pixels."""
    making = [name for name, mode in MODES.items() if mode.makes_pixels]
    makes = func.json_value(Revision.recipe, "$.edges.mode").in_(making)
    touched = func.json_length(Revision.recipe, "$.edges.touch_ups") > 0
    found: set[int] = set()
    for some in chunks(revisions):
        found.update(session.scalars(select(Revision.id).where(Revision.id.in_(some), makes | touched)))
    return found


def _promised(session: Session, folder: Path) -> list[str]:
    """Names that files of other batches will have in a folder."""
    query = select(BatchPhoto.name).join(Job, Job.id == BatchPhoto.job_id)
    there = func.json_value(Job.spec, "$.folder") == str(folder)
    return list(session.scalars(query.where(Job.state.in_(UNFINISHED), there)))
