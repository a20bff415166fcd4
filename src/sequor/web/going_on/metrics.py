"""Figures in Prometheus' text format: requests as they are answered, all else when it is asked for.

Labels are names of the program's own: addresses by their rules, lanes, kinds and states of jobs. No names,
titles or places.
"""

from __future__ import annotations

import os
import time
from collections.abc import Iterator
from contextlib import suppress

from flask import Response, g, request
from prometheus_client import CollectorRegistry, Histogram
from prometheus_client.core import GaugeMetricFamily, Metric
from prometheus_client.multiprocess import MultiProcessCollector
from prometheus_client.registry import Collector
from sqlalchemy.exc import SQLAlchemyError

from sequor.jobs.going_on import GoingOn

BUCKETS = (0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30)
"""Seconds."""
TOGETHER = "PROMETHEUS_MULTIPROC_DIR"
"""Where prometheus_client adds up what several processes count, when it is set as they start."""
METHODS = ("GET", "HEAD", "OPTIONS", "POST", "PUT", "PATCH", "DELETE")


class Metrics:
    """The figures of one application, also where several processes answer for it."""

    def __init__(self, going_on: GoingOn) -> None:
        self.registry = CollectorRegistry()
        self.registry.register(_Asked(going_on))
        together = TOGETHER in os.environ
        if together:
            MultiProcessCollector(self.registry)  # type: ignore[no-untyped-call]
        self._requests = Histogram(
            "sequor_request_seconds",
            "How long requests took",
            ("method", "address", "status"),
            buckets=BUCKETS,
            # What several processes count is read from where they write it.
            registry=None if together else self.registry,
        )

    def before(self) -> None:
        """Note when a request came."""
        g.came_at = time.perf_counter()

    def after(self, response: Response) -> Response:
        """Count a request that was answered."""
        rule = "none" if request.url_rule is None else request.url_rule.rule
        took = time.perf_counter() - g.get("came_at", time.perf_counter())
        # Anybody may make up a method; each would be a row of its own for ever.
        method = request.method if request.method in METHODS else "other"
        self._requests.labels(method, rule, str(response.status_code)).observe(took)
        return response


class _Asked(Collector):
    """What is asked for when somebody reads the figures; what does not answer is left out."""

    def __init__(self, going_on: GoingOn) -> None:
        self._now = going_on

    def collect(self) -> Iterator[Metric]:
        answers = GaugeMetricFamily("sequor_service_answers", "1 when a service answers", labels=["service"])
        took = GaugeMetricFamily(
            "sequor_service_seconds", "How long a service took to answer", labels=["service"]
        )
        for service in self._now.services():
            answers.add_metric([service.name], float(service.answers))
            took.add_metric([service.name], service.seconds)
        yield answers
        yield took
        with suppress(OSError):
            yield GaugeMetricFamily(
                "sequor_free_bytes", "Room on the disk of the data folder", self._now.free
            )
        used = GaugeMetricFamily("sequor_used_bytes", "Room that files of a kind take", labels=["kind"])
        for one in self._now.used():
            used.add_metric([one.name], one.bytes)
        yield used
        with suppress(SQLAlchemyError):
            yield from self._work()

    def _work(self) -> Iterator[Metric]:
        """The lanes and what ended lately. Raises SQLAlchemyError."""
        lanes, ended = self._now.lanes(), self._now.ended()
        jobs = GaugeMetricFamily("sequor_jobs", "Jobs that are not done", labels=["lane", "state"])
        for lane in lanes:
            jobs.add_metric([lane.name, "waiting"], lane.waiting)
            jobs.add_metric([lane.name, "running"], lane.running)
            jobs.add_metric([lane.name, "failed"], lane.failed)
        yield jobs
        labels = ["kind", "state"]
        count = GaugeMetricFamily("sequor_jobs_ended", "Jobs that ended within the last hour", labels=labels)
        seconds = GaugeMetricFamily("sequor_jobs_ended_seconds", "How long these took in all", labels=labels)
        for one in ended:
            count.add_metric([one.kind, one.state], one.count)
            seconds.add_metric([one.kind, one.state], one.seconds)
        yield count
        yield seconds
