"""Answers held back while another photo is opened: each action ends in its photo, each answer is drawn there."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from clients import Importer
from pictures import horizon_picture, jpeg_bytes
from playwright.sync_api import Page, Route, expect

pytestmark = pytest.mark.browser
Opener = Callable[[int], None]


class Holding:
    """Requests whose answers are held back until they are let go."""

    def __init__(self, page: Page) -> None:
        self.page, self.held = page, list[Route]()

    def hold(self, address: str, method: str, first_only: bool = False) -> None:
        def handle(route: Route) -> None:
            wanted = route.request.method == method and not (first_only and self.held)
            if wanted:
                self.held.append(route)
            else:
                route.continue_()

        self.page.route(address, handle)

    def wait(self, count: int = 1) -> None:
        for _ in range(400):
            if len(self.held) >= count:
                return
            self.page.wait_for_timeout(50)
        raise AssertionError("nothing was asked")

    def let_go(self) -> None:
        for route in self.held:
            route.continue_()


@pytest.fixture
def photos(bring: Importer) -> tuple[int, int]:
    """Two photos with horizons."""
    first, second = (
        bring(jpeg_bytes(horizon_picture(600, 400, slope)), name).photo_id
        for slope, name in ((-2.3, "one.jpg"), (1.5, "two.jpg"))
    )
    return first, second


@pytest.fixture
def holding(watched: Page, address: str) -> Holding:
    watched.goto(f"{address}/")
    return Holding(watched)


def go(page: Page, photo: int, ready: bool = True) -> None:
    """To the bench of a photo, as a link does, without a reload."""
    page.evaluate(
        f"() => {{ history.pushState(null, '', '/photos/{photo}'); dispatchEvent(new PopStateEvent('popstate')) }}"
    )
    if ready:
        page.wait_for_selector("[data-finding]:not(:empty)")
        expect(roll(page)).to_be_enabled()


def roll(page: Page) -> Any:
    return page.get_by_label("Tilt in degrees")


def typed(page: Page, value: str) -> None:
    roll(page).fill(value)
    roll(page).press("Enter")


def actions(page: Page, photo: int) -> list[str]:
    found = page.request.get(
        f"{page.url.split('/photos')[0].rstrip('/')}/api/photos/{photo}/revisions"
    ).json()
    return [one["action"] for one in found["revisions"]]


def rolls(page: Page, photo: int) -> float:
    found = page.request.get(f"{page.url.split('/photos')[0].rstrip('/')}/api/photos/{photo}").json()
    return float(found["recipe"]["correction"]["by_hand"]["roll"])


def comes_to(page: Page, photo: int, count: int) -> None:
    for _ in range(200):
        if len(actions(page, photo)) == count:
            return
        page.wait_for_timeout(100)
    raise AssertionError(actions(page, photo))


def test_a_late_answer_does_not_draw_one_photo_on_the_page_of_another(
    holding: Holding, photos: tuple[int, int]
) -> None:
    page, (one, two) = holding.page, photos
    holding.hold(f"**/api/photos/{one}", "GET")
    go(page, one, ready=False)
    holding.wait()
    go(page, two)
    expect(page).to_have_title("Two · Sequor")
    holding.let_go()
    page.wait_for_timeout(700)
    expect(page).to_have_title("Two · Sequor")
    typed(page, "3")
    comes_to(page, two, 2)
    assert len(actions(page, one)) == 1 and rolls(page, two) != 0


def test_actions_that_wait_end_in_the_photo_they_were_made_for(
    holding: Holding, photos: tuple[int, int]
) -> None:
    page, (one, two) = holding.page, photos
    go(page, one)
    holding.hold(f"**/api/photos/{one}/revise", "POST", first_only=True)
    typed(page, "3")
    holding.wait()
    typed(page, "5")
    go(page, two)
    assert len(actions(page, two)) == 1
    holding.let_go()
    comes_to(page, one, 3)
    page.wait_for_timeout(500)
    assert len(actions(page, two)) == 1 and rolls(page, two) == 0
    expect(page).to_have_title("Two · Sequor")


def test_an_undo_that_waits_stays_with_its_photo(holding: Holding, photos: tuple[int, int]) -> None:
    page, (one, two) = holding.page, photos
    for photo in (one, two):
        go(page, photo)
        typed(page, "3")
        comes_to(page, photo, 2)
    go(page, one)
    holding.hold(f"**/api/photos/{one}/undo", "POST")
    page.get_by_role("button", name="Undo", exact=True).click()
    holding.wait()
    go(page, two)
    before = rolls(page, two)
    holding.let_go()
    for _ in range(200):
        if rolls(page, one) == 0:
            break
        page.wait_for_timeout(100)
    page.wait_for_timeout(500)
    assert rolls(page, one) == 0 and rolls(page, two) == before != 0
    expect(page).to_have_title("Two · Sequor")


def test_actions_do_not_wait_for_offers(holding: Holding, photos: tuple[int, int]) -> None:
    """The offers of one photo never come; its actions are stored, and another photo opens."""
    page, (one, two) = holding.page, photos
    go(page, one)
    page.wait_for_timeout(300)

    def hold_offers(route: Route) -> None:
        if (route.request.post_data_json or {}).get("choices"):
            holding.held.append(route)
        else:
            route.continue_()

    page.route("**/api/evaluate", hold_offers)
    typed(page, "3")
    holding.wait()
    typed(page, "5")
    comes_to(page, one, 3)
    go(page, two)
    typed(page, "2")
    comes_to(page, two, 2)
    holding.let_go()
    page.wait_for_timeout(500)
    expect(page).to_have_title("Two · Sequor")


@pytest.mark.refused(412)
def test_what_was_not_kept_of_a_photo_that_was_left_is_said(
    holding: Holding, photos: tuple[int, int]
) -> None:
    page, (one, two) = holding.page, photos
    go(page, one)
    holding.hold(f"**/api/photos/{one}/revise", "POST", first_only=True)
    typed(page, "3")
    holding.wait()
    # Somebody else is quicker.
    base = page.url.split("/photos")[0]
    token = page.request.get(f"{base}/api/session").json()["token"]
    page.request.patch(
        f"{base}/api/photos/{one}",
        data={"title": "Renamed"},
        headers={"X-Sequor-Token": token, "If-Match": '"0"'},
    )
    go(page, two)
    holding.let_go()
    notice = page.get_by_role("alert").filter(has_text="Your last change to “One” was not saved")
    expect(notice).to_be_visible()
    notice.get_by_role("button", name="Close").click()
    expect(notice).to_have_count(0)
    assert len(actions(page, one)) == 1


@pytest.mark.refused(409)
def test_a_card_of_a_photo_that_cannot_be_read_offers_its_last_state(
    watched: Page, address: str, store: Any, photos: tuple[int, int]
) -> None:
    from sqlalchemy import text

    with store.engine.begin() as connection:
        connection.execute(
            text("UPDATE revisions SET recipe = JSON_SET(recipe, '$.edges', 'x') WHERE photo_id = :p"),
            {"p": photos[0]},
        )
        connection.execute(
            text(
                "INSERT INTO revisions (photo_id, action, state, recipe, created_at) SELECT photo_id, 'Broken', 'level', recipe, created_at FROM revisions WHERE photo_id = :p"
            ),
            {"p": photos[0]},
        )
        connection.execute(
            text(
                "UPDATE photos SET revision_id = (SELECT MAX(id) FROM revisions WHERE photo_id = :p) WHERE id = :p"
            ),
            {"p": photos[0]},
        )
        connection.execute(
            text(
                "UPDATE revisions SET recipe = JSON_REMOVE(recipe, '$.edges') WHERE photo_id = :p AND action = 'Imported'"
            ),
            {"p": photos[0]},
        )
    watched.goto(f"{address}/")
    expect(watched.get_by_role("heading", name="Two")).to_be_visible()
    expect(watched.get_by_text("last state cannot be read")).to_be_visible()
    watched.get_by_role("button", name="Go back to the last readable state of One").click()
    expect(watched.get_by_text("last state cannot be read")).to_have_count(0)
    watched.get_by_role("link", name="Open One").dblclick()
    watched.wait_for_selector("[data-finding]:not(:empty)")
