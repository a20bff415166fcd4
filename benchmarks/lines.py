"""Laying a line with ten references on a 45-megapixel photo: how soon the readings and the picture follow.

    PYTHONPATH=src .venv/bin/python -m benchmarks.lines

Readings: from a pointer move to the changed reading in the field book. Eased: from letting go to the last
picture drawn, the real edge found and the revision stored in between. In the same run, for comparison, the
solve of these references against scipy.optimize.least_squares on the same equations with numerical slopes.
"""

from __future__ import annotations

import json
import statistics
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

import cv2
import numpy as np
from PIL import Image
from playwright.sync_api import Page, sync_playwright
from scipy.optimize import least_squares
from scipy.spatial.transform import Rotation

from benchmarks.photo import DEMO
from benchmarks.served import on_the_bench, percentiles, started
from sequor.core.camera import intrinsics
from sequor.core.estimation.solve import solve
from sequor.core.references.reference import Reference

WIDTH, HEIGHT = 8216, 5477
SCALE = WIDTH / 3000
TRUTH = DEMO.with_name("wendlow_village.json")
KINDS = {"vertical": "plumb", "horizontal-facing": "level"}


def ten_lines(scale: float = SCALE) -> list[dict[str, object]]:
    """Ten true lines of the hill village, enlarged, as the references of a recipe."""
    lines = [line for line in json.loads(TRUTH.read_text())["lines"] if line["kind"] in KINDS]
    longest = sorted(lines, key=lambda line: -float(np.hypot(*np.subtract(line["p0"], line["p1"]))))[:10]
    return [
        {
            "id": f"r{index}",
            "kind": KINDS[line["kind"]],
            "points": [[value * scale for value in line[end]] for end in ("p0", "p1")],
        }
        for index, line in enumerate(longest, 1)
    ]


def make_large(folder: Path) -> Path:
    """The village at 45 megapixels, with noise."""
    with Image.open(DEMO.with_name("wendlow_village.jpg")) as demo:
        small, exif = np.asarray(demo), demo.getexif()
    large = cv2.resize(small, (WIDTH, HEIGHT), interpolation=cv2.INTER_CUBIC).astype(np.int16)
    large += np.random.default_rng(1).integers(-4, 5, large.shape, np.int16)
    path = folder / "village-45-megapixels.jpg"
    Image.fromarray(np.clip(large, 0, 255).astype(np.uint8)).save(path, quality=92, exif=exif)
    return path


def put_on_the_bench(address: str, photo: Path, scale: float = SCALE) -> str:
    """Import the photo and lay the ten lines; the address of its bench."""
    with urllib.request.urlopen(f"{address}api/session") as answer:
        headers = {"X-Sequor-Token": json.load(answer)["token"]}

    def ask(method: str, path: str, body: bytes | None = None, **more: str) -> dict[str, object]:
        request = urllib.request.Request(f"{address}api/{path}", body, {**headers, **more}, method=method)
        with urllib.request.urlopen(request) as answer:
            found: dict[str, object] = json.load(answer)
            return found

    job = ask(
        "POST", "imports?name=village.jpg", photo.read_bytes(), **{"Content-Type": "application/octet-stream"}
    )
    while job["state"] in ("waiting", "running"):
        time.sleep(0.1)
        job = ask("GET", f"jobs/{job['id']}")
    bench = ask("GET", f"photos/{job['photo_id']}")
    recipe: dict[str, object] = bench["recipe"]  # type: ignore[assignment]
    body = json.dumps(
        {"recipe": {**recipe, "references": ten_lines(scale)}, "action": "Laid ten lines"}
    ).encode()
    version = bench["photo"]["version"]  # type: ignore[index]
    more = {"Content-Type": "application/json", "If-Match": f'"{version}"'}
    ask("POST", f"photos/{job['photo_id']}/revisions", body, **more)
    return f"{address}photos/{job['photo_id']}"


def measure(page: Page) -> None:
    """Move the end of a line 120 times, and let go of it 12 times."""
    page.wait_for_selector("canvas[data-drawn]:not([data-drawn='0'])")
    page.get_by_role("button", name="As taken").click()
    page.wait_for_timeout(3000)
    readings: list[float]
    eased: list[float]
    readings, eased = page.evaluate(
        """async () => {
        const stage = document.querySelector('[data-stage]');
        stage.setPointerCapture = () => undefined;
        const target = document.querySelector('[data-line="r1"][data-part="1"]').getBoundingClientRect();
        const from = [target.left + 20, target.top + 20];
        const wait = time => new Promise(resolve => setTimeout(resolve, time));
        const send = (type, [x, y]) => stage.dispatchEvent(new PointerEvent(type,
            {bubbles: true, clientX: x, clientY: y, pointerId: 3, pointerType: 'mouse', button: 0}));
        const reading = document.querySelector('section[aria-label="Field book"] ol');
        const changed = () => new Promise(resolve => {
            const watch = new MutationObserver(() => { watch.disconnect(); resolve(performance.now()); });
            watch.observe(reading, {subtree: true, characterData: true, childList: true});
            setTimeout(() => { watch.disconnect(); resolve(null); }, 2000);
        });
        const readings = [], eased = [];
        for (let round = 0; round < 12; round++) {
            const place = document.querySelector('[data-line="r1"][data-part="1"]').getBoundingClientRect();
            const grip = [place.left + 20, place.top + 20];
            send('pointerdown', grip);
            await wait(30);
            for (let move = 1; move <= 10; move++) {
                const begun = performance.now();
                const end = changed();
                send('pointermove', [grip[0], grip[1] + 6 + 2 * move * (round % 2 ? 1 : -1)]);
                const seen = await end;
                if (seen !== null) readings.push(seen - begun);
                await wait(25);
            }
            // Back to near the edge, so that there is something to snap to.
            send('pointermove', [from[0], from[1] + 1]);
            await wait(150);
            [...document.querySelectorAll('button')].find(one => one.textContent === 'as corrected').click();
            await wait(400);
            performance.clearMarks('sequor-drawn');
            const begun = performance.now();
            send('pointerup', [from[0], from[1] + 1]);
            await wait(1500);
            const marks = performance.getEntriesByName('sequor-drawn');
            if (marks.length) eased.push(marks[marks.length - 1].startTime - begun);
            [...document.querySelectorAll('button')].find(one => one.textContent === 'as taken').click();
            await wait(400);
        }
        return [readings, eased];
    }"""
    )
    percentiles("pointer move to the new reading", readings[5:])
    percentiles("letting go to the last picture of the easing (150 ms of it easing)", eased[1:])


def against_scipy() -> None:
    """The same ten lines, roll and pitch, solved by us and by SciPy."""
    camera = intrinsics(WIDTH, HEIGHT, focal_35mm=50)
    lines = [Reference(str(one["id"]), one["kind"], np.array(one["points"])) for one in ten_lines()]  # type: ignore[arg-type]

    def residuals(angles: np.ndarray) -> np.ndarray:
        turn = Rotation.from_euler("YXZ", [0, angles[1], angles[0]]).as_matrix()
        found = []
        for line in lines:
            rays = np.column_stack([line.points - [WIDTH / 2, HEIGHT / 2], np.full(2, camera.focal_px)])
            normal = np.cross(*rays) @ turn.T
            found.append(normal[0 if line.kind == "level" else 1] / np.linalg.norm(normal))
        return np.array(found)

    ours, theirs = [], []
    for _ in range(30):
        begun = time.perf_counter()
        solve(lines, ["roll", "pitch"], camera)
        between = time.perf_counter()
        least_squares(residuals, [0.0, 0.0], loss="huber", f_scale=1e-3)
        ours.append(between - begun)
        theirs.append(time.perf_counter() - between)
    ratio = statistics.median(ours) / statistics.median(theirs)
    milliseconds = 1e3 * statistics.median(ours)
    print(f"solve of ten lines: {milliseconds:.1f} ms, {ratio:.2f} x scipy.optimize.least_squares")


def main() -> None:
    """Print all figures."""
    against_scipy()
    with tempfile.TemporaryDirectory() as name:
        photo = make_large(Path(name))
        with started(Path(name) / "data") as (address, _), sync_playwright() as playwright:
            bench = put_on_the_bench(address, photo)
            on_the_bench(playwright, bench, measure)


if __name__ == "__main__":
    sys.exit(main())
