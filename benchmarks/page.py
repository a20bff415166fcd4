"""The page: components drawn by each move, the first picture and the exact one, long lists.

    PYTHONPATH=src:.:tests .venv/bin/python -m benchmarks.page

A village of 24 megapixels with ten lines on the full stage of 1280 x 800, in headless Chromium that draws in
software. Components are counted through the hook that React offers to profilers. First picture: from the
pointer event to ``gl.finish()``; put together: until the next frame of the page has come.
"""

from __future__ import annotations

import gzip
import sys
import tempfile
from pathlib import Path
from typing import Literal

from browser.renders import HOOK, drawn
from playwright.sync_api import Locator, Page, Response, sync_playwright

from benchmarks.lines import make_large, put_on_the_bench
from benchmarks.served import FLAGS, percentiles, started

MOVES = 40

Button = Literal["left", "middle"]

VERNIER = """async () => {
  const slider = document.querySelector('[role=slider]');
  const box = slider.getBoundingClientRect();
  const y = box.top + box.height * 0.8;
  const wait = time => new Promise(resolve => setTimeout(resolve, time));
  const send = (type, x) => slider.dispatchEvent(
    new PointerEvent(type, {clientX: x, clientY: y, pointerId: 1, bubbles: true}));
  slider.setPointerCapture = () => undefined;
  const gl = document.querySelector('canvas').getContext('webgl2');
  const draw = gl.drawElements.bind(gl);
  let times = [];
  gl.drawElements = (...all) => { draw(...all); gl.finish(); times.push(performance.now()); };
  send('pointerdown', box.left + 98);
  await wait(300);
  const taken = [];
  for (let move = 1; move <= 160; move++) {
    times = [];
    const begun = performance.now();
    send('pointermove', box.left + 98 + 60 * Math.sin(move / 9));
    while (!times.length) await wait(0);
    const first = times[0];
    const frame = await new Promise(resolve => requestAnimationFrame(() => setTimeout(
      () => resolve(performance.now()))));
    await wait(80);
    taken.push([first - begun, frame - begun, times[times.length - 1] - begun]);
  }
  send('pointerup', box.left + 98);
  gl.drawElements = draw;
  return taken;
}"""


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


def middle_of(target: Locator, down: float = 0.5) -> tuple[float, float]:
    """A point of an element: half way across, so far down."""
    box = target.bounding_box()
    assert box is not None
    return box["x"] + box["width"] / 2, box["y"] + box["height"] * down


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
    for step in ("Frame", "Edges", "Lens", "Lines"):
        settled(page)
        drawn(page)
        page.get_by_role("navigation", name="Steps").get_by_role("button", name=step).click()
        settled(page)
        counted(page, f"to the step {step}")
        if step == "Frame":
            page.get_by_role("button", name="Frame, bottom right corner").press("Control+ArrowLeft")
            settled(page)
            held(page, "frame", middle)


def speed(page: Page) -> None:
    """How soon a move of the vernier is seen."""
    settled(page)
    taken = page.evaluate(VERNIER)[10:]
    for label, at in (("first picture drawn", 0), ("frame put together", 1), ("exact picture drawn", 2)):
        percentiles(f"vernier move to {label}", [one[at] for one in taken])


def main() -> None:
    """Print all figures."""
    with tempfile.TemporaryDirectory() as name:
        photo = make_large(Path(name))
        with started(Path(name) / "data") as (address, _), sync_playwright() as playwright:
            bench = put_on_the_bench(address, photo)
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.add_init_script(HOOK)
            scripts: list[Response] = []
            page.on("response", lambda answer: scripts.append(answer) if answer.url.endswith(".js") else None)
            page.goto(bench)
            page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
            settled(page)
            packed = sum(len(gzip.compress(one.body(), 9)) for one in scripts)
            print(f"first load: {packed / 1000:.1f} kB of scripts, packed")
            renders(page)
            speed(page)
            browser.close()


if __name__ == "__main__":
    sys.exit(main())
