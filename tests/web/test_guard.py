"""Only pages that the server itself served, on this computer, may use it."""

from __future__ import annotations

from typing import Any

import pytest
from apiflask import APIFlask
from clients import Page


@pytest.mark.parametrize("host", ["evil.example", "evil.example:8765", "127.0.0.1.evil.example", ""])
def test_foreign_hosts_are_refused(app: APIFlask, host: str) -> None:
    answer = app.test_client().get("/api/photos", headers={"Host": host})
    assert answer.status_code == 421


@pytest.mark.parametrize("host", ["127.0.0.1:8765", "localhost:1234", "127.0.0.1"])
def test_own_hosts_are_served(app: APIFlask, host: str) -> None:
    assert app.test_client().get("/api/photos", headers={"Host": host}).status_code == 200


@pytest.mark.parametrize(
    "origin", ["http://evil.example", "null", "https://127.0.0.1:8765", "http://127.0.0.1:9999"]
)
def test_foreign_origins_are_refused(own_page: Page, origin: str) -> None:
    answer = own_page.client.get("/api/photos", headers={**own_page.headers, "Origin": origin})
    assert answer.status_code == 403


def changing_routes(app: APIFlask) -> list[tuple[str, str]]:
    """Every route that changes something."""
    return [
        (method, rule.rule.replace("<int:photo_id>", "1").replace("<name>", "x"))
        for rule in app.url_map.iter_rules()
        for method in (rule.methods or set()) - {"GET", "HEAD", "OPTIONS"}
    ]


def test_every_change_needs_the_token(app: APIFlask, own_page: Page) -> None:
    routes = changing_routes(app)
    assert len(routes) >= 10
    for method, path in routes:
        for token in ({}, {"X-Sequor-Token": "guess"}):
            headers: dict[str, Any] = {"Host": own_page.headers["Host"], **token}
            answer = own_page.client.open(path, method=method, headers=headers, json={})
            assert answer.status_code == 403, (method, path)


def test_the_policy_lets_in_only_what_ships(own_page: Page) -> None:
    first, second = (own_page.client.get("/", headers=own_page.headers) for _ in range(2))
    policy = first.headers["Content-Security-Policy"]
    assert "default-src 'none'" in policy and "script-src 'self';" in policy and "unsafe" not in policy
    nonce = first.text.split('content="')[1].split('"')[0]
    assert f"'nonce-{nonce}'" in policy and first.text != second.text
    assert first.headers["X-Content-Type-Options"] == "nosniff"
    assert "Access-Control-Allow-Origin" not in first.headers


def test_the_token_outlives_a_restart(app: APIFlask, store: Any, tmp_path: Any) -> None:
    from sequor.web.guard import token_of

    assert token_of(store.folder) == token_of(store.folder)
    assert (store.folder / "token").stat().st_mode & 0o077 == 0
