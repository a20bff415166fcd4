"""A folder at a time: brought, looked at, the sure ones taken, the rest walked through by keys, all exported."""

from __future__ import annotations

import re
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path

import pytest
from accessibility import violations
from bench import MAKING
from clients import Importer
from folder import horizon_rises, make_folder
from pictures import jpeg_bytes, smooth_picture
from PIL import Image
from playwright.sync_api import Locator, Page, Route, expect
from serving import served
from sqlalchemy import select, update

from sequor.launch.background import Services
from sequor.store.database import Store
from sequor.store.models import Photo

pytestmark = pytest.mark.browser

LOOKING = 600
"""Seconds; the workers that look give way to everything else on the machine."""
COUNT = 40


@pytest.fixture
def address(store: Store, services: Services) -> Iterator[str]:
    """The application with its workers."""
    with served(store, services.background) as where:
        yield where


def primary(page: Page) -> Locator:
    return page.locator("[data-primary]")


def cards(page: Page) -> Locator:
    return page.locator("[data-photo]")


def chosen(page: Page) -> list[str]:
    return page.locator("[data-chosen] h2").all_inner_texts()


def test_a_folder_from_the_card_to_the_files(
    watched: Page, address: str, store: Store, tmp_path: Path
) -> None:
    page = watched
    scenes = make_folder(tmp_path / "wendlow" / "may", COUNT)
    (tmp_path / "wendlow" / "notes.txt").write_text("not a photo")
    page.goto(address)
    page.get_by_label("A folder of photos").set_input_files(tmp_path / "wendlow")
    expect(page.get_by_text(f"{COUNT} photos: ", exact=False)).to_be_visible(timeout=MAKING)
    # All are looked at without anybody asking.
    asked = page.get_by_role("group", name="How photos stand")
    expect(asked.get_by_role("button", name=re.compile(f"^All {COUNT}"))).to_be_visible(timeout=MAKING)
    _until_looked_at(store)
    page.reload()
    expect(page.locator(".card-state", has_text="not measured")).to_have_count(0, timeout=MAKING)

    # The sure ones: chosen by one press, counted, taken by another.
    expect(primary(page)).to_contain_text(re.compile(r"Choose the \d+ sure ones"), timeout=MAKING)
    page.keyboard.press("Enter")
    expect(primary(page)).to_contain_text(re.compile(r"Take \d+ sure proposals"))
    sure = int(re.findall(r"\d+", primary(page).inner_text())[0])
    assert sure >= 8
    page.keyboard.press("Enter")
    expect(page.get_by_text(f"Took the proposals of {sure} photos")).to_be_visible(timeout=MAKING)
    page.keyboard.press("Escape")

    # The others one by one, by a key each.
    page.get_by_role("button", name=f"Look through {COUNT - sure}").click()
    for number in range(COUNT - sure):
        expect(page.get_by_text(f"{number + 1} of {COUNT - sure}", exact=True)).to_be_visible()
        page.wait_for_function("() => document.querySelector('.reviewed img')?.naturalWidth > 0")
        page.keyboard.press("Enter")
    expect(page.get_by_role("status")).to_contain_text("That was the last one.")
    page.keyboard.press("Enter")
    expect(asked.get_by_role("button", name=re.compile("^To look at 0"))).to_be_visible()

    # All of them into one file.
    page.locator("main").focus()
    page.keyboard.press("Control+a")
    expect(page.get_by_text(f"{COUNT} chosen", exact=True).first).to_be_visible()
    page.get_by_role("button", name=f"Export {COUNT}…").first.click()
    page.get_by_role("region", name="Export").get_by_role("textbox", name="File names").fill("{file} level")
    with page.expect_download(timeout=MAKING) as download:
        page.get_by_role("button", name=f"Export {COUNT} photos").click()
    with zipfile.ZipFile(download.value.path()) as together:
        names = sorted(together.namelist())
        assert len(names) == COUNT and names[0] == "IMG_0400 level.jpg"
        together.extractall(tmp_path / "out")
    off = {}
    for name, scene in zip(names, scenes, strict=True):
        with Image.open(tmp_path / "out" / name) as picture:
            off[name] = horizon_rises(picture, scene)
    assert len(off) == COUNT and all(abs(by) <= 0.25 for by in off.values()), off
    asked.get_by_role("button", name="All").click()
    page.get_by_role("button", name="Filter").click()
    page.get_by_role("combobox", name=re.compile("^Export")).select_option("exported")
    expect(cards(page).first).to_be_visible()


def _until_looked_at(store: Store) -> None:
    deadline = time.monotonic() + LOOKING
    while time.monotonic() < deadline:
        with store.transaction() as session:
            if not session.scalars(select(Photo.id).where(Photo.confidence < 0)).all():
                return
        time.sleep(0.2)
    raise AssertionError("not all photos were looked at")


@pytest.fixture
def twelve(watched: Page, address: str, bring: Importer, store: Store) -> list[int]:
    """Twelve photos on the sheet that were looked at; six have a sure proposal."""
    found = [
        bring(jpeg_bytes(smooth_picture(300 + n, 200)), f"{n:02d} photo.jpg").photo_id for n in range(12)
    ]
    with store.transaction() as session:
        session.execute(update(Photo).values(confidence=0.4, looked="x", found_roll=1.0))
        session.execute(update(Photo).where(Photo.id.in_(found[::2])).values(confidence=0.95, sure_tilt=0.95))
    watched.goto(address)
    expect(cards(watched)).to_have_count(12)
    return found


def test_choosing_by_mouse_and_by_keys(watched: Page, twelve: list[int]) -> None:
    page = watched
    pictures = page.locator("a[data-open]")
    pictures.nth(1).click()
    assert chosen(page) == ["01 photo"]
    pictures.nth(4).click(modifiers=["Shift"])
    assert chosen(page) == ["01 photo", "02 photo", "03 photo", "04 photo"]
    pictures.nth(2).click(modifiers=["Control"])
    assert chosen(page) == ["01 photo", "03 photo", "04 photo"]
    page.keyboard.press("Escape")
    assert chosen(page) == []
    pictures.nth(0).focus()
    for key in ("ArrowRight", "Space", "ArrowRight", "ArrowRight", "Space"):
        page.keyboard.press(key)
    assert chosen(page) == ["01 photo", "03 photo"]
    page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("[data-chosen]")).to_have_count(2)
    assert chosen(page) == ["03 photo", "04 photo"]
    page.keyboard.press("Control+a")
    expect(page.locator("[data-chosen]")).to_have_count(12)
    page.keyboard.press("Escape")
    # A net over the first cards, from the surround.
    first, third = (pictures.nth(at).bounding_box() for at in (0, 2))
    assert first is not None and third is not None
    page.mouse.move(first["x"] - 8, first["y"] - 6)
    page.mouse.down()
    page.mouse.move(first["x"] + 40, first["y"] + 30)
    page.mouse.move(third["x"] + 20, third["y"] + 40)
    page.mouse.up()
    assert chosen(page) == ["00 photo", "01 photo", "02 photo"]


def test_a_card_is_opened_by_a_second_press_or_by_enter(watched: Page, twelve: list[int]) -> None:
    page = watched
    page.locator("a[data-open]").nth(3).dblclick()
    expect(page).to_have_url(re.compile(f"/photos/{twelve[3]}$"))
    page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    page.keyboard.press("q")
    page.locator("a[data-open]").nth(4).focus()
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile(f"/photos/{twelve[4]}$"))


def test_filter_order_and_finding(watched: Page, twelve: list[int]) -> None:
    page = watched
    stands = page.get_by_role("group", name="How photos stand")
    stands.get_by_role("button", name="Sure 6").click()
    expect(cards(page)).to_have_count(6)
    page.get_by_label("Order").select_option("title")
    page.get_by_role("button", name="Reversed").click()
    expect(page.locator("h2").first).to_have_text("10 photo")
    page.get_by_role("searchbox").fill("04")
    expect(cards(page)).to_have_count(1)
    stands.get_by_role("button", name="All 12").click()
    # Who comes back from a photo finds the sheet as it was; the photos beside it are those of the filter.
    page.locator("a[data-open]").first.dblclick()
    expect(page.get_by_text("1 of 1", exact=True)).to_be_visible()
    page.keyboard.press("q")
    expect(cards(page)).to_have_count(1)
    page.reload()
    expect(cards(page)).to_have_count(1)
    page.get_by_role("button", name="Show all").click()
    expect(cards(page)).to_have_count(12)


def test_many_are_removed_and_one_undo_brings_them_back(watched: Page, twelve: list[int]) -> None:
    page = watched
    page.locator("a[data-open]").nth(2).click()
    page.locator("a[data-open]").nth(6).click(modifiers=["Shift"])
    page.keyboard.press("Delete")
    expect(cards(page)).to_have_count(7)
    expect(page.get_by_role("alert")).to_contain_text(
        "Removed 5 photos. Their originals and histories are kept."
    )
    page.keyboard.press("Control+z")
    expect(cards(page)).to_have_count(12)


def test_a_group_is_made_and_titles_are_given(watched: Page, twelve: list[int]) -> None:
    page = watched
    page.locator("a[data-open]").nth(0).click()
    page.locator("a[data-open]").nth(2).click(modifiers=["Shift"])
    page.get_by_role("button", name="Group…").click()
    page.get_by_role("textbox", name="Name of the new group").fill("Evening")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Titles…").click()
    page.get_by_role("textbox", name="Pattern").fill("Evening {n}")
    page.get_by_role("button", name="Give 3 titles").click()
    expect(page.locator("h2").nth(2)).to_have_text("Evening 3")
    page.get_by_role("button", name="Filter").click()
    page.get_by_role("combobox", name=re.compile("^Group")).select_option("Evening (3)")
    expect(cards(page)).to_have_count(3)
    page.get_by_role("button", name="Undo", exact=True).first.click()
    expect(page.locator("h2").nth(2)).to_have_text("02 photo")


def test_the_walk_by_single_keys(watched: Page, twelve: list[int], store: Store) -> None:
    page = watched
    page.get_by_role("button", name="Look through 6").click()
    expect(page.get_by_text("1 of 6", exact=True)).to_be_visible()
    order = twelve[1::2]
    expect(page.get_by_role("heading", level=1)).to_have_text("Nothing sure was found")
    # Turned by hand, left, one back, put on the bench and back again.
    for key in ("ArrowRight", "ArrowRight", "Shift+ArrowLeft"):
        page.keyboard.press(key)
    expect(page.locator("[data-turn]")).to_have_attribute("data-turn", "0.19")
    page.keyboard.press("Enter")
    expect(page.get_by_text("2 of 6", exact=True)).to_be_visible()
    page.wait_for_selector(f"[data-reviewed='{order[1]}']")
    page.keyboard.press("l")
    page.wait_for_selector(f"[data-reviewed='{order[2]}']")
    page.keyboard.press("Backspace")
    expect(page.get_by_text("2 of 6", exact=True)).to_be_visible()
    page.wait_for_selector(f"[data-reviewed='{order[1]}']")
    page.keyboard.press("a")
    expect(page).to_have_url(re.compile(f"/photos/{order[1]}$"))
    page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    page.get_by_role("link", name="Review").click()
    expect(page.get_by_text("2 of 6", exact=True)).to_be_visible()
    with store.transaction() as session:
        turned, second = (session.get_one(Photo, number) for number in order[:2])
        assert (turned.state, second.state, second.aside) == ("corrected by hand", "not measured", False)
    assert violations(page) == []
    page.keyboard.press("q")
    expect(cards(page)).to_have_count(12)


def test_a_walk_goes_on_while_the_server_is_slow(watched: Page, twelve: list[int], store: Store) -> None:
    """The next picture waits for nothing, and nothing of what was decided is lost."""
    page = watched
    page.get_by_role("button", name="Look through 6").click()

    def slowly(route: Route) -> None:
        time.sleep(0.4)
        route.continue_()

    page.route("**/api/photos/aside", slowly)
    for number in range(5):
        page.wait_for_selector(f"[data-reviewed='{twelve[1 + 2 * number]}']")
        page.keyboard.press("l")
    expect(page.get_by_text("6 of 6", exact=True)).to_be_visible()
    deadline = time.monotonic() + 40
    while time.monotonic() < deadline:
        page.wait_for_timeout(100)
        with store.transaction() as session:
            if len(session.scalars(select(Photo.id).where(Photo.aside.is_(True))).all()) == 5:
                return
    raise AssertionError("what was decided was not kept")


def test_the_sheet_counts_what_was_saved_after_the_walk(watched: Page, twelve: list[int]) -> None:
    """The walk is left before its last photos are saved: the sheet is told when they are."""
    page = watched
    held: list[Route] = []

    def hold(route: Route) -> None:
        held.append(route)

    page.route("**/api/photos/aside", hold)
    page.get_by_role("button", name="Look through 6").click()
    for number in range(6):
        page.wait_for_selector(f"[data-reviewed='{twelve[1 + 2 * number]}']")
        page.keyboard.press("l")
    expect(page.get_by_role("status")).to_contain_text("That was the last one.")
    page.keyboard.press("Enter")
    stand = page.get_by_role("group", name="How photos stand")
    expect(stand.get_by_role("button", name=re.compile("^To look at 6"))).to_be_visible()
    for route in held:
        route.continue_()
    expect(stand.get_by_role("button", name=re.compile("^To look at 0"))).to_be_visible()


def test_the_sheet_with_its_panels_is_accessible(watched: Page, twelve: list[int]) -> None:
    page = watched
    page.locator("a[data-open]").nth(0).click()
    page.locator("a[data-open]").nth(2).click(modifiers=["Shift"])
    for name in ("Carry over…", "Series…", "Titles…", "Group…", "Export 3…"):
        page.get_by_role("button", name=name).first.click()
        assert violations(page) == [], name
    page.get_by_role("button", name="Filter").click()
    assert violations(page) == []
