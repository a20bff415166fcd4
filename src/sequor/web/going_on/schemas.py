"""Messages about what is going on."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from sequor.jobs.going_on import GoingOn, Lane, Service, Used, WorkerNow, all_answer
from sequor.store.models import now
from sequor.web.wire import Wire
from sequor.wording.work import lane_words, room_words, service_words, worker_words


class LaneOut(Wire):
    """The work in a lane. ``failed``: within the last day; ``waits``: for how many seconds the first of those
    that wait has waited."""

    name: str
    words: str
    waiting: int
    running: int
    failed: int
    waits: float | None

    @classmethod
    def of(cls, lane: Lane) -> LaneOut:
        """The message for a lane."""
        return cls(
            name=lane.name,
            words=lane_words(lane.name),
            waiting=lane.waiting,
            running=lane.running,
            failed=lane.failed,
            waits=_seconds_since(lane.since),
        )


class WorkerOut(Wire):
    """A worker: how much it is doing, and how many seconds ago it said so; null: not since the program
    was started."""

    name: str
    words: str
    doing: int
    said: float | None

    @classmethod
    def of(cls, worker: WorkerNow) -> WorkerOut:
        """The message for a worker."""
        return cls(
            name=worker.name,
            words=worker_words(worker.name),
            doing=worker.doing,
            said=_seconds_since(worker.said_at),
        )


class ServiceOut(Wire):
    """Whether a service answers, and within how many milliseconds."""

    name: str
    words: str
    answers: bool
    milliseconds: float

    @classmethod
    def of(cls, service: Service) -> ServiceOut:
        """The message for a service."""
        return cls(
            name=service.name,
            words=service_words(service.name),
            answers=service.answers,
            milliseconds=round(1000 * service.seconds, 1),
        )


class UsedOut(Wire):
    """The room that some files take, in bytes."""

    name: str
    words: str
    bytes: int

    @classmethod
    def of(cls, used: Used) -> UsedOut:
        """The message for a folder."""
        return cls(name=used.name, words=room_words(used.name), bytes=used.bytes)


class HealthOut(Wire):
    """Whether all services answer."""

    state: Literal["well", "unwell"]
    services: list[ServiceOut]

    @classmethod
    def of(cls, services: list[Service]) -> HealthOut:
        """The message for what answers and what does not."""
        return cls(
            state="well" if all_answer(services) else "unwell",
            services=[ServiceOut.of(one) for one in services],
        )


class GoingOnOut(Wire):
    """The work by lanes, the workers, the services, and the room used and free in bytes."""

    lanes: list[LaneOut]
    workers: list[WorkerOut]
    services: list[ServiceOut]
    used: list[UsedOut]
    free: int

    @classmethod
    def of(cls, going_on: GoingOn) -> GoingOnOut:
        """The message for all of it."""
        return cls(
            lanes=[LaneOut.of(one) for one in going_on.lanes()],
            workers=[WorkerOut.of(one) for one in going_on.workers()],
            services=[ServiceOut.of(one) for one in going_on.services()],
            used=[UsedOut.of(one) for one in going_on.used()],
            free=going_on.free,
        )


def _seconds_since(moment: datetime | None) -> float | None:
    return None if moment is None else max(0.0, (now() - moment).total_seconds())
