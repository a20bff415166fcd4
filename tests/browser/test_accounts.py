"""Signing in, and what belongs to an account, in the browser."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from clients import Importer
from pictures import jpeg_bytes, smooth_picture
from playwright.sync_api import Browser, Page, expect
from serving import served

from sequor.operations.accounts import first_account, put_account
from sequor.store.database import Store
from sequor.store.owners import acting_for
from sequor.web.accounts.network import Access

WORD, OTHER = "a long way over the moor", "another way over the moor"

pytestmark = pytest.mark.refused(401, 422)


@pytest.fixture
def photo(store: Store) -> int:
    """A photo of Ada's; Ben has none."""
    put_account(store, "Ada", WORD)
    put_account(store, "Ben", WORD)
    with acting_for(first_account(store)):
        return Importer(store)(jpeg_bytes(smooth_picture(300, 200)), "weir.jpg").photo_id


@pytest.fixture
def address(store: Store, photo: int) -> Iterator[str]:
    """Open to a network."""
    with served(store, access=Access(first_account(store), "s" * 40)) as where:
        yield where


def sign_in(page: Page, name: str, password: str = WORD) -> None:
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password").fill(password)
    page.get_by_label("Password").press("Enter")


def test_each_sees_their_own_photos(watched: Page, address: str) -> None:
    watched.goto(address)
    expect(watched.get_by_role("heading", name="Sequor")).to_be_visible()
    sign_in(watched, "Ada", "not the right one")
    expect(watched.get_by_role("alert")).to_contain_text("do not belong together")
    sign_in(watched, "Ada")
    expect(watched.get_by_text("Weir")).to_be_visible()
    watched.get_by_role("link", name="Ada").click()
    watched.get_by_role("button", name="Sign out", exact=True).click()
    sign_in(watched, "Ben")
    expect(watched.get_by_role("link", name="Ben")).to_be_visible()
    expect(watched.get_by_role("button", name="Add photos…").first).to_be_visible()
    expect(watched.get_by_text("Weir")).to_have_count(0)


def test_a_session_that_was_ended_asks_to_sign_in(
    watched: Page, address: str, browser: Browser, photo: int
) -> None:
    """Elsewhere the password was changed; what is done next here leads to the way in, and back to the photo."""
    watched.goto(f"{address}/photos/{photo}")
    sign_in(watched, "Ada")
    watched.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")

    elsewhere = browser.new_page()
    elsewhere.goto(f"{address}/account")
    sign_in(elsewhere, "Ada")
    elsewhere.get_by_label("Present password").fill("not the right one")
    elsewhere.get_by_label("New password").fill(OTHER)
    elsewhere.get_by_role("button", name="Change the password").click()
    expect(elsewhere.get_by_role("alert")).to_contain_text("is another one")
    elsewhere.get_by_label("Present password").fill(WORD)
    elsewhere.get_by_role("button", name="Change the password").click()
    expect(elsewhere.get_by_role("status")).to_contain_text("Other devices are signed out")
    # What is done there goes on.
    elsewhere.get_by_role("button", name="Sign out on every device").click()
    expect(elsewhere.get_by_role("form", name="Sign in")).to_be_visible()
    elsewhere.close()

    watched.get_by_role("navigation", name="Steps").get_by_role("button", name=re.compile("^Crop")).click()
    sign_in(watched, "Ada", OTHER)
    watched.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    assert watched.url == f"{address}/photos/{photo}"
