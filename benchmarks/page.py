"""The page: components drawn by each move, its scripts, the first picture and the exact one.

    PYTHONPATH=src:.:tests .venv/bin/python -m benchmarks.page

A village of 45 megapixels with ten lines on the full stage of 1280 x 800, in headless Chromium that draws in
software. Components are counted through the hook that React offers to profilers.
"""

from __future__ import annotations

import gzip
import sys
import tempfile
from pathlib import Path
from typing import Literal

from browser.renders import count_renders, drawn, middle_of
from playwright.sync_api import Page, Response, sync_playwright

from benchmarks.lines import make_large, put_on_the_bench
from benchmarks.served import FLAGS, started, vernier

MOVES = 40

Button = Literal["left", "middle"]


def settled(page: Page) -> None:
    """Wait until nothing is on its way."""
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(900)


def counted(page: Page, name: str, moves: int = 1) -> None:
    """Print how many components were drawn for each of some moves, and which most often."""
    total, names = drawn(page)
    most = sorted(names.items(), key=lambda one: -one[1])[:6]
    print(f"{name}: {total / moves:.1f} components a move  {dict(most)}")


def held(page: Page, name: str, at: tuple[float, float], button: Button = "left") -> None:
    """Press, move about, let go; what the moves between draw is counted."""
    x, y = at
    page.mouse.move(x, y)
    page.mouse.down(button=button)
    page.mouse.move(x + 6, y)
    settled(page)
    drawn(page)
    for move in range(MOVES):
        page.mouse.move(x + 6 + move % 20, y)
        page.wait_for_timeout(60)
    counted(page, name, MOVES)
    page.mouse.move(x, y)
    page.mouse.up(button=button)
    settled(page)


def renders(page: Page) -> None:
    """How many components each kind of move draws anew, in the mean."""
    middle = middle_of(page.locator("[data-stage]"))
    held(page, "vernier", middle_of(page.get_by_role("slider").first, 0.8))
    held(page, "line", middle_of(page.locator('[data-line="r1"][data-part="1"]')))
    page.mouse.move(*middle)
    settled(page)
    drawn(page)
    for move in range(MOVES):
        page.mouse.wheel(0, -60 if move % 2 else 40)
        page.wait_for_timeout(40)
    counted(page, "wheel", MOVES)
    page.keyboard.press("f")
    held(page, "pan", middle, "middle")
    page.keyboard.press("f")
    for step in ("Crop", "Edges", "Lens", "Lines"):
        settled(page)
        drawn(page)
        page.get_by_role("navigation", name="Steps").get_by_role("button", name=step).click()
        settled(page)
        counted(page, f"to the step {step}")
        if step == "Crop":
            page.get_by_role("button", name="Crop frame, bottom right corner").press("Control+ArrowLeft")
            settled(page)
            held(page, "frame", middle)


def main() -> None:
    """Print all figures."""
    with tempfile.TemporaryDirectory() as name:
        photo = make_large(Path(name))
        with started(Path(name) / "data") as (address, _), sync_playwright() as playwright:
            bench = put_on_the_bench(address, photo)
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            count_renders(page)
            scripts: list[Response] = []
            page.on("response", lambda answer: scripts.append(answer) if answer.url.endswith(".js") else None)
            page.goto(bench)
            page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
            settled(page)
            packed = sum(len(gzip.compress(one.body(), 9)) for one in scripts)
            print(f"first load: {packed / 1000:.1f} kB of scripts, packed")
            renders(page)
            settled(page)
            vernier(page)
            browser.close()


if __name__ == "__main__":
    sys.exit(main())
