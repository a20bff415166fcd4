"""The page: components drawn by each move, the first picture and the exact one, long lists.

    PYTHONPATH=src:.:tests .venv/bin/python -m benchmarks.page

A village of 24 megapixels with ten lines on the full stage of 1280 x 800, in headless Chromium that draws in
software. Components are counted through the hook that React offers to profilers. First picture: from the
pointer event to ``gl.finish()``; put together: until the next frame of the page has come.
"""

from __future__ import annotations

import json
import sys
import tempfile
import urllib.request
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, sync_playwright

from benchmarks.lines import make_large, put_on_the_bench
from benchmarks.served import FLAGS, percentiles, started
from browser.renders import HOOK, drawn

MOVES = 40

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


def renders(page: Page) -> None:
    """How many components each kind of move draws anew, in the mean."""
    stage = page.locator("[data-stage]").bounding_box()
    assert stage is not None
    middle = (stage["x"] + stage["width"] / 2, stage["y"] + stage["height"] / 2)

    def counted(name: str, moves: int, per: int = 1) -> None:
        total, names = drawn(page)
        most = sorted(names.items(), key=lambda one: -one[1])[:14]
        print(f"{name}: {total / max(1, moves) / per:.1f} components a move  {dict(most)}")

    slider = page.get_by_role("slider").first.bounding_box()
    assert slider is not None
    x, y = slider["x"] + slider["width"] / 2, slider["y"] + slider["height"] * 0.8
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 2, y)
    settled(page)
    drawn(page)
    for move in range(MOVES):
        page.mouse.move(x + 3 + move % 20, y)
        page.wait_for_timeout(60)
    counted("vernier", MOVES)
    page.mouse.move(x, y)
    page.mouse.up()
    settled(page)

    target = page.locator('[data-line="r1"][data-part="1"]').bounding_box()
    assert target is not None
    x, y = target["x"] + 20, target["y"] + 20
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 6, y)
    settled(page)
    drawn(page)
    for move in range(MOVES):
        page.mouse.move(x + 6 + move % 10, y + move % 7)
        page.wait_for_timeout(60)
    counted("line", MOVES)
    page.mouse.up()
    settled(page)
    page.get_by_role("button", name="Undo").click()
    settled(page)

    page.mouse.move(*middle)
    page.wait_for_timeout(300)
    drawn(page)
    for move in range(MOVES):
        page.mouse.wheel(0, -60 if move % 2 else 40)
        page.wait_for_timeout(40)
    counted("wheel", MOVES)
    page.keyboard.press("f")
    page.mouse.move(*middle)
    page.mouse.down(button="middle")
    page.mouse.move(middle[0] + 5, middle[1])
    page.wait_for_timeout(200)
    drawn(page)
    for move in range(MOVES):
        page.mouse.move(middle[0] + 5 + move % 20, middle[1])
        page.wait_for_timeout(40)
    counted("pan", MOVES)
    page.mouse.up(button="middle")
    page.keyboard.press("f")

    for step in ("Frame", "Edges", "Lens", "Lines"):
        page.wait_for_timeout(300)
        drawn(page)
        page.get_by_role("navigation", name="Steps").get_by_role("button", name=step).click()
        settled(page)
        counted(f"to the step {step}", 1)
        if step == "Frame":
            frame_moves(page, middle, counted)


def frame_moves(page: Page, middle: tuple[float, float], counted: Any) -> None:
    """The frame, moved about its place."""
    page.get_by_role("button", name="Frame, bottom right corner").press("Control+ArrowLeft")
    settled(page)
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0] + 6, middle[1])
    settled(page)
    drawn(page)
    for move in range(MOVES):
        page.mouse.move(middle[0] + 6 + move % 20, middle[1] + move % 9)
        page.wait_for_timeout(60)
    counted("frame", MOVES)
    page.mouse.up()
    settled(page)


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
            page.goto(bench)
            page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
            settled(page)
            renders(page)
            speed(page)
            browser.close()


if __name__ == "__main__":
    sys.exit(main())
