"""The application, open to a network."""

from __future__ import annotations

from pathlib import Path

import pytest
from apiflask import APIFlask
from clients import Straight
from guests import WORD, Guest

from sequor.operations.accounts import put_account
from sequor.store.database import Store
from sequor.web.accounts.network import Access
from sequor.web.app import create_app


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
