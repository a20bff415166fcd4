"""The contact sheet of 100,000 photos: pages at any depth, filters, and how soon it is seen."""

from __future__ import annotations

import json
import time
from collections.abc import Callable

from browser.serving import served
from playwright.sync_api import sync_playwright
from sqlalchemy import text

from benchmarks.served import FLAGS
from benchmarks.stores import installation
from benchmarks.timing import best
from sequor.operations import sheet
from sequor.operations.sheet import ALL, Sorting, Wanted
from sequor.store.database import Store
from sequor.store.models import Photo
from sequor.store.owners import NOBODY, acting_for


def lists(count: int = 100_000) -> None:
    """Pages of 100,000 photos at any depth, filters, and the page in the browser."""
    with installation() as (store, _), acting_for(NOBODY):
        _fill(store, count)
        for by in sheet.ORDERS:
            sorting = Sorting(by)
            every = sheet.numbers(store, ALL, sorting)
            first = _ms(lambda sorting=sorting: sheet.list_photos(store, ALL, sorting))
            told = []
            for depth in (0.2, 0.5, 0.8, 0.99):
                with store.transaction() as session:
                    key = sorting.key(session.get_one(Photo, every[int(depth * count)]))
                told.append(_ms(lambda s=sorting, k=key: sheet.list_photos(store, ALL, s, k)))
            print(f"by {by:10}: first page {first:5.1f} ms, deepest {max(told) / first:.2f} x the first")
        for words, wanted in (
            ("sure", Wanted(stand="sure")),
            ("to look at", Wanted(stand="eyes")),
            ("a camera", Wanted(camera="Camera 7")),
            ("not exported", Wanted(exported=False)),
            ("found by title", Wanted(find="99")),
        ):
            page = _ms(lambda w=wanted: sheet.list_photos(store, w, Sorting()))
            print(
                f"{words:15}: page {page:6.1f} ms,"
                f" counted {_ms(lambda w=wanted: sheet.summary(store, w)):6.1f} ms"
            )
        print(f"all numbers {_ms(lambda: sheet.numbers(store, ALL, Sorting('title'))):.0f} ms")
        with served(store) as address, sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(address)
            page.wait_for_selector("[data-photo]")
            begun = time.perf_counter()
            page.reload()
            page.wait_for_selector("[data-photo]")
            print(
                f"the sheet shown in the browser {time.perf_counter() - begun:.2f} s after it was asked for"
            )
            browser.close()


def _fill(store: Store, count: int) -> None:
    recipe = json.dumps({"format": "sequor-recipe", "version": 1, "note": "x" * 4000})
    with store.engine.begin() as connection:
        connection.execute(text("SET foreign_key_checks = 0"))
        connection.execute(
            text(
                "INSERT INTO photos (id, sha256, title, file_name, format, bytes, width, height, facts,"
                " imported_at, changes, revision_id, state, ratio, shown_width, shown_height, version_names,"
                " taken_at, camera, confidence, exported_id) SELECT seq, SHA2(seq, 256),"
                " CONCAT('Photo ', seq), CONCAT(seq, '.jpg'), 'jpeg', 9e6, 6000, 4000,"
                " '{\"make\": \"Invented\"}', NOW(3), 3, seq, IF(seq % 3, 'not measured', 'level'),"
                " '3:2', 6000, 4000, '[]', DATE_ADD('2020-01-01', INTERVAL (seq * 7919) % 3000000 MINUTE),"
                " CONCAT('Camera ', seq % 40), (seq % 101) / 100, IF(seq % 2, seq, NULL)"
                f" FROM seq_1_to_{count}"
            )
        )
        for begin in range(1, 11):
            connection.execute(
                text(
                    "INSERT INTO revisions (id, photo_id, number, action, state, recipe, created_at) SELECT"
                    f" {begin - 1} * {count} + seq, seq, {begin}, 'Imported', 'level', :recipe, NOW(3)"
                    f" FROM seq_1_to_{count}"
                ),
                {"recipe": recipe},
            )
        connection.execute(text("ANALYZE TABLE photos"))


def _ms(work: Callable[[], object]) -> float:
    return 1000 * best(work, 7)
