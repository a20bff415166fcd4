"""Open to a network: nobody gets at what is another's."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest
from apiflask import APIFlask
from clients import Importer, finished, waited
from guests import OTHER, SECRET, WORD, Guest, brought, signed
from pictures import DEMO, jpeg_bytes, smooth_picture
from PIL import Image
from sqlalchemy import Engine, text

from sequor.operations.accounts import put_account
from sequor.operations.importing import SCREEN_SIDES
from sequor.store.database import Store
from sequor.store.owners import NOBODY, acting, acting_for
from sequor.web.contract import openapi

OPEN = {"/api/session", "/api/health", "/api/sign-in"}


def test_the_first_account_takes_over_what_was_there(store: Store, bring: Importer) -> None:
    photo = bring(jpeg_bytes(smooth_picture(90, 60))).photo_id
    put_account(store, "Ada", WORD)
    with store.engine.connect() as connection:
        first = connection.scalar(text("SELECT id FROM accounts"))
        assert connection.scalar(text("SELECT account_id FROM photos WHERE id = :i"), {"i": photo}) == first
    put_account(store, "Ben", WORD)
    with store.engine.connect() as connection:
        assert connection.scalar(text("SELECT account_id FROM photos WHERE id = :i"), {"i": photo}) == first


def test_two_may_bring_the_same_file_and_each_has_it_alone(open_app: APIFlask) -> None:
    content = jpeg_bytes(smooth_picture(300, 200))
    ada, ben = signed(open_app, "Ada"), signed(open_app, "Ben")
    photos = [brought(page, content, name)["photo"] for page, name in ((ada, "ada.jpg"), (ben, "ben.jpg"))]
    assert photos[0]["id"] != photos[1]["id"]
    for page, title in ((ada, "Ada"), (ben, "Ben")):
        assert [one["title"] for one in page("GET", "/api/photos").get_json()["photos"]] == [title]
        for kept in ("/api/groups", "/api/ratios"):
            body = {"name": "Shore", "ratio": "3:2"} if kept == "/api/ratios" else {"name": "Shore"}
            assert page("POST", kept, json=body).status_code == 201


def test_for_whom_is_forgotten_with_the_request(open_app: APIFlask) -> None:
    signed(open_app, "Ada")("GET", "/api/photos")
    assert acting() is None
    with acting_for(NOBODY):
        assert acting() == NOBODY


FORMS: dict[str, Any] = {
    "KnownIn": lambda of: {"sha256s": [of["sha256"]]},
    "ViewsIn": lambda of: {"recipe": of["recipe"]},
    "CostsIn": lambda of: {"recipe": of["recipe"]},
    "EdgesIn": lambda of: {"recipe": of["recipe"]},
    "EvaluateIn": lambda of: {"recipe": of["recipe"]},
    "OwnRatioIn": lambda of: {"name": "x", "ratio": "3:2"},
    "SeriesIn": lambda of: {"photos": [of["photo_id"]]},
    "GroupIn": lambda of: {"name": "mine", "photos": [of["photo_id"]]},
    "PhotosIn": lambda of: {"photos": [of["photo_id"]]},
    "TakeIn": lambda of: {"photos": [of["photo_id"]], "least": 0.0},
    "AsideIn": lambda of: {"photos": [of["photo_id"]], "aside": True},
    "CarryIn": lambda of: {"photos": [of["photo_id"]], "source": of["photo_id"], "parts": ["frame"]},
    "TitlesIn": lambda of: {"photos": [of["photo_id"]], "pattern": "x {n}"},
    "ImportIn": lambda of: {"label": "x"},
    "ExportManyIn": lambda of: {"photos": [of["photo_id"]], "export": {}},
    "TitleIn": lambda of: {"title": "x"},
    "TurnIn": lambda of: {"direction": "right"},
    "ResetIn": lambda of: {"part": "all"},
    "UnderIn": lambda of: {"recipe": of["recipe"], "lines": []},
    "AskTakesIn": lambda of: {"seeds": [9]},
    "ActionIn": lambda of: {"do": "take out", "angle": "roll", "degrees": 1},
    "DecideIn": lambda of: {"turn": 1},
    "ExportIn": lambda of: {"export": {}},
    "NameIn": lambda of: {"name": "x"},
    "RecipeIn": lambda of: {"recipe": of["recipe"], "action": "x"},
    "SignInIn": lambda of: {"name": "Ada", "password": "not the right one"},
    "PasswordIn": lambda of: {"old": "not the right one", "new": OTHER},
}
"""A body for each message that is sent, about what somebody else has."""


def endpoints() -> Iterator[tuple[str, str, str | None]]:
    """Each of the document: method, address, and the message that is sent."""
    for address, methods in openapi()["paths"].items():
        for method, told in methods.items():
            if method == "parameters":
                continue
            body = told.get("requestBody")
            schema = None if body is None else next(iter(body["content"].values()))["schema"]["$ref"]
            yield method.upper(), address, None if schema is None else schema.rsplit("/", 1)[-1]


ENDPOINTS = sorted(endpoints(), key=lambda one: one[1])
OWNED = [one for one in ENDPOINTS if "{" in one[1]]


def address_of(address: str, of: dict[str, Any]) -> str:
    """An address with the numbers and names of somebody's things in it."""
    special = {
        "kind": "csv",
        "side": SCREEN_SIDES[0],
        "turns": 0,
        "part": "all",
        "column": 0,
        "row": 0,
        "reduced": 1,
    }
    if "review/" in address:
        special |= {"name": "plain"}
    if "first-look" in address:
        special |= {"part": 0}
    values = {**of, "name": of["job"], **special}
    asked = f"?action={json.dumps({'do': 'edges', 'mode': 'trim'})}" if address.endswith("after.jpg") else ""
    return re.sub(r"\{(\w+)\}", lambda found: str(values[found[1]]), address) + asked


def rows(engine: Engine) -> str:
    """All that is stored, but for sessions."""
    tables = ["photos", "revisions", "versions", "takes", "jobs", "batches", "batch_photos", "photo_groups"]
    with engine.connect() as connection:
        told = {
            table: [tuple(row) for row in connection.execute(text(f"SELECT * FROM {table}")).all()]
            for table in (*tables, "group_photos", "own_ratios")
        }
    return repr(told)


@pytest.fixture
def hers(open_app: APIFlask, store: Store) -> dict[str, Any]:
    """All kinds of things that Ada has."""
    ada = signed(open_app, "Ada")
    bench = brought(ada, jpeg_bytes(np.asarray(Image.open(DEMO / "wendlow_mill.jpg").reduce(8))))
    photo = bench["photo"]["id"]
    at = f"/api/photos/{photo}"
    for action in (
        {"do": "take out", "angle": "roll", "degrees": 5},
        {"do": "edges", "mode": "fill"},
    ):
        bench = ada("POST", f"{at}/revise", bench["photo"]["version"], json=action).get_json()
    take = ada("POST", f"{at}/takes", json={"seeds": [1]}).get_json()["takes"][0]
    assert take["state"] == "done"
    kept = ada("POST", f"{at}/versions", bench["photo"]["version"], json={"name": SECRET}).get_json()
    job = finished(ada, ada("POST", f"{at}/exports", json={"export": {}}).get_json())
    assert job["state"] == "done" and job["filled"] > 0
    batch = ada("POST", "/api/batches/export", json={"photos": [photo], "export": {}}).get_json()["id"]
    waited(lambda: ada("GET", "/api/batches").get_json()["batches"] == [])
    bench = ada("GET", at).get_json()
    return {
        "photo_id": photo,
        "revision_id": bench["photo"]["revision"],
        "revision": bench["photo"]["revision"],
        "recipe": bench["recipe"],
        "token": bench["evaluation"]["map"],
        "version": bench["photo"]["version"],
        "version_id": kept["versions"][0]["id"],
        "take_id": take["id"],
        "sha256": take["parts"][0]["sha256"],
        "job": job["id"],
        "number": batch,
        "group_id": ada("POST", "/api/groups", json={"name": SECRET, "photos": [photo]}).get_json()["id"],
        "ratio_id": ada("POST", "/api/ratios", json={"name": SECRET, "ratio": "3:2"}).get_json()["id"],
    }


def test_every_message_has_a_form() -> None:
    """A new endpoint has to be tried too."""
    assert {message for _, _, message in ENDPOINTS if message is not None} == set(FORMS)
    assert len(OWNED) > 40


def tried(page: Guest, method: str, address: str, message: str | None, of: dict[str, Any]) -> Any:
    body = None if message is None else FORMS[message](of)
    # A file that is asked for with If-Match is one that has to match.
    version = None if method == "GET" else of["version"]
    return page(method, address_of(address, of), version, json=body)


def test_each_endpoint_as_its_owner(open_app: APIFlask, hers: dict[str, Any]) -> None:
    """What is asked below can be asked: what it reads is there for her."""
    ada = signed(open_app, "Ada")
    for method, address, message in OWNED:
        if method == "GET" and "look" not in address:
            assert tried(ada, method, address, message, hers).status_code == 200, address


def test_each_endpoint_as_nobody(open_app: APIFlask, hers: dict[str, Any], engine: Engine) -> None:
    nobody, before = Guest(open_app.test_client()), rows(engine)
    for method, address, message in ENDPOINTS:
        if address not in OPEN:
            answer = tried(nobody, method, address, message, hers)
            assert answer.status_code == 401, (method, address)
            assert SECRET.encode() not in answer.data
    assert rows(engine) == before


def test_each_endpoint_as_the_wrong_owner(open_app: APIFlask, hers: dict[str, Any], engine: Engine) -> None:
    """Nothing of hers is answered, nothing of hers is changed."""
    ben = signed(open_app, "Ben")
    before = rows(engine)
    for method, address, message in OWNED:
        answer = tried(ben, method, address, message, hers)
        gone = 204 if (method, address) == ("DELETE", "/api/groups/{group_id}") else 404
        assert answer.status_code == gone, (method, address, answer.status_code)
        assert SECRET.encode() not in answer.data, address
    assert rows(engine) == before


def test_each_endpoint_with_something_of_hers_in_it(
    open_app: APIFlask, hers: dict[str, Any], engine: Engine, store: Store
) -> None:
    """By his own address, with her photos in what is sent, or with her take, state or version."""
    ben = signed(open_app, "Ben")
    mine = brought(ben, jpeg_bytes(smooth_picture(300, 200)), "ben.jpg")["photo"]
    group = ben("POST", "/api/groups", json={"name": "Ben's"}).get_json()["id"]
    batch = ben("POST", "/api/batches/look", json={"photos": [mine["id"]]}).get_json()["id"]
    waited(lambda: ben("GET", "/api/batches").get_json()["batches"] == [])
    own = {"photo_id": mine["id"], "group_id": group, "number": batch}

    def hers_now() -> list[Any]:
        with engine.connect() as connection:
            return [
                [tuple(row) for row in connection.execute(text(f"SELECT * FROM {table} WHERE {which}")).all()]
                for table, which in (
                    ("photos", f"id = {hers['photo_id']}"),
                    ("revisions", f"photo_id = {hers['photo_id']}"),
                    ("versions", f"photo_id = {hers['photo_id']}"),
                    ("takes", f"photo_id = {hers['photo_id']}"),
                    ("batch_photos", f"photo_id = {hers['photo_id']}"),
                    ("group_photos", f"photo_id = {hers['photo_id']}"),
                    ("jobs", f"id = '{hers['job']}'"),
                )
            ]

    before = hers_now()
    for method, address, message in ENDPOINTS:
        if address in ("/api/sign-in", "/api/sign-out", "/api/sign-out-everywhere", "/api/password"):
            continue
        body = None if message is None else FORMS[message](hers)
        path = address_of(address, {**hers, **own})
        now = ben("GET", f"/api/photos/{mine['id']}")
        version = now.get_json()["photo"]["version"] if now.status_code == 200 else 0
        answer = ben(method, path, None if method == "GET" else version, json=body)
        assert answer.status_code < 500, (method, address, answer.data)
        assert SECRET.encode() not in answer.data, (method, address)
        if any(f"{{{name}}}" in address for name in ("take_id", "version_id", "revision_id", "revision")):
            assert answer.status_code in (404, 409), (method, address, answer.status_code)
        with store.transaction():
            assert hers_now() == before, (method, address)
