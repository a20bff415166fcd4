"""What is noted: lines of JSON with the request or job they belong to, and nothing of the pictures."""

from __future__ import annotations

import json
import logging
from collections.abc import Iterator
from io import StringIO
from typing import Any

import pytest
from apiflask import APIFlask
from clients import Importer, Page
from pictures import jpeg_bytes, smooth_picture

from sequor.jobs import doing, tasks
from sequor.jobs.asking import Asked, ask
from sequor.jobs.logs import note_in
from sequor.jobs.tasks import Kind
from sequor.operations import photos
from sequor.store.database import Store


@pytest.fixture
def noted() -> Iterator[StringIO]:
    """What is written at the usual level."""
    root = logging.getLogger()
    before, level = root.handlers[:], root.level
    text = StringIO()
    note_in(logging.StreamHandler(text), logging.INFO)
    yield text
    root.handlers[:], root.level = before, level


def lines(text: StringIO) -> list[dict[str, Any]]:
    return [json.loads(line) for line in text.getvalue().splitlines()]


def faults(text: StringIO, of: str) -> list[dict[str, Any]]:
    """What went wrong in jobs, or in requests; other threads may note faults of their own."""
    return [one for one in lines(text) if "fault" in one and of in one]


def broken(*_: object, **__: object) -> None:
    """A fault whose words name a photo."""
    raise ZeroDivisionError("Secret garden.jpg")


def test_a_fault_is_noted_with_its_job_and_without_the_photo(
    store: Store, noted: StringIO, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setitem(tasks.KINDS, "clumsy", Kind("bulk", 9, broken))  # type: ignore[arg-type]
    with store.transaction() as session:
        ((bell, _),) = ask(session, [Asked("clumsy", "Secret garden", {"name": "Secret garden.jpg"})])
    doing.do(store, bell.name)
    (fault,) = faults(noted, "job")
    assert fault["job"] == bell.name and fault["fault"] == "ZeroDivisionError"
    assert fault["level"] == "ERROR" and "request" not in fault
    assert fault["where"][-1].startswith("test_logs.py:") and fault["where"][-1].endswith(" broken")
    assert "Secret" not in noted.getvalue()


def test_a_request_is_named_in_its_answer_and_in_what_is_noted(
    own_page: Page, noted: StringIO, monkeypatch: pytest.MonkeyPatch, bring: Importer
) -> None:
    photo = bring(jpeg_bytes(smooth_picture(60, 40)), "Secret garden.jpg").photo_id
    monkeypatch.setattr(photos, "get_photo", broken)
    answers = [own_page("GET", f"/api/photos/{photo}") for _ in range(2)]
    assert [one.status_code for one in answers] == [500, 500]
    names = [one.headers["X-Request-Id"] for one in answers]
    assert [one["request"] for one in faults(noted, "request")] == names
    assert len(set(names)) == 2 and "Secret" not in noted.getvalue()


def test_whoever_looks_closer_is_told_more(app: APIFlask, noted: StringIO) -> None:
    del app
    logging.getLogger().setLevel(logging.DEBUG)
    try:
        broken()
    except ZeroDivisionError:
        logging.getLogger("sequor.test").exception("it broke")
    assert lines(noted)[-1]["says"] == "Secret garden.jpg"
