"""What is going on, told to people, to whoever watches, and to Prometheus."""

from __future__ import annotations

from datetime import timedelta
from pathlib import Path

import pytest
from apiflask import APIFlask
from clients import Importer, Page, Straight
from pictures import jpeg_bytes, smooth_picture
from prometheus_client.parser import text_string_to_metric_families
from sqlalchemy import text

from sequor.jobs import going_on
from sequor.jobs.background import BackgroundGoneError
from sequor.jobs.going_on import GoingOn, size_of
from sequor.store.database import Store
from sequor.store.models import Job, Photo, Take, now
from sequor.web.app import create_app


class Silent(Straight):
    """A queue that does not answer."""

    def waiting(self, worker: str | None = None) -> int:
        raise BackgroundGoneError

    def at_work(self) -> dict[str, int]:
        raise BackgroundGoneError


class Two(Straight):
    """A queue with a worker of this program and one of another computer."""

    asked = 0

    def at_work(self) -> dict[str, int]:
        self.asked += 1
        return {"bulk": 2, "bulk on mill": 1}


def add(store: Store, **values: object) -> None:
    """A job with these values."""
    with store.transaction() as session:
        number = len(session.query(Job).all())
        session.add(Job(id=f"j{number}", label="Secret garden", spec={}, **{"kind": "write", **values}))


def figures(page: Page) -> dict[tuple[str, ...], float]:
    """All that Prometheus would read: by the name and the labels' values."""
    answer = page("GET", "/metrics")
    assert answer.status_code == 200 and answer.content_type.startswith("text/plain")
    return {
        (one.name, *one.labels.values()): one.value
        for family in text_string_to_metric_families(answer.text)
        for one in family.samples
    }


def test_all_services_answer(own_page: Page) -> None:
    answer = own_page("GET", "/api/health")
    assert answer.status_code == 200 and answer.json["state"] == "well"
    assert [one["name"] for one in answer.json["services"]] == ["database", "queue", "files"]
    assert all(one["answers"] for one in answer.json["services"])


def test_a_service_that_does_not_answer_is_named(store: Store, tmp_path: Path) -> None:
    page = Page(create_app(store, Silent(store), tmp_path).test_client())
    answer = page("GET", "/api/health")
    assert answer.status_code == 503 and answer.json["state"] == "unwell"
    assert [one["name"] for one in answer.json["services"] if not one["answers"]] == ["queue"]
    told = page("GET", "/api/going-on")
    assert told.status_code == 200
    assert {one["said"] for one in told.json["workers"]} == {None}
    assert figures(page)["sequor_service_answers", "queue"] == 0


def test_a_folder_that_cannot_be_written_is_named(own_page: Page, store: Store) -> None:
    store.work.rmdir()
    answer = own_page("GET", "/api/health")
    assert answer.status_code == 503
    assert [one["name"] for one in answer.json["services"] if not one["answers"]] == ["files"]


def test_a_database_that_is_away_is_named(
    own_page: Page, store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    def away() -> None:
        with store.engine.connect() as connection:
            connection.execute(text("SELECT nothing FROM nowhere"))

    monkeypatch.setattr(GoingOn, "_database", lambda self: away())
    answer = own_page("GET", "/api/health")
    assert answer.status_code == 503
    assert [one["name"] for one in answer.json["services"] if not one["answers"]] == ["database"]


def test_work_is_counted_by_lanes(own_page: Page, store: Store, bring: Importer) -> None:
    add(store, lane="bulk", state="waiting", asked_at=now() - timedelta(minutes=3))
    add(store, lane="bulk", state="waiting")
    add(store, lane="bulk", state="running")
    add(store, lane="export", state="failed", ended_at=now() - timedelta(hours=2))
    add(store, lane="export", state="failed", ended_at=now() - timedelta(days=2))
    add(store, lane="export", state="done", ended_at=now())
    photo = bring(jpeg_bytes(smooth_picture(60, 40))).photo_id
    with store.transaction() as session:
        session.add(Take(photo_id=photo, made_for="x", seed=1, recipe={}))
    lanes = {one["name"]: one for one in own_page("GET", "/api/going-on").json["lanes"]}
    assert (lanes["bulk"]["waiting"], lanes["bulk"]["running"]) == (2, 1)
    assert 170 < lanes["bulk"]["waits"] < 200
    assert (lanes["export"]["failed"], lanes["export"]["waits"]) == (1, None)
    assert lanes["takes"]["waiting"] == 1
    assert lanes["import"]["waiting"] == lanes["import"]["running"] == 0


def test_workers_of_other_computers_are_told_and_nobody_is_asked_twice(store: Store, tmp_path: Path) -> None:
    queue = Two(store)
    page = Page(create_app(store, queue, tmp_path).test_client())
    for _ in range(3):
        workers = {one["name"]: one for one in page("GET", "/api/going-on").json["workers"]}
    assert queue.asked == 1
    assert (workers["bulk"]["doing"], workers["bulk on mill"]["doing"]) == (2, 1)
    assert workers["bulk"]["said"] is not None and workers["fill"]["said"] is None


def test_the_room_that_is_used(own_page: Page, store: Store, bring: Importer) -> None:
    content = jpeg_bytes(smooth_picture(600, 400))
    bring(content)
    used = {one["name"]: one["bytes"] for one in own_page("GET", "/api/going-on").json["used"]}
    name_of_it = len("photo.jpg")
    assert used["originals"] == len(content) + name_of_it
    assert used["screen"] > 0 and used["patches"] == 0


def test_links_are_not_followed(tmp_path: Path) -> None:
    (tmp_path / "inside").mkdir()
    (tmp_path / "inside" / "file").write_bytes(b"12345")
    (tmp_path / "inside" / "round").symlink_to(tmp_path)
    assert size_of(tmp_path / "inside") == 5


def test_prometheus_reads_the_work_and_how_long_it_took(
    own_page: Page, store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    add(store, lane="bulk", state="waiting")
    ended = now()
    for seconds in (2, 4):
        add(
            store,
            lane="bulk",
            state="done",
            begun_at=ended - timedelta(seconds=seconds),
            ended_at=ended,
            asked_at=ended - timedelta(minutes=5),
        )
    monkeypatch.setattr(going_on, "COUNTED_AGAIN_SECONDS", 0.0)
    read = figures(own_page)
    assert read["sequor_jobs", "bulk", "waiting"] == 1
    assert read["sequor_jobs_ended", "write", "done"] == 2
    assert read["sequor_jobs_ended_seconds", "write", "done"] == pytest.approx(6)
    assert read["sequor_free_bytes",] > 0
    assert {key[1] for key in read if key[0] == "sequor_used_bytes"} >= {"originals", "screen"}


def test_requests_are_counted_by_their_rules_and_name_nobody(
    app: APIFlask, own_page: Page, store: Store, bring: Importer
) -> None:
    brought = bring(jpeg_bytes(smooth_picture(60, 40)), "Secret garden.jpg")
    with store.transaction() as session:
        session.get_one(Photo, brought.photo_id).title = "Secret garden"
    own_page("GET", f"/api/photos/{brought.photo_id}")
    own_page("GET", "/api/photos?text=Secret")
    own_page("GET", "/Secret/garden")
    own_page("SECRET", "/api/photos")
    add(store, lane="bulk", state="running")
    assert "Secret" not in own_page("GET", "/metrics").text.replace("secret", "Secret").replace(
        "SECRET", "Secret"
    )
    counted = {
        key: value for key, value in figures(own_page).items() if key[0] == "sequor_request_seconds_count"
    }
    rules = {rule.rule for rule in app.url_map.iter_rules()} | {"none"}
    assert {key[1] for key in counted} <= rules
    assert counted["sequor_request_seconds_count", "/api/photos/<int:photo_id>", "GET", "200"] == 1
    assert any(key[2] == "other" for key in counted)


def test_foreign_hosts_may_not_read_the_figures(app: APIFlask) -> None:
    for path in ("/metrics", "/api/health", "/api/going-on"):
        assert app.test_client().get(path, headers={"Host": "evil.example"}).status_code == 421
