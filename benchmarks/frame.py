"""The frame: finding the largest, the table of costs, dragging.

    PYTHONPATH=src .venv/bin/python -m benchmarks.frame

The largest frame of a ratio against scipy.optimize.linprog (HiGHS) on the same constraints, in the same run;
the largest of any ratio; the table of costs over HTTP and until the field book shows it; a frame dragged
along the outline, from the pointer's move to the next frame of the browser, beside its frames at rest.
"""

from __future__ import annotations

import json
import statistics
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, sync_playwright
from scipy.optimize import linprog

from benchmarks.lines import put_on_the_bench
from benchmarks.photo import make
from benchmarks.served import on_the_bench, percentiles, started
from sequor.core.camera import Attitude, intrinsics
from sequor.core.distortion.models import Lens, half_diagonal
from sequor.core.frame.largest import HalfPlanes, largest, largest_of_any_ratio
from sequor.core.warp.homography import warp_of

WIDTH, HEIGHT = 6000, 4000
MIDDLE = np.array([WIDTH / 2, HEIGHT / 2])


def outlines(count: int, bent: bool) -> list[np.ndarray]:
    """Outlines of random attitudes, through a random lens or none."""
    rng = np.random.default_rng(1)
    made = []
    for _ in range(count):
        roll, pitch, yaw = (float(one) for one in rng.uniform(-1, 1, 3) * [8, 12, 8])
        lens = Lens((WIDTH / 2, HEIGHT / 2), half_diagonal(WIDTH, HEIGHT), k1=float(rng.uniform(-0.1, 0.1)))
        more = {"lens": lens} if bent else {}
        camera = intrinsics(WIDTH, HEIGHT, focal_35mm=28)
        made.append(warp_of(camera, Attitude(roll, pitch, yaw), Attitude(), **more).outline())
    return made


def against_linprog() -> None:
    """The same largest frames by us and by SciPy."""
    ours, theirs = [], []
    for outline in outlines(200, bent=False):
        begun = time.perf_counter()
        best = largest(outline, 3, 2, MIDDLE)
        between = time.perf_counter()
        planes = HalfPlanes.of(outline)
        rows = np.column_stack([planes.normals, planes.reach(3, 2)])
        answer = linprog([0, 0, -1], A_ub=rows, b_ub=planes.offsets, bounds=[(None, None)] * 2 + [(0, None)])
        ours.append(between - begun)
        theirs.append(time.perf_counter() - between)
        assert abs(best.width - 3 * answer.x[2]) < 1e-3
    ratio = statistics.median(ours) / statistics.median(theirs)
    print(f"largest frame: {1e3 * statistics.median(ours):.2f} ms, {ratio:.2f} x scipy.optimize.linprog")


def any_ratio() -> None:
    """The largest of any ratio, straight and through a lens."""
    for bent in (False, True):
        taken = []
        for outline in outlines(200, bent):
            begun = time.perf_counter()
            largest_of_any_ratio(outline, MIDDLE)
            taken.append(1e3 * (time.perf_counter() - begun))
        percentiles(f"largest frame of any ratio, {'through a lens' if bent else 'no lens'}", taken[5:])


def cost_requests(address: str, bench: str, lens: dict[str, object]) -> None:
    """The table of three turns and four ways each over HTTP."""
    with urllib.request.urlopen(f"{address}api/session") as answer:
        headers = {"Content-Type": "application/json", "X-Sequor-Token": json.load(answer)["token"]}
    number = bench.rsplit("/", 1)[1]
    with urllib.request.urlopen(f"{address}api/photos/{number}") as answer:
        recipe = json.load(answer)["recipe"]
    recipe["lens"] = {**recipe["lens"], **lens}
    taken = []
    for index in range(60):
        recipe["correction"]["by_hand"] = {"roll": index / 100}
        body = json.dumps({"recipe": recipe}).encode()
        begun = time.perf_counter()
        with urllib.request.urlopen(urllib.request.Request(f"{address}api/costs", body, headers)) as answer:
            rows = json.load(answer)["rows"]
        taken.append(1e3 * (time.perf_counter() - begun))
    percentiles(f"table of {len(rows)} costs over HTTP, {'through a lens' if lens else 'no lens'}", taken[5:])


def drag(page: Page) -> None:
    """The ratio is changed ten times; then the frame is dragged 200 moves along the outline."""
    page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    page.locator("nav button", has_text="Crop").click()
    page.wait_for_selector("[data-costs]")
    page.wait_for_timeout(2000)
    shown, moved, rest, requests = page.evaluate(
        """async () => {
        const wait = time => new Promise(resolve => setTimeout(resolve, time));
        const button = words => [...document.querySelectorAll('[role=group][aria-label=Ratio] button')]
            .find(one => one.textContent === words);
        const shown = [];
        for (let round = 0; round < 10; round++) {
            const before = document.querySelector('[data-costs]').textContent;
            const begun = performance.now();
            button(round % 2 ? '4:3' : '16:9').click();
            while (document.querySelector('[data-costs]').textContent === before) await wait(2);
            shown.push(performance.now() - begun);
            await wait(600);
        }
        button('Square').click();
        await wait(1500);
        const stage = document.querySelector('[data-stage]');
        stage.setPointerCapture = () => undefined;
        const send = (type, [x, y]) => stage.dispatchEvent(new PointerEvent(type,
            {bubbles: true, clientX: x, clientY: y, pointerId: 3, pointerType: 'mouse', button: 0}));
        const frame = () => document.querySelector('button[aria-label^="Frame, "][aria-description*="move"]');
        const corner = document.querySelector('button[aria-label="Crop frame, bottom right corner"]')
            .getBoundingClientRect();
        const grip = [corner.left + 20, corner.top + 20];
        send('pointerdown', grip);
        send('pointermove', [grip[0] - 60, grip[1] - 60]);
        send('pointerup', [grip[0] - 60, grip[1] - 60]);
        await wait(1500);
        const place = frame().getBoundingClientRect();
        const middle = [place.left + place.width / 2, place.top + place.height / 2];
        performance.clearResourceTimings();
        performance.setResourceTimingBufferSize(2000);
        send('pointerdown', middle);
        const moved = [], rest = [];
        for (let frames = 0; frames < 60; frames++) {
            const begun = performance.now();
            await new Promise(resolve => requestAnimationFrame(() => setTimeout(resolve)));
            rest.push(performance.now() - begun);
        }
        for (let move = 1; move <= 200; move++) {
            const angle = move / 12;
            const begun = performance.now();
            send('pointermove', [middle[0] + 400 * Math.cos(angle), middle[1] + 300 * Math.sin(angle)]);
            await new Promise(resolve => requestAnimationFrame(() => setTimeout(resolve)));
            moved.push(performance.now() - begun);
        }
        const requests = performance.getEntriesByType('resource').length;
        send('pointerup', middle);
        return [shown, moved, rest, requests];
    }"""
    )
    percentiles("choosing a ratio until the new costs are shown, revision stored in between", shown[1:])
    percentiles("the browser's frames at rest", rest[5:])
    percentiles("frame dragged along the outline, move to the browser's next frame", moved[5:])
    print(f"requests during 200 moves: {requests}")


def main() -> None:
    """Print all figures."""
    against_linprog()
    any_ratio()
    with tempfile.TemporaryDirectory() as name:
        photo = make(Path(name))
        with started(Path(name) / "data") as (address, _), sync_playwright() as playwright:
            bench = put_on_the_bench(address, photo, scale=2.0)
            cost_requests(address, bench, {})
            cost_requests(address, bench, {"source": "manual", "k1": -0.06})
            on_the_bench(playwright, bench, drag)


if __name__ == "__main__":
    sys.exit(main())
