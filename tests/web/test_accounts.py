"""Open to a network: who signs in, for how long, and how much each may keep and ask for."""

from __future__ import annotations

import logging
import re
import time

import pytest
from apiflask import APIFlask
from clients import Page, Straight, waited
from guests import OTHER, WORD, Guest, brought, signed
from pictures import jpeg_bytes, smooth_picture
from sqlalchemy import select
from sqlalchemy.exc import OperationalError

from sequor.operations.accounts import put_account
from sequor.store.database import Store
from sequor.store.models import Account
from sequor.web.accounts import network


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
