"""What the blueprints work with, kept on the application."""

from __future__ import annotations

from dataclasses import dataclass
from typing import cast

from flask import current_app, request

from sequor.jobs.children import Job, Jobs
from sequor.operations.rendering import Originals
from sequor.store.database import Store

from .problems import Problem


@dataclass(frozen=True)
class Services:
    """The store, the running jobs, and the decoded originals."""

    store: Store
    jobs: Jobs
    originals: Originals
    token: str


def services() -> Services:
    """Those of the application that serves this request."""
    return cast(Services, current_app.extensions["sequor"])


def expected_version() -> int:
    """The version that If-Match names. Raises Problem when it is missing."""
    tag = request.headers.get("If-Match", "").strip().strip('"')
    if not tag.isdigit():
        raise Problem(428, "Version missing", "name the photo's version in If-Match")
    return int(tag)


def find_job(name: str) -> Job:
    """The job of this name. Raises Problem when it is not known any more."""
    job = services().jobs.get(name)
    if job is None:
        raise Problem(404, "No such job", "it ended more than an hour ago or the program was restarted")
    return job
