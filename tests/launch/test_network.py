"""bin/start, open to a network: not before there is an account, and behind a proxy that is named."""

from __future__ import annotations

import io
import json
import stat
import sys
import urllib.error
import urllib.request
from pathlib import Path
from typing import Any

import pytest
from starting import free_arguments, said, started

from sequor.launch.mariadb import MariaDB
from sequor.launch.serve import main

WORD = "a long way over the moor"
WITHIN = 240
"""Seconds, on a slow machine."""
OUTSIDE = {"X-Forwarded-For": "192.0.2.7", "X-Forwarded-Host": "photos.example", "X-Forwarded-Proto": "https"}


def add(monkeypatch: pytest.MonkeyPatch, data: Path, *arguments: str, word: str = WORD) -> int:
    """Add an account with a password that is piped in."""
    monkeypatch.setattr(sys, "stdin", io.StringIO(f"{word}\n"))
    return main([*free_arguments(data), *arguments])


def asked(address: str, headers: dict[str, str], body: Any = None) -> tuple[int, Any, Any]:
    """The status, the headers and the words of an answer."""
    content = None if body is None else json.dumps(body).encode()
    told = {**headers, **({} if body is None else {"Content-Type": "application/json"})}
    try:
        with urllib.request.urlopen(urllib.request.Request(address, content, told), timeout=WITHIN) as answer:
            return answer.status, answer.headers, answer.read()
    except urllib.error.HTTPError as error:
        with error:
            return error.code, error.headers, error.read()


def test_accounts_come_first_and_then_people_sign_in(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    listen = [*free_arguments(tmp_path), "--no-demo", "--listen", "127.0.0.1"]
    assert "bin/start --add-user NAME" in said(capsys, *listen)

    for word in ("short", "x" * 200):
        assert add(monkeypatch, tmp_path, "--add-user", "Ada", word=word) == 1
        assert "12 to 128 characters" in capsys.readouterr().err
    assert add(monkeypatch, tmp_path, "--add-user", "Ada") == 0
    assert capsys.readouterr().out == "Ada: added\n"
    assert add(monkeypatch, tmp_path, "--add-user", "Ada", "--most-gb", "2") == 0
    assert "has a new password" in capsys.readouterr().out
    for odd in (("--most-jobs", "0"), ("--most-gb", "nan"), ("--most-gb", "inf"), ("--most-gb", "-1")):
        assert add(monkeypatch, tmp_path, "--add-user", "Ada", *odd) == 1
        assert "numbers above 0" in capsys.readouterr().err

    with started(tmp_path, "--no-demo", "--listen", "127.0.0.1", "--proxy", "127.0.0.1") as (address, _):
        assert stat.S_IMODE((tmp_path / "secret").stat().st_mode) == 0o600
        status, headers, words = asked(f"{address}api/session", OUTSIDE)
        assert status == 200 and headers["Set-Cookie"].startswith("__Host-sequor=")
        page = {
            **OUTSIDE,
            "Origin": "https://photos.example",
            "Cookie": headers["Set-Cookie"].split(";")[0],
            "X-Sequor-Token": json.loads(words)["token"],
        }
        assert asked(f"{address}api/photos", page)[0] == 401
        foreign = {**page, "Origin": "https://elsewhere.example"}
        told = {"name": "Ada", "password": WORD}
        assert asked(f"{address}api/sign-in", foreign, told)[0] == 403
        status, headers, _ = asked(f"{address}api/sign-in", page, told)
        assert status == 204
        page["Cookie"] = headers["Set-Cookie"].split(";")[0]
        assert asked(f"{address}api/photos", page)[0] == 200
        log = (tmp_path / "sequor.log").read_text()
        assert "POST accounts.sign_in -: 204" in log and "from 192.0.2.7" in log and "Ada" not in log

    # On this computer alone nobody signs in, as before.
    with started(tmp_path, "--no-demo") as (address, _):
        assert asked(f"{address}api/photos", {})[0] == 200


def test_what_does_not_go_together_is_said(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    data = free_arguments(tmp_path)
    assert "no address like" in said(capsys, *data, "--listen", "photos.example")
    assert "goes with --listen" in said(capsys, *data, "--proxy", "127.0.0.1")
    exports = ["--exports", str(tmp_path / "exports")]
    assert "leave it out with --listen" in said(capsys, *data, "--listen", "127.0.0.1", *exports)
    assert add(monkeypatch, tmp_path, "--add-user", " ") == 1
    assert "choose another" in capsys.readouterr().err


def test_the_first_account_is_not_added_under_a_running_program(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    with started(tmp_path, "--no-demo"):
        assert add(monkeypatch, tmp_path, "--add-user", "Ada") == 1
        assert "stop Sequor before you add it" in capsys.readouterr().err
    assert add(monkeypatch, tmp_path, "--add-user", "Ada") == 0
    with started(tmp_path, "--no-demo"):
        assert add(monkeypatch, tmp_path, "--add-user", "Ben") == 0


def test_a_secret_that_is_too_short(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    assert add(monkeypatch, tmp_path, "--add-user", "Ada") == 0
    monkeypatch.setenv("SEQUOR_SECRET", "short")
    listen = [*free_arguments(tmp_path), "--no-demo", "--listen", "127.0.0.1"]
    assert "give it 32 or more" in said(capsys, *listen)


def test_the_first_account_over_services_that_machines_share(
    tmp_path: Path, bucket: str, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    """Before anything was started over them: the database holds nothing yet."""
    database = MariaDB(tmp_path / "elsewhere")
    try:
        where = ["--database", database.url, "--broker", "redis://127.0.0.1:1/0", "--files", bucket]
        assert add(monkeypatch, tmp_path / "web", *where, "--add-user", "Ada") == 0
        assert capsys.readouterr().out == "Ada: added\n"
        assert add(monkeypatch, tmp_path / "other", *where, "--add-user", "Ada") == 0
    finally:
        database.stop()
