"""What is going on, for a person, for whoever watches over a program, and for Prometheus."""

from __future__ import annotations

from typing import Any

from apiflask import APIBlueprint
from flask import Response
from prometheus_client import CONTENT_TYPE_LATEST, generate_latest

from sequor.jobs.going_on import all_answer
from sequor.web.context import context
from sequor.web.going_on.schemas import GoingOnOut, HealthOut

NOT_WELL: dict[int | str, dict[str, Any]] = {
    503: {
        "description": "A service does not answer; the message says which",
        "content": {"application/json": {"schema": {"$ref": "#/components/schemas/HealthOut"}}},
    }
}

going_on = APIBlueprint("going_on", __name__, tag="Going on")


@going_on.get("/api/health")
@going_on.output(HealthOut)
@going_on.doc(responses=NOT_WELL)
def health() -> tuple[HealthOut, int]:
    """Whether the database, the queue and the data folder answer; 503 when one does not."""
    services = context().going_on.services()
    return HealthOut.of(services), 200 if all_answer(services) else 503


@going_on.get("/api/going-on")
@going_on.output(GoingOnOut)
def now() -> GoingOnOut:
    """The work by lanes, the workers and when each last said something, the services, and the room used."""
    return GoingOnOut.of(context().going_on)


@going_on.get("/metrics")
@going_on.doc(hide=True)
def metrics() -> Response:
    """The same in Prometheus' text format, with how long requests took. No names, titles or places."""
    return Response(generate_latest(context().metrics.registry), content_type=CONTENT_TYPE_LATEST)
