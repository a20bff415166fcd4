"""The page that tells what is going on."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from accessibility import violations
from playwright.sync_api import Page, expect
from serving import served

from sequor.launch.background import Services
from sequor.store.database import Store
from sequor.store.models import Job

pytestmark = pytest.mark.browser


@pytest.fixture
def address(store: Store, services: Services) -> Iterator[str]:
    """The application with its workers."""
    with served(store, services.background) as where:
        yield where


def test_work_workers_services_and_storage_are_told(watched: Page, address: str, store: Store) -> None:
    with store.transaction() as session:
        # Only another version knows it, so that it stays as it is.
        session.add(Job(id="waits", kind="hologram", lane="fill", label="Weir", spec={}, state="waiting"))
    watched.goto(address)
    watched.get_by_role("link", name="What is going on").click()
    main = watched.get_by_role("main")
    expect(main.get_by_role("status")).to_have_text("Nothing is being done, 1 waits.")
    expect(watched.locator("[data-lane=fill] td").nth(1)).to_have_text("1")
    expect(watched.locator("[data-lane=bulk]")).to_have_attribute("data-idle", "true")
    expect(main.get_by_role("row", name="asked")).to_contain_text("0 tasks")
    expect(main.get_by_role("row", name="Database answers in")).to_be_visible()
    expect(main.get_by_role("row", name="Free on the disk")).to_contain_text("GB")
    assert not violations(watched)
    watched.get_by_role("link", name="Contact sheet").click()
    expect(watched.get_by_text("No photos yet", exact=False).first).to_be_visible()


def test_a_queue_that_does_not_answer_is_told(watched: Page, address: str, services: Services) -> None:
    services.stop()
    watched.goto(f"{address}/going-on")
    expect(watched.get_by_role("alert")).to_contain_text("Queue does not answer. Nothing is lost")
    expect(watched.get_by_role("status")).to_have_text("Not all of Sequor answers.")
