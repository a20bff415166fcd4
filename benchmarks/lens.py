"""The map through a lens: resampling against OpenCV and libvips, bent frames, the first sharp tile.

PYTHONPATH=src .venv/bin/python -m benchmarks.lens
"""

from __future__ import annotations

import multiprocessing
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

import cv2
import numpy as np
import pyvips
from playwright.sync_api import Page, sync_playwright
from scipy.special import erf

from benchmarks.photo import make
from benchmarks.served import FLAGS, import_to_display, percentiles, started
from sequor.core.camera import Attitude, intrinsics
from sequor.core.distortion.models import Lens, half_diagonal
from sequor.core.frame.largest import largest
from sequor.core.raster.resample import resample
from sequor.core.warp.base import Warp
from sequor.core.warp.homography import warp_of

SHIFT = np.array([[1, 0, -0.5], [0, 1, -0.5], [0, 0, 1]])
REPEATS = 5


def maps(width: int, height: int) -> dict[str, Warp]:
    """A turn; and three degrees with a little perspective and all of Brown's terms."""
    camera = intrinsics(width, height, photo_focal_px=0.87 * width)
    brown = Lens((width / 2, height / 2), half_diagonal(width, height), -0.06, 0.02, -0.003, 4e-4, -3e-4)
    return {
        "turned by 3 degrees": warp_of(camera, Attitude(roll=3), Attitude()),
        "turned, perspective, lens": warp_of(camera, Attitude(3, 2, -1), Attitude(), lens=brown),
    }


def speed(width: int, height: int) -> None:
    """CPU seconds of ours and of cv2.warpPerspective with Lanczos on the same homography, alternating."""
    picture = np.random.default_rng(1).integers(0, 256, (height // 8, width // 8, 3), np.uint8)
    picture = cv2.resize(picture, (width, height), interpolation=cv2.INTER_CUBIC)
    for name, warp in maps(width, height).items():
        matrix = SHIFT @ warp.homography @ np.linalg.inv(SHIFT)
        ours, theirs = [], []
        for _ in range(REPEATS + 1):
            ours.append(cpu(partial(resample, picture, warp, 0, 0, width, height)))
            plain_warp = partial(
                cv2.warpPerspective, picture, matrix, (width, height), flags=cv2.INTER_LANCZOS4
            )
            theirs.append(cpu(plain_warp))
        mine, plain = np.median(ours[1:]), np.median(theirs[1:])
        print(f"{name}: {mine:.2f} s CPU, OpenCV {plain:.2f} s, ratio {mine / plain:.2f}")


def cpu(work: Callable[[], object]) -> float:
    """CPU seconds of all threads."""
    begun = time.process_time()
    work()
    return time.process_time() - begun


def memory(width: int, height: int, results: object) -> None:
    """MiB by which the peak exceeds what was there before and the output."""
    warp = maps(width, height)["turned, perspective, lens"]
    picture = np.full((height, width, 3), 90, np.uint8)
    resample(picture[:64, :64].copy(), maps(64, 64)["turned by 3 degrees"], 0, 0, 64, 64)
    # Writing 5 makes the peak start from here (Linux, proc(5)).
    Path("/proc/self/clear_refs").write_text("5")
    before = status("VmRSS")
    out = resample(picture, warp, 0, 0, width, height)
    results.put(status("VmHWM") - before - out.nbytes / 2**20)  # type: ignore[attr-defined]


def status(name: str) -> float:
    """A size of this process in MiB."""
    return int(Path("/proc/self/status").read_text().split(f"{name}:")[1].split()[0]) / 1024


def quality() -> None:
    """PSNR against the analytic picture, of 255, inside and up to a frequency."""
    width, height = 1800, 1200
    x, y = np.meshgrid(np.arange(width) + 0.5, np.arange(height) + 0.5)

    def zone(x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        square, pace = (x - width / 2) ** 2 + (y - height / 2) ** 2, np.pi * 0.47 / (height / 2)
        return 127.5 + 100 * np.cos(pace * square), pace * np.sqrt(square) / np.pi

    def edge(x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        a = np.deg2rad(5)
        across = (x - width / 2) * np.cos(a) + (y - height / 2) * np.sin(a)
        return 125 + 85 * erf(across / (0.6 * np.sqrt(2))), 0 * x

    for name, warp in maps(width, height).items():
        photo = warp.to_photo(np.column_stack([x.ravel(), y.ravel()])).reshape(height, width, 2)
        inside = np.all((photo > 6) & (photo < [width - 6, height - 6]), axis=2)
        where = np.float32(photo - 0.5)
        for what, scene, most in (
            ("zone plate to 0.20", zone, 0.2),
            ("zone plate to 0.35", zone, 0.35),
            ("zone plate to 0.45", zone, 0.45),
            ("slanted edge", edge, 1),
        ):
            picture = np.repeat(np.round(scene(x, y)[0]).astype(np.uint8)[..., None], 3, axis=2)
            truth, frequency = scene(photo[..., 0], photo[..., 1])
            index, image = pyvips.Image.new_from_array(where), pyvips.Image.new_from_array(picture)
            outs = {
                "ours": resample(picture, warp, 0, 0, width, height),
                "ours in 16 bit": resample(_deep(scene(x, y)[0]), warp, 0, 0, width, height) / 257,
                "OpenCV Lanczos": cv2.remap(picture, where[..., 0], where[..., 1], cv2.INTER_LANCZOS4),
                "OpenCV cubic": cv2.remap(picture, where[..., 0], where[..., 1], cv2.INTER_CUBIC),
                "libvips bicubic": image.mapim(index, interpolate=pyvips.Interpolate.new("bicubic")).numpy(),
            }
            counts = inside & (frequency < most)
            figures = []
            for who, out in outs.items():
                off = np.asarray(out)[..., 1][counts].astype(float) - truth[counts]
                figures.append(f"{who} {20 * np.log10(255 / np.sqrt(np.mean(off**2))):.1f}")
            print(f"{name}, {what}: {', '.join(figures)} dB")


def _deep(values: np.ndarray) -> np.ndarray:
    return np.repeat(np.round(values * 257).astype(np.uint16)[..., None], 3, axis=2)


def frames() -> None:
    """Milliseconds for the largest frame in 300 bent outlines, and for the outlines."""
    rng = np.random.default_rng(5)
    outlines, searches = [], []
    for case in range(310):
        width, height = [(3000, 2000), (2000, 3000), (6000, 4000)][case % 3]
        terms = rng.uniform(-1, 1, 5) * [0.2, 0.05, 0.02, 0.004, 0.004]
        lens = Lens((width / 2, height / 2), half_diagonal(width, height), *map(float, terms))
        camera = intrinsics(width, height, photo_focal_px=width * float(rng.uniform(0.6, 2)))
        attitude = Attitude(*map(float, rng.uniform(-1, 1, 3) * [8, 15, 12]))
        warp = warp_of(camera, attitude, Attitude(), lens=lens)
        begun = time.perf_counter()
        outline = warp.outline()
        between = time.perf_counter()
        largest(outline, width, height, np.array([width / 2, height / 2]))
        outlines.append(1000 * (between - begun))
        searches.append(1000 * (time.perf_counter() - between))
    percentiles("outline of a bent picture", outlines[10:])
    percentiles("largest frame in it", searches[10:])


def tiles(page: Page, address: str, photo: Path) -> None:
    """From the click on 100 % to the first tile that is drawn, in ten places, through a lens."""
    import_to_display(page, address, photo)
    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Lens").click()
    page.get_by_role("button", name="By hand", exact=True).click()
    page.get_by_label("Distortion in per cent").fill("8")
    page.keyboard.press("Enter")
    page.wait_for_timeout(2500)
    taken: list[float] = page.evaluate(
        """async () => {
        const controls = () => [...document.querySelectorAll('[data-controls] button')];
        const named = (name) => controls().find(one => one.textContent === name);
        const taken = [];
        for (let round = 0; round < 12; round++) {
            named('Fit').click();
            await new Promise(resolve => setTimeout(resolve, 400));
            const begun = performance.now();
            named(round % 2 ? '200%' : '100%').click();
            for (;;) {
                const all = [...document.querySelectorAll('[data-tiles] img')];
                if (all.some(one => one.complete && one.naturalWidth)) break;
                await new Promise(resolve => requestAnimationFrame(resolve));
            }
            taken.push(performance.now() - begun);
            const stage = document.querySelector('[data-stage]');
            stage.dispatchEvent(new WheelEvent('wheel', {deltaX: 900, shiftKey: true, bubbles: true}));
            // What has come once comes from the cache: another lens, another map.
            const typed = document.querySelector('[aria-label="Distortion in per cent"]');
            typed.focus();
            const value = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value');
            value.set.call(typed, String(7 - round / 4));
            typed.dispatchEvent(new Event('input', {bubbles: true}));
            typed.blur();
            await new Promise(resolve => setTimeout(resolve, 1500));
        }
        return taken;
    }"""
    )
    percentiles("100 or 200 % to the first sharp tile", taken)


def main() -> None:
    """Print all figures."""
    speed(6000, 4000)
    context = multiprocessing.get_context("spawn")
    results = context.Queue()
    process = context.Process(target=memory, args=(6000, 4000, results))
    process.start()
    print(f"memory beyond the output, 24 MP: {results.get():.0f} MiB")
    process.join()
    quality()
    frames()
    with tempfile.TemporaryDirectory() as name:
        photo = make(Path(name))
        with started(Path(name) / "data") as (address, _), sync_playwright() as playwright:
            time.sleep(5)
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
            tiles(browser.new_page(viewport={"width": 1280, "height": 800}), address, photo)
            browser.close()


if __name__ == "__main__":
    sys.exit(main())
