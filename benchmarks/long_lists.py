"""Long lists on the page: a contact sheet of 10,000 photos, a log of 5,000 actions.

    PYTHONPATH=src:.:tests .venv/bin/python -m benchmarks.long_lists

In headless Chromium that draws in software, at 1280 x 800. The log's undo is also timed without the log open.
"""

from __future__ import annotations

import os
import statistics
import time

import numpy as np
from browser.serving import served
from clients import Importer
from pictures import jpeg_bytes
from playwright.sync_api import Page, sync_playwright
from sqlalchemy import text

from benchmarks.served import FLAGS, percentiles
from benchmarks.stores import empty_store
from sequor.store.database import Store

PHOTOS, ACTIONS = 10_000, 5_000
COPIED = (
    "title, file_name, format, bytes, width, height, facts, imported_at, changes, state, ratio, shown_width,"
    " shown_height, version_names"
)


def fill(store: Store) -> None:
    """One photo that was imported, so many like it, and one with so many actions."""
    picture = np.full((200, 300, 3), (90, 120, 150), np.uint8)
    picture[:110] = (190, 200, 210)
    first = Importer(store)(jpeg_bytes(picture)).photo_id
    with store.transaction() as session:
        sha = session.scalar(text("SELECT sha256 FROM photos WHERE id = :i"), {"i": first})
        many = {"i": first, "n": PHOTOS}
        session.execute(text("SET foreign_key_checks = 0"))
        session.execute(
            text(
                f"INSERT INTO photos (id, sha256, revision_id, {COPIED}) SELECT :i + seq, SHA2(seq, 256),"
                f" 1000000 + seq, {COPIED} FROM photos, seq_1_to_{PHOTOS - 1} WHERE photos.id = :i"
            ),
            many,
        )
        session.execute(
            text(
                "INSERT INTO revisions (id, photo_id, number, action, state, recipe, created_at)"
                " SELECT 1000000 + seq, :i + seq, 1, action, state, recipe, created_at"
                f" FROM revisions, seq_1_to_{PHOTOS - 1} WHERE revisions.photo_id = :i"
            ),
            many,
        )
        session.execute(
            text(
                "INSERT INTO revisions (id, parent_id, photo_id, number, action, state, recipe, created_at)"
                " SELECT 2000000 + seq, IF(seq = 1, id, 2000000 + seq - 1), :i, 1 + seq,"
                " 'Laid a line', state, recipe, created_at"
                f" FROM revisions, seq_1_to_{ACTIONS - 1} WHERE revisions.photo_id = :i"
            ),
            many,
        )
        session.execute(text(f"UPDATE photos SET revision_id = {2000000 + ACTIONS - 1} WHERE id = :i"), many)
        others = session.scalars(text("SELECT sha256 FROM photos WHERE id > :i"), many).all()
    original = store.originals.path(str(sha))
    for other in others:
        place = store.originals.place(str(other))
        place.parent.mkdir(parents=True, exist_ok=True)
        os.link(original, place)


def sheet(page: Page, address: str) -> None:
    """First pictures, scrolling, memory, and coming back."""
    begun = time.perf_counter()
    page.goto(address)
    first = page.locator("main img").first
    while not first.count() or not first.evaluate("one => one.naturalWidth > 0"):
        time.sleep(0.01)
    print(f"contact sheet of {PHOTOS:,}: first picture {time.perf_counter() - begun:.2f} s")
    page.wait_for_timeout(1500)
    frames = page.evaluate(
        """async () => {
        const main = document.querySelector('main');
        const taken = [];
        let before = performance.now();
        for (let move = 0; move < 240; move++) {
            main.scrollTop += 90;
            const now = await new Promise(resolve => requestAnimationFrame(resolve));
            taken.push(now - before);
            before = now;
        }
        return taken;
    }"""
    )
    percentiles("a frame while scrolling", frames[10:])
    page.evaluate(
        """async () => {
        const main = document.querySelector('main');
        for (let step = 0; step < 400; step++) {
            main.scrollTop = main.scrollHeight;
            await new Promise(resolve => setTimeout(resolve, 30));
        }
    }"""
    )
    cards, heap = page.evaluate(
        "() => [document.querySelectorAll('[data-photo]').length, performance.memory.usedJSHeapSize / 1e6]"
    )
    print(f"at the end: {cards} cards on the page, {heap:.0f} MB of objects")


def log(page: Page, bench: str) -> None:
    """Opening the log, and undo with it open and without."""
    page.goto(bench)
    page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    page.wait_for_load_state("networkidle")
    undo = """async () => {
        const asked = () => performance.getEntriesByType('resource');
        const version = () => asked().filter(one => one.name.endsWith('/undo')).length;
        const button = [...document.querySelectorAll('button')].find(one => one.textContent === 'Undo');
        const taken = [];
        for (let n = 0; n < 12; n++) {
            const before = version();
            const begun = performance.now();
            button.click();
            while (version() === before) await new Promise(resolve => setTimeout(resolve, 1));
            await new Promise(resolve => requestAnimationFrame(() => setTimeout(resolve)));
            taken.push(performance.now() - begun);
            await new Promise(resolve => setTimeout(resolve, 400));
        }
        return taken;
    }"""
    without = statistics.median(page.evaluate(undo))
    opened = page.evaluate(
        """async () => {
        const begun = performance.now();
        [...document.querySelectorAll('button')].find(one => one.textContent === 'Log').click();
        while (!document.querySelector('[data-log] li img')) await new Promise(requestAnimationFrame);
        return performance.now() - begun;
    }"""
    )
    print(f"log of {ACTIONS:,}: open {opened:.0f} ms")
    page.wait_for_timeout(800)
    open_ = statistics.median(page.evaluate(undo))
    print(f"undo: {open_:.0f} ms with the log open, {without:.0f} ms without, {open_ / without:.2f} x")


def main() -> None:
    """Print all figures."""
    with empty_store() as store:
        fill(store)
        with served(store) as address, sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            log(page, f"{address}/photos/1")
            sheet(page, address)
            browser.close()


if __name__ == "__main__":
    main()
