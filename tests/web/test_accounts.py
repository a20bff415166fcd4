"""Open to a network: who signs in, for how long, and that nobody gets at what is another's."""

from __future__ import annotations

import json
import logging
import re
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from apiflask import APIFlask
from clients import Importer, Page, Straight, finished, waited
from pictures import DEMO, jpeg_bytes, smooth_picture
from PIL import Image
from sqlalchemy import Engine, select, text
from sqlalchemy.exc import OperationalError

from sequor.operations.accounts import put_account
from sequor.operations.importing import SCREEN_SIDES
from sequor.store.database import Store
from sequor.store.models import Account
from sequor.store.owners import NOBODY, acting, acting_for
from sequor.web.accounts import network
from sequor.web.accounts.network import Access
from sequor.web.app import create_app
from sequor.web.contract import openapi

WORD, OTHER = "a long way over the moor", "another way over the moor"
SECRET = "Secret garden"
OPEN = {"/api/session", "/api/health", "/api/sign-in"}


class Guest(Page):
    """A page in a browser of its own, with its cookies."""

    def sign_in(self, name: str, password: str = WORD) -> Any:
        answer = self("POST", "/api/sign-in", json={"name": name, "password": password})
        self.reload()
        return answer

    def reload(self) -> None:
        """Load the page anew, as the program's own does."""
        super().__init__(self.client)


@pytest.fixture
def people(store: Store) -> None:
    """Two accounts."""
    assert put_account(store, "Ada", WORD) and put_account(store, "Ben", WORD)


@pytest.fixture
def open_app(store: Store, people: None, tmp_path: Path) -> APIFlask:
    """The application, open to a network."""
    (tmp_path / "assets").mkdir()
    (tmp_path / "index.html").write_text("NONCE-OF-THIS-ANSWER")
    return create_app(store, Straight(store), tmp_path, access=Access(1, "s" * 40))


@pytest.fixture
def guest(open_app: APIFlask) -> Guest:
    return Guest(open_app.test_client())


def signed(app: APIFlask, name: str) -> Guest:
    """Somebody who has signed in."""
    page = Guest(app.test_client())
    assert page.sign_in(name).status_code == 204
    return page


def brought(page: Page, content: bytes, name: str = f"{SECRET}.jpg") -> dict[str, Any]:
    """A photo that was imported over HTTP."""
    job = page("POST", f"/api/imports?name={name}", data=content).get_json()
    done = finished(page, job)
    assert done["state"] == "done", done
    seen: dict[str, Any] = page("GET", f"/api/photos/{done['photo_id']}").get_json()
    return seen


# Signing in.


def test_nobody_sees_anything_before_signing_in(guest: Guest) -> None:
    session = guest("GET", "/api/session").get_json()
    assert (session["network"], session["account"]) == (True, None)
    assert guest("GET", "/api/photos").status_code == 401
    assert guest.sign_in("Ada", "not the right one").status_code == 401
    assert guest.sign_in("Nobody of this name").status_code == 401
    assert guest("GET", "/api/photos").status_code == 401
    answer = guest.sign_in("Ada")
    assert answer.status_code == 204
    cookie = answer.headers["Set-Cookie"]
    assert "HttpOnly" in cookie and "SameSite=Strict" in cookie
    again = guest("GET", "/api/session")
    assert again.get_json()["account"] == "Ada"
    assert guest("GET", "/api/photos").status_code == 200


def test_the_cookie_stays_so_that_pictures_do(open_app: APIFlask) -> None:
    """What a browser keeps is kept for one cookie (RFC 9110, 12.5.5): it must not be another each time."""
    ada = signed(open_app, "Ada")
    photo = brought(ada, jpeg_bytes(smooth_picture(90, 60)))["photo"]
    answer = ada("GET", f"/api/photos/{photo['id']}/thumbnail/{photo['revision']}.jpg")
    assert answer.status_code == 200 and "immutable" in answer.headers["Cache-Control"]
    assert "Set-Cookie" not in answer.headers


def test_a_session_ends_by_itself(open_app: APIFlask, monkeypatch: pytest.MonkeyPatch) -> None:
    ada = signed(open_app, "Ada")
    later = time.time() + 12 * 3600
    monkeypatch.setattr(time, "time", lambda: later - 60)
    assert ada("GET", "/api/photos").status_code == 200
    monkeypatch.setattr(time, "time", lambda: later + 60)
    assert ada("GET", "/api/photos").status_code == 401


def test_over_tls_the_cookie_belongs_to_this_address_alone(open_app: APIFlask) -> None:
    """RFC 6265bis, 4.1.3.2: what is called __Host- is Secure, has the path / and no Domain."""
    client = open_app.test_client()
    asked = {"base_url": "https://photos.example/", "headers": {"Host": "photos.example"}}
    answer = client.get("/api/session", **asked)  # type: ignore[arg-type]
    cookie = answer.headers["Set-Cookie"]
    assert cookie.startswith("__Host-sequor=") and "Secure" in cookie and "Path=/" in cookie
    assert "Domain" not in cookie
    assert answer.headers["Strict-Transport-Security"]


def test_a_change_needs_the_token_of_its_own_session(open_app: APIFlask) -> None:
    ada, ben = signed(open_app, "Ada"), signed(open_app, "Ben")
    for headers in (ben.headers, {**ada.headers, "Origin": "https://elsewhere.example"}):
        answer = ada.client.post("/api/batches/import", headers=headers, json={"label": "x"})
        assert answer.status_code == 403
    assert ada("POST", "/api/batches/import", json={"label": "x"}).status_code == 201


def test_the_token_of_before_signing_in_is_gone(guest: Guest) -> None:
    before = dict(guest.headers)
    guest.sign_in("Ada")
    assert guest.client.post("/api/sign-out", headers=before).status_code == 403


def test_sessions_end_here_or_everywhere_or_with_the_password(open_app: APIFlask) -> None:
    one, two = signed(open_app, "Ada"), signed(open_app, "Ada")
    assert one("POST", "/api/sign-out").status_code == 204
    assert one("GET", "/api/photos").status_code == 401
    assert two("GET", "/api/photos").status_code == 200
    assert signed(open_app, "Ada")("POST", "/api/sign-out-everywhere").status_code == 204
    assert two("GET", "/api/photos").status_code == 401

    mine, lent = signed(open_app, "Ada"), signed(open_app, "Ada")
    wrong = {"old": OTHER, "new": OTHER}, {"old": WORD, "new": "too short"}
    assert [mine("POST", "/api/password", json=one).status_code for one in wrong] == [422, 422]
    assert mine("POST", "/api/password", json={"old": WORD, "new": OTHER}).status_code == 204
    assert mine("GET", "/api/photos").status_code == 200
    assert lent("GET", "/api/photos").status_code == 401
    assert lent.sign_in("Ada").status_code == 401
    assert lent.sign_in("Ada", OTHER).status_code == 204


def test_who_fails_too_often_waits(guest: Guest, open_app: APIFlask) -> None:
    told = [guest.sign_in("Ada", f"guess number {n} of many").status_code for n in range(21)]
    assert told == [401] * 20 + [429]
    refused = guest.sign_in("Ada")
    assert refused.status_code == 429 and "Wait a while" in refused.get_json()["detail"]
    # Whoever asks from elsewhere is not kept out by it.
    elsewhere = Guest(open_app.test_client())
    elsewhere.client.environ_base["REMOTE_ADDR"] = "192.0.2.7"
    assert elsewhere.sign_in("Ada").status_code == 204


def test_success_is_not_counted(open_app: APIFlask) -> None:
    for _ in range(25):
        signed(open_app, "Ada")


def test_on_one_computer_nobody_signs_in(own_page: Page) -> None:
    session = own_page("GET", "/api/session").get_json()
    assert (session["network"], session["account"]) == (False, None)
    answer = own_page("POST", "/api/sign-in", json={"name": "Ada", "password": WORD})
    assert answer.status_code == 409


def test_figures_need_the_token_of_the_data_folder(guest: Guest, store: Store) -> None:
    assert guest("GET", "/metrics").status_code == 401
    bearer = {"Authorization": f"Bearer {(store.folder / 'token').read_text()}"}
    assert guest.client.get("/metrics", headers=bearer).status_code == 200


def test_a_database_that_does_not_answer_is_told_and_not_stumbled_over(
    open_app: APIFlask, monkeypatch: pytest.MonkeyPatch
) -> None:
    ada = signed(open_app, "Ada")

    def gone(*asked: object) -> None:
        raise OperationalError("select", None, Exception(2003))

    monkeypatch.setattr(network, "account_of", gone)
    for method, path in (("POST", "/api/batches/import"), ("GET", "/api/photos")):
        answer = ada(method, path, json={"label": "x"} if method == "POST" else None)
        assert answer.status_code == 503 and "does not answer" in answer.get_json()["title"]
    assert ada("GET", "/api/health").status_code in (200, 503)
    assert ada("GET", "/").status_code == 200


def test_audit_lines_name_numbers_only(open_app: APIFlask, caplog: pytest.LogCaptureFixture) -> None:
    with caplog.at_level(logging.INFO, "sequor.audit"):
        ada = signed(open_app, "Ada")
        photo = brought(ada, jpeg_bytes(smooth_picture(90, 60)))["photo"]
        ada("PATCH", f"/api/photos/{photo['id']}", photo["version"], json={"title": "Hidden valley"})
        Guest(open_app.test_client())("GET", f"/api/photos/{photo['id']}")
    lines = [one.getMessage() for one in caplog.records if one.name == "sequor.audit"]
    number = f"photo_id {photo['id']}"
    assert any(re.match(r"POST accounts.sign_in -: 204, account \d+, from 127.0.0.1", one) for one in lines)
    assert any(one.startswith(f"PATCH photos.rename {number}: 200, account") for one in lines)
    assert any(one.startswith(f"GET bench.get_bench {number}: 401, account -") for one in lines)
    assert not any("Ada" in one or "garden" in one or "valley" in one for one in lines)


# What each may keep and ask for.


def test_more_bytes_than_an_account_may_keep_are_refused(store: Store, open_app: APIFlask) -> None:
    content = jpeg_bytes(smooth_picture(300, 200))
    put_account(store, "Ben", WORD, most_bytes=len(content) + 10)
    ben, ada = signed(open_app, "Ben"), signed(open_app, "Ada")
    brought(ben, content)
    refused = ben("POST", "/api/imports?name=b.jpg", data=jpeg_bytes(smooth_picture(300, 200, seed=2)))
    assert refused.status_code == 507 and "Nothing was added" in refused.get_json()["detail"]
    assert len(list(store.work.iterdir())) == 0
    brought(ada, content)


def test_a_new_password_leaves_the_limits_as_they_are(store: Store, people: None) -> None:
    put_account(store, "Ben", WORD, most_bytes=1000, most_jobs=3)
    assert not put_account(store, "Ben", OTHER)
    with store.transaction() as session:
        ben = session.scalars(select(Account).where(Account.name == "Ben")).one()
    assert (ben.most_bytes, ben.most_jobs) == (1000, 3)


def test_more_jobs_than_an_account_may_have_are_refused(
    store: Store, open_app: APIFlask, monkeypatch: pytest.MonkeyPatch
) -> None:
    put_account(store, "Ben", WORD, most_jobs=2)
    ben = signed(open_app, "Ben")
    photos = [brought(ben, jpeg_bytes(smooth_picture(90, 60, seed=n)))["photo"]["id"] for n in range(3)]
    waited(lambda: ben("GET", "/api/batches").get_json()["batches"] == [])
    monkeypatch.setattr(Straight, "do_job", lambda *asked: None)
    refused = ben("POST", "/api/batches/look", json={"photos": photos})
    assert refused.status_code == 429 and "2 may be at a time" in refused.get_json()["detail"]
    assert ben("POST", "/api/batches/look", json={"photos": photos[:2]}).status_code == 202
    assert ben("POST", f"/api/photos/{photos[0]}/exports", json={"export": {}}).status_code == 429


# What is another's.


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
