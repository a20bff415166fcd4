"""Takes the pictures in docs/screenshots from the demo photos.

    PYTHONPATH=src:.:tests:tests/core .venv/bin/python -m docs.take_screenshots

Starts the program on a new data folder and walks through it at 1280 x 800.
"""

from __future__ import annotations

import json
import re
import signal
import subprocess
import tempfile
from pathlib import Path

from browser.folder import make_folder
from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).resolve().parents[1]
OUT = ROOT / "docs" / "screenshots"
PORT = 8791
FLAGS = ["--enable-unsafe-swiftshader", "--force-color-profile=srgb", "--disable-dev-shm-usage"]


def truth(scene: str, start: str) -> list[tuple[float, float]]:
    """The ends of a true line of a demo photo."""
    lines = json.loads((ROOT / "demo" / "photos" / f"wendlow_{scene}.json").read_text())["lines"]
    line = next(one for one in lines if one["id"].startswith(start) or start in one["id"])
    return [tuple(line["p0"]), tuple(line["p1"])]


def on_screen(page: Page, point: tuple[float, float]) -> tuple[float, float]:
    """Where a point of the picture as taken lies on the screen."""
    stage = page.locator("[data-stage]")
    box = stage.bounding_box()
    assert box is not None
    scale = float(stage.get_attribute("data-scale") or 1)
    x, y = (float(value) for value in (stage.get_attribute("data-middle") or "0 0").split())
    return (
        box["x"] + box["width"] / 2 + (point[0] - x) * scale,
        box["y"] + box["height"] / 2 + (point[1] - y) * scale,
    )


def lay(page: Page, ends: list[tuple[float, float]]) -> None:
    """Lay a line on the picture as taken."""
    page.get_by_role("button", name="As taken").click()
    page.wait_for_timeout(400)
    start, end = (on_screen(page, point) for point in ends)
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move((start[0] + end[0]) / 2, (start[1] + end[1]) / 2)
    page.mouse.move(*end)
    page.mouse.up()
    page.wait_for_timeout(900)
    page.get_by_role("button", name="Corrected", exact=True).click()
    page.wait_for_timeout(500)


def shoot(page: Page, name: str) -> None:
    """Let everything settle and take the picture."""
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(1200)
    page.screenshot(path=OUT / f"{name}.png")


def open_photo(page: Page, title: str) -> None:
    """From the contact sheet to the bench."""
    page.goto(f"http://127.0.0.1:{PORT}/")
    page.get_by_role("link", name=f"Open {title}", exact=True).dblclick()
    page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    page.wait_for_timeout(800)


def go_to(page: Page, step: str) -> None:
    """To a step, by the route."""
    page.get_by_role("navigation", name="Steps").get_by_role("button", name=step).click()


def walk(page: Page) -> None:
    """All views."""
    shore(page)
    leaning(page)
    lens(page)
    wide(page)
    by_hand(page)
    edges(page)
    many(page)


def many(page: Page) -> None:
    """A folder of views of the demo photos beside them: the sure ones chosen, the walk through the others."""
    with tempfile.TemporaryDirectory() as folder:
        make_folder(Path(folder) / "may", 32)
        page.goto(f"http://127.0.0.1:{PORT}/")
        page.get_by_label("A folder of photos").set_input_files(Path(folder) / "may")
        page.locator("[data-photo]").nth(39).wait_for(timeout=120_000)
        page.get_by_text("not measured").first.wait_for(state="detached", timeout=240_000)
    page.wait_for_timeout(4000)
    page.locator("[data-primary]").click()
    page.wait_for_timeout(800)
    shoot(page, "contact-sheet")
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("^Look through")).click()
    page.wait_for_selector(".reviewed img")
    for _ in range(2):
        page.keyboard.press("PageDown")
        page.wait_for_timeout(1500)
    shoot(page, "review")
    page.goto(f"http://127.0.0.1:{PORT}/going-on")
    page.get_by_role("row", name="Free on the disk").wait_for()
    shoot(page, "going-on")


def shore(page: Page) -> None:
    """One line, the frame, the export; and lines that disagree."""
    open_photo(page, "Reservoir shore")
    page.get_by_role("list", name="Lines that were found").wait_for(timeout=60_000)
    page.wait_for_timeout(1500)
    shoot(page, "bench-new-photo")
    lay(page, truth("shore", "waterline"))
    page.mouse.move(5, 500)
    shoot(page, "bench-lines")
    framing(page)
    go_to(page, "Export")
    page.get_by_role("button", name="square for the wall").click()
    with page.expect_download():
        page.get_by_role("button", name="Export 2 pictures").click()
    shoot(page, "bench-export")
    page.get_by_role("button", name="History", exact=True).click()
    page.get_by_role("button", name="Reset Crop").click()
    page.wait_for_timeout(900)
    reshaping(page)
    open_photo(page, "Reservoir shore")
    go_to(page, "Lines")
    page.get_by_role("button", name="Horizontal", exact=True).click()
    lay(page, truth("shore", "handrail"))
    lay(page, truth("shore", "stone landing"))
    page.mouse.move(5, 500)
    shoot(page, "bench-lines-disagree")


def reshaping(page: Page) -> None:
    """The shore reshaped, with where it is stretched; its boat taken off the water; and back to trimmed."""
    open_photo(page, "Reservoir shore")
    go_to(page, "Edges")
    ways = page.get_by_role("group", name="What to do with empty corners")
    ways.get_by_role("button", name=re.compile("^Reshape")).click()
    page.wait_for_timeout(1500)
    page.get_by_role("button", name="Show where it is stretched").click()
    page.mouse.move(5, 700)
    shoot(page, "edges-reshape")
    pages = page.get_by_role("group", name="Pages of the step Edges")
    pages.get_by_role("button", name="Touch up").click()
    page.get_by_role("button", name="Outline").click()
    around = [
        (1105, 1150),
        (1235, 1180),
        (1445, 1085),
        (1530, 1110),
        (1520, 1330),
        (1400, 1460),
        (1140, 1490),
    ]
    page.mouse.move(*on_screen(page, around[0]))
    page.mouse.down()
    for point in around[1:]:
        page.mouse.move(*on_screen(page, point), steps=6)
    page.mouse.up()
    page.locator("[data-touch-up=t1][data-state=Done]").wait_for(timeout=60_000)
    page.get_by_role("button", name="More takes").click()
    page.get_by_role("button", name="Take 3", exact=True).wait_for(timeout=60_000)
    page.mouse.move(5, 700)
    shoot(page, "edges-touch-up")
    page.get_by_role("button", name="Remove touch-up 1").click()
    pages.get_by_role("button", name="Corners").click()
    ways.get_by_role("button", name=re.compile("^Crop")).click()
    page.wait_for_timeout(900)


def framing(page: Page) -> None:
    """What each choice keeps, the boat on a third, on paper, and two versions in the log."""
    go_to(page, "Crop")
    choices = page.get_by_role("group", name="What each choice keeps")
    choices.locator("img").nth(3).wait_for(timeout=60_000)
    shoot(page, "bench-frame")
    page.get_by_role("button", name="Compose", exact=True).click()
    page.get_by_role("button", name="Mark the subject").click()
    page.mouse.move(*on_screen(page, (1100, 1120)))
    page.mouse.down()
    page.mouse.move(*on_screen(page, (1510, 1430)), steps=4)
    page.mouse.up()
    page.wait_for_timeout(900)
    page.get_by_label("Where the lines at 33% from the left and 67% from the top cross").click()
    page.wait_for_timeout(900)
    page.locator("[data-frame-page]").evaluate("one => one.scrollTo(0, 2000)")
    page.mouse.move(5, 500)
    shoot(page, "frame-compose")
    keep_version(page, "wide for the page")
    page.get_by_role("button", name="Print", exact=True).click()
    page.get_by_role("button", name="inches").click()
    page.get_by_role("button", name="10 × 8 inch").click()
    page.mouse.move(5, 500)
    page.get_by_role("button", name="Shape", exact=True).click()
    page.get_by_role("button", name="Square", exact=True).click()
    page.wait_for_timeout(900)
    keep_version(page, "square for the wall")
    page.get_by_role("button", name="History", exact=True).click()
    shoot(page, "log")


def keep_version(page: Page, name: str) -> None:
    """What is true now under a name."""
    page.get_by_role("button", name="History", exact=True).click()
    page.get_by_label("Name for the current state").fill(name)
    page.get_by_role("button", name="Save as version").click()
    page.locator(f"[data-version='{name}']").wait_for()
    page.get_by_role("button", name="History", exact=True).click()


def leaning(page: Page) -> None:
    """Walls through a lens, the comparison, and a door that is made square-on."""
    open_photo(page, "Grain mill, front")
    for start in ("v6", "v5", "v7"):
        lay(page, truth("mill", start))
    page.get_by_role("button", name="Compare").click()
    page.get_by_role("button", name="Wipe").click()
    shoot(page, "compare")
    page.get_by_role("button", name="Close comparison").click()
    go_to(page, "Edges")
    pages = page.get_by_role("group", name="Pages of the step Edges")
    pages.get_by_role("button", name="Extend").click()
    page.get_by_role("button", name="Right", exact=True).click()
    page.get_by_role("button", name="16:9", exact=True).click()
    page.get_by_role("button", name="Take 3", exact=True).wait_for(timeout=90_000)
    page.mouse.move(5, 700)
    shoot(page, "edges-widen")
    open_photo(page, "Glasshouse")
    page.get_by_role("button", name="More kinds of line").click()
    page.get_by_role("button", name="Rectangle", exact=True).click()
    page.get_by_role("button", name="As taken").click()
    page.wait_for_timeout(400)
    left, right = truth("glasshouse", "door opening left"), truth("glasshouse", "door opening right")
    for corner in (left[1], right[1], right[0], left[0]):
        page.mouse.click(*on_screen(page, corner))
        page.wait_for_timeout(200)
    page.wait_for_timeout(900)
    page.get_by_role("button", name="Corrected", exact=True).click()
    page.mouse.move(5, 500)
    shoot(page, "bench-square-on")


def lens(page: Page) -> None:
    """The bowed viaduct, its lens taken out by profile."""
    open_photo(page, "Viaduct from the meadow")
    go_to(page, "Lens")
    page.mouse.move(5, 500)
    shoot(page, "lens-profile")


def wide(page: Page) -> None:
    """The mill's yard, made to look like 35 mm, four of its lines made right."""
    open_photo(page, "Grain mill, the yard")
    go_to(page, "Lens")
    page.get_by_role("button", name="Wide view").click()
    page.get_by_role("button", name="Whole", exact=True).click()
    for start in ("v9", "v7", "h1", "h3"):
        lay(page, truth("yard", start))
    ways = page.get_by_role("group", name="How it is put on paper")
    ways.get_by_role("button", name=re.compile("^Round ")).click()
    page.get_by_role("button", name="All", exact=True).click()
    page.wait_for_timeout(900)
    page.get_by_role("button", name="Fit", exact=True).click()
    page.mouse.move(5, 790)
    shoot(page, "wide-view")


def by_hand(page: Page) -> None:
    """A picture without a line, against what stands still."""
    open_photo(page, "Hill village")
    page.get_by_role("button", name="Adjust by hand", exact=True).click()
    page.get_by_label("Tilt in degrees").fill("-3.6")
    page.keyboard.press("Enter")
    page.get_by_role("group", name="Grid").get_by_role("button", name="Wide").click()
    for way, down in (("level", 300.0), ("vertical", 560.0)):
        page.get_by_role("button", name=f"Add {way} guide").click()
        grip = page.locator("[data-grip]").last.bounding_box()
        assert grip is not None
        page.mouse.move(grip["x"] + 16, grip["y"] + 16)
        page.mouse.down()
        page.mouse.move(*((grip["x"] + 16, down) if way == "level" else (312 + down, grip["y"] + 16)))
        page.mouse.up()
    page.mouse.move(5, 700)
    shoot(page, "bench-by-hand")


def edges(page: Page) -> None:
    """The village turned by hand, its corners filled."""
    open_photo(page, "Hill village")
    go_to(page, "Edges")
    ways = page.get_by_role("group", name="What to do with empty corners")
    ways.get_by_role("button", name=re.compile("^Fill")).click()
    page.get_by_role("button", name=re.compile("^Whole picture")).click()
    page.get_by_role("button", name="Take 3", exact=True).wait_for(timeout=90_000)
    page.wait_for_timeout(1500)
    page.get_by_label("Takes for", exact=True).select_option(index=1)
    page.get_by_role("button", name="Take 2", exact=True).click()
    page.wait_for_timeout(1500)
    page.mouse.move(5, 700)
    page.wait_for_timeout(600)
    shoot(page, "edges-fill")
    ways.get_by_role("button", name=re.compile("^Crop")).click()
    page.wait_for_timeout(900)


def main() -> None:
    """Start, walk, stop."""
    with tempfile.TemporaryDirectory() as data, sync_playwright() as playwright:
        command = [ROOT / "bin" / "start", "--data", data, "--port", str(PORT)]
        program = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        assert program.stdout is not None
        while "ready" not in program.stdout.readline():
            pass
        try:
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
            walk(browser.new_page(viewport={"width": 1280, "height": 800}))
            browser.close()
        finally:
            program.send_signal(signal.SIGINT)
            program.wait()


if __name__ == "__main__":
    main()
