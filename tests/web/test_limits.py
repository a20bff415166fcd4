"""Requests are bounded: a bad one is refused with its reason, and nothing is changed."""

from __future__ import annotations

import errno
import shutil
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import pytest
from apiflask import APIFlask
from clients import Importer, Page, Straight, finished
from pictures import jpeg_bytes, smooth_picture

from benchmarks.generated import run
from sequor.operations import exporting
from sequor.store.database import Store
from sequor.store.room import RESERVE
from sequor.web.app import create_app
from sequor.web.limits import LARGEST_JSON

JPEG = jpeg_bytes(smooth_picture(300, 200))


@pytest.fixture
def bench(own_page: Page, bring: Importer) -> dict[str, Any]:
    """A fresh photo on the bench."""
    found: dict[str, Any] = own_page("GET", f"/api/photos/{bring(JPEG).photo_id}").get_json()
    return found


@pytest.mark.filterwarnings("ignore::RuntimeWarning")
def test_no_generated_request_is_answered_with_500(app: APIFlask, bring: Importer) -> None:
    """The full run: benchmarks/generated.py."""
    outcome = run(app.test_client(), bring(JPEG).photo_id, 200, 11)
    assert outcome.troubles == []
    assert sum(outcome.statuses.values()) == 200 and outcome.statuses[200] > 10


@pytest.mark.parametrize("tag", ["²", "-1", "1e3", "", "x", "٣", "99999999999999999999"])
def test_a_version_is_a_plain_number(own_page: Page, bench: dict[str, Any], tag: str) -> None:
    answer = own_page("DELETE", f"/api/photos/{bench['photo']['id']}", tag.encode().decode("latin-1"))
    assert answer.status_code == 428 and "Nothing was changed" in answer.get_json()["detail"]


@pytest.mark.parametrize(
    ("body", "status"),
    [
        (b"[" * 100_000, 400),
        (b'{"recipe":' * 30 + b"1" + b"}" * 30, 400),
        (b'{"recipe": NaN}', 400),
        (b'{"recipe": 1e999}', 400),
        (b'{"recipe": "\\ud800"}', 400),
        (b"1" * 5000, 400),
        (b"\xff\xfe", 400),
        (b" " * (LARGEST_JSON + 1), 413),
    ],
)
def test_what_is_no_document(own_page: Page, body: bytes, status: int) -> None:
    answer = own_page("POST", "/api/evaluate", data=body, content_type="application/json")
    assert answer.status_code == status and answer.get_json()["detail"]


@pytest.mark.parametrize(
    ("part", "value", "field"),
    [
        ("lens", {"source": "manual", "k1": 1e300}, "lens.k1"),
        ("frame", {"rect": [1e300, 0, 10, 10]}, "frame.rect"),
        ("references", [{"id": "r", "kind": "level", "points": [[0, 0], [1e-300, 0]]}], "references.0"),
        ("references", [{"id": "a\x07", "kind": "level", "points": [[0, 0], [9, 0]]}], "references.0.id"),
        (
            "references",
            [{"id": f"r{n}", "kind": "level", "points": [[0, n], [9, n]]} for n in range(501)],
            "references",
        ),
        ("frame", {"rect": [0, 0, 20_000, 20_000], "ratio": "free", "allow_empty": True}, "frame.rect"),
        ("export", {"size": [60_000, 60_000]}, "export.size"),
    ],
)
def test_numbers_that_cannot_be_meant(
    own_page: Page, bench: dict[str, Any], part: str, value: Any, field: str
) -> None:
    recipe = {**bench["recipe"], part: value}
    path = f"/api/photos/{bench['photo']['id']}/revisions"
    answer = own_page("POST", path, 0, json={"recipe": recipe, "action": "x"})
    assert answer.status_code == 422
    assert field in f"{answer.get_json().get('field')} {answer.get_json()['detail']}"


@pytest.mark.parametrize("name", ["a\x00b", "line\nbreak", "\x7f", "   "])
def test_names_are_plain_words(own_page: Page, bench: dict[str, Any], name: str) -> None:
    path = f"/api/photos/{bench['photo']['id']}"
    assert own_page("PATCH", path, 0, json={"title": name}).status_code == 422
    assert own_page("POST", f"{path}/versions", 0, json={"name": name}).status_code == 422
    assert own_page("POST", "/api/ratios", json={"name": name, "ratio": "3:2"}).status_code == 422
    assert own_page("GET", f"/api/photos/{10**30}").status_code in (404, 405)


def test_a_costly_export_is_refused_before_it_is_begun(
    own_page: Page, bench: dict[str, Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(exporting, "MOST_MEMORY", 100_000)
    answer = own_page("POST", f"/api/photos/{bench['photo']['id']}/exports", json={"export": {}})
    assert answer.status_code == 422 and "of memory" in answer.get_json()["detail"]


def test_on_a_full_disk_nothing_is_begun_and_after_room_is_made_all_goes_on(
    own_page: Page, bench: dict[str, Any], store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    path, version = f"/api/photos/{bench['photo']['id']}", bench["photo"]["version"]
    revision = {"recipe": bench["recipe"], "action": "Something"}
    with monkeypatch.context() as patched:
        patched.setattr(shutil, "disk_usage", lambda where: SimpleNamespace(free=RESERVE - 1))
        for answer in (
            own_page("POST", "/api/imports?name=a.jpg", data=JPEG),
            own_page("POST", f"{path}/revisions", version, json=revision),
            own_page("POST", f"{path}/exports", json={"export": {}}),
            own_page("PATCH", path, version, json={"title": "Jetty"}),
        ):
            assert answer.status_code == 507
            assert "kept for the database. Nothing was changed; free some" in answer.get_json()["detail"]
        # Looking is still possible.
        assert own_page("GET", path).status_code == 200
        assert own_page("POST", "/api/evaluate", json={"recipe": bench["recipe"]}).status_code == 200
        # A file that would not fit beside the reserve is refused by its size.
        patched.setattr(shutil, "disk_usage", lambda where: SimpleNamespace(free=RESERVE + len(JPEG)))
        assert own_page("POST", "/api/imports?name=a.jpg", data=JPEG).status_code == 507
    assert not [folder for folder in store.work.iterdir() if not folder.name.startswith("test-")]
    assert own_page("POST", f"{path}/revisions", version, json=revision).status_code == 201
    other = jpeg_bytes(smooth_picture(60, 40))
    assert (
        finished(own_page, own_page("POST", "/api/imports?name=a.jpg", data=other).get_json())["state"]
        == "done"
    )


@pytest.mark.parametrize(("number", "status"), [(errno.ENOSPC, 507), (errno.EROFS, 503), (errno.EACCES, 503)])
def test_a_folder_that_cannot_be_written_is_said(
    own_page: Page, bench: dict[str, Any], monkeypatch: pytest.MonkeyPatch, number: int, status: int
) -> None:
    import os

    from sequor.operations import screen_pictures

    def fail(*arguments: object) -> bytes:
        raise OSError(number, os.strerror(number))

    monkeypatch.setattr(screen_pictures, "screen_picture", fail)
    answer = own_page("GET", f"/api/photos/{bench['photo']['id']}/screen/640-0.jpg")
    assert answer.status_code == status and "Nothing was changed" in answer.get_json()["detail"]


def test_the_page_is_compressed_and_its_assets_stay(store: Store, tmp_path: Path) -> None:
    pages = tmp_path / "dist"
    (pages / "assets").mkdir(parents=True)
    (pages / "index.html").write_text("<p>NONCE-OF-THIS-ANSWER</p>" * 100)
    (pages / "assets" / "index-abc.js").write_text("let a = 1;\n" * 1000)
    client = create_app(store, Straight(store), pages).test_client()
    asked = {"Host": "127.0.0.1:8765", "Accept-Encoding": "gzip"}
    for path in ("/", "/assets/index-abc.js"):
        answer = client.get(path, headers=asked)
        assert answer.headers.get("Content-Encoding") == "gzip", (path, answer.status, dict(answer.headers))
        assert len(answer.data) < 1000
    assert "immutable" in answer.headers["Cache-Control"]


def test_one_state_that_cannot_be_read_hides_no_photo(
    own_page: Page, bench: dict[str, Any], bring: Importer, store: Store
) -> None:
    from sqlalchemy import text

    path, photo = f"/api/photos/{bench['photo']['id']}", bench["photo"]
    bring(jpeg_bytes(smooth_picture(90, 60)), "other.jpg")
    named = own_page("PATCH", path, 0, json={"title": "Jetty"}).get_json()
    kept = own_page(
        "POST",
        f"{path}/revisions",
        named["version"],
        json={"recipe": bench["recipe"], "action": "Broken later"},
    ).get_json()
    with store.engine.begin() as connection:
        number = {"i": kept["photo"]["revision"]}
        connection.execute(
            text("UPDATE revisions SET recipe = JSON_SET(recipe, '$.edges', 'x') WHERE id = :i"), number
        )
    # Who asks for it is told, and from then on its card tells it too.
    small = own_page("GET", f"/api/photos/{photo['id']}/thumbnail/{kept['photo']['revision']}.jpg")
    assert small.status_code == 409
    first, second = own_page("GET", "/api/photos").get_json()["photos"]
    assert (first["readable"], first["state"], first["revision"]) == (
        False, "last state cannot be read", photo["revision"],
    )  # fmt: skip
    assert second["readable"] and second["title"] == "Other"
    opened = own_page("GET", path)
    assert opened.status_code == 409 and "all other states are kept" in opened.get_json()["detail"]
    back = own_page("POST", f"{path}/recover", first["version"])
    assert back.status_code == 200 and back.get_json()["readable"]
    assert own_page("GET", path).get_json()["action"] == "Went back to: Imported"
    # The log still has it.
    actions = [one["action"] for one in own_page("GET", f"{path}/revisions").get_json()["revisions"]]
    assert actions == ["Went back to: Imported", "Broken later", "Imported"]
