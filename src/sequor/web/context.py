"""What the blueprints work with, kept on the application."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import cast

from flask import current_app, request

from sequor.jobs.asking import WorkQueue
from sequor.jobs.batches import Batches
from sequor.jobs.going_on import GoingOn
from sequor.jobs.jobs import Jobs
from sequor.operations.looking import Looks
from sequor.operations.rendering import Originals
from sequor.painter.client import Painter
from sequor.store.database import Store
from sequor.store.models import Job
from sequor.web.going_on.metrics import Metrics
from sequor.web.guard import Guard
from sequor.web.problems import Problem


@dataclass(frozen=True)
class Context:
    """The store, the jobs and batches of them, the way to the workers, the decoded originals, the looks that
    were taken, what is going on and its figures, who may talk to it, and the outside painter if one was set
    up at the start."""

    store: Store
    jobs: Jobs
    batches: Batches
    queue: WorkQueue
    originals: Originals
    looks: Looks
    going_on: GoingOn
    metrics: Metrics
    guard: Guard
    painter: Painter | None


def context() -> Context:
    """Those of the application that serves this request."""
    return cast(Context, current_app.extensions["sequor"])


def expected_version() -> int:
    """The version that If-Match names. Raises Problem when it is missing."""
    tag = request.headers.get("If-Match", "").strip().strip('"')
    if not re.fullmatch(r"[0-9]{1,9}", tag):
        raise Problem(428, "Version missing", "Name the photo's version in If-Match. Nothing was changed")
    return int(tag)


def find_job(name: str) -> Job:
    """The job of this name. Raises Problem when it is not known any more."""
    job = context().jobs.get(name)
    if job is None:
        raise Problem(
            404,
            "No such job",
            (
                "This work is no longer known: it ended more than an hour ago, "
                "or Sequor was restarted. Begin it again"
            ),
        )
    return job
