"""The served application: start, import to first display, evaluate, and the vernier from hand to drawn frame.

    .venv/bin/python -m benchmarks.served

Starts the program on a new data folder, twice, and drives it in headless Chromium at 1280 x 800 with a
24-megapixel photo on the full stage.
"""

from __future__ import annotations

import json
import os
import signal
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, Playwright, sync_playwright

from benchmarks.photo import make, recipe
from sequor.launch.mariadb import free_port

ROOT = Path(__file__).resolve().parents[1]
FLAGS = ["--enable-unsafe-swiftshader", "--force-color-profile=srgb", "--disable-dev-shm-usage"]


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
"""160 moves of the first vernier, each answered; milliseconds until what is drawn or shown."""


@contextmanager
def started(data: Path) -> Iterator[tuple[str, float]]:
    """The program through bin/start; its address and the seconds until it was ready."""
    begun = time.perf_counter()
    command = [ROOT / "bin" / "start", "--data", data, "--port", str(free_port())]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, cwd=ROOT, env=os.environ)
    assert process.stdout is not None
    line = ""
    while "http" not in line:
        line = process.stdout.readline()
    seconds = time.perf_counter() - begun
    try:
        yield line.split("Open ")[1].split()[0], seconds
    finally:
        process.send_signal(signal.SIGINT)
        process.wait()


def on_the_bench(playwright: Playwright, bench: str, measure: Callable[[Page], None]) -> None:
    """Measure on the bench of a photo, in headless Chromium at 1280 x 800."""
    browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.goto(bench)
    measure(page)
    browser.close()


def percentiles(label: str, values: list[float]) -> None:
    """One line of figures in milliseconds."""
    low, high = np.percentile(values, [50, 95])
    print(f"{label}: median {low:.1f} ms, 95th percentile {high:.1f} ms, n = {len(values)}")


def evaluate_requests(address: str) -> None:
    """Round trips of the evaluate request over HTTP, one after another."""
    with urllib.request.urlopen(f"{address}api/session") as answer:
        token = json.load(answer)["token"]
    headers = {"Content-Type": "application/json", "X-Sequor-Token": token}
    taken = []
    for index in range(220):
        made = recipe()
        made["correction"] = {"free": ["roll"], "by_hand": {"roll": index / 100}}
        body = json.dumps({"recipe": made}).encode()
        begun = time.perf_counter()
        with urllib.request.urlopen(
            urllib.request.Request(f"{address}api/evaluate", body, headers)
        ) as answer:
            answer.read()
        taken.append(1000 * (time.perf_counter() - begun))
    percentiles("evaluate request", taken[20:])


def import_to_display(page: Page, address: str, photo: Path) -> str:
    """From choosing the file to its small picture on the sheet, and from opening it to the drawn bench."""
    page.goto(address)
    page.wait_for_selector("main img")
    begun = time.perf_counter()
    page.get_by_label("Photo files").set_input_files(photo)
    picture = page.locator("[data-photo]", has_text="megapixels").locator("img")
    while not picture.evaluate("image => image.complete && image.naturalWidth > 0"):
        time.sleep(0.01)
    print(f"import of 24 megapixels to its small picture: {time.perf_counter() - begun:.2f} s")
    begun = time.perf_counter()
    page.get_by_role("link", name="megapixels").click()
    page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    print(f"from opening it to the drawn bench: {time.perf_counter() - begun:.2f} s")
    return page.url


def vernier(page: Page) -> None:
    """How soon a move on the fine scale is seen.

    First picture: until ``gl.finish()`` after the first drawing, so that software drawing counts in full; put
    together: until the next frame of the page has come; exact: until the last drawing, the server's answer.
    """
    page.wait_for_selector("[data-finding]:not(:empty)")
    page.wait_for_timeout(4000)
    taken: list[list[float]] = page.evaluate(VERNIER)[10:]
    for label, at in (("first picture drawn", 0), ("frame put together", 1), ("exact picture drawn", 2)):
        percentiles(f"vernier move to {label}", [one[at] for one in taken])


def main() -> None:
    """Print all figures."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        photo = make(folder)
        with started(folder / "data") as (_, first):
            print(f"first start with the demo photos: {first:.1f} s")
        seconds = []
        for _ in range(3):
            with started(folder / "data") as (_, again):
                seconds.append(again)
        print(f"second start: median {statistics.median(seconds):.1f} s")
        with started(folder / "data") as (address, _), sync_playwright() as playwright:
            time.sleep(5)
            evaluate_requests(address)
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            import_to_display(page, address, photo)
            vernier(page)
            browser.close()


if __name__ == "__main__":
    sys.exit(main())
