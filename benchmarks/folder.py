"""A folder at a time: exports side by side, a thousand photos in one run, kills, lists of 100,000.

    PYTHONPATH=src:.:tests .venv/bin/python -m benchmarks.folder [PART …]

Everything runs over a database, a Redis and workers of its own. What is compared is timed in the same run.
"""

from __future__ import annotations

import argparse
import contextlib
import json
import os
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

from browser.serving import served
from playwright.sync_api import sync_playwright
from sqlalchemy import func, select, text

from benchmarks.crowd import (
    SIX,
    TWO,
    children_of,
    imported,
    running,
    straightened,
    until_ended,
    views,
    workers,
)
from benchmarks.folder_kills import kills
from benchmarks.folder_lists import lists
from benchmarks.program import Client
from benchmarks.served import FLAGS
from benchmarks.stores import installation
from sequor.jobs.batches import Batches
from sequor.jobs.jobs import Jobs
from sequor.launch.background import Services
from sequor.operations.log import get_revision
from sequor.recipe.model.export import ExportPart
from sequor.store.database import Store
from sequor.store.models import Job, Photo

ONE_BY_ONE = """
import sys, time
from pathlib import Path
from sequor.operations.exporting import export
from sequor.recipe.parse import parse
original, out = Path(sys.argv[1]), Path(sys.argv[2])
recipes = [parse(Path(one).read_text()) for one in sys.argv[3:]]
tell = lambda share, words: None
export(original, recipes[0], out, tell)
begun = time.perf_counter()
for recipe in recipes:
    export(original, recipe, out, tell)
print((time.perf_counter() - begun) / len(recipes))
"""


def exports(count: int = 60) -> None:
    """60 exports of 6 megapixels: two processes against one, against single ones, against a process each."""
    times = {}
    for processes in (1, 2):
        with installation() as (store, database):
            photos = imported(store, count, SIX)
            straightened(store)
            with workers(store, database, processes) as services:
                batches = Batches(store, services.background, None)
                warm = batches.export(photos[:12], ExportPart(quality=90))
                until_ended(store, "write")
                begun = time.perf_counter()
                batches.export(photos, ExportPart())
                until_ended(store, "write")
                times[processes] = time.perf_counter() - begun
                assert batches.standing(warm.id).states == {"done": 12}
            if processes == 2:
                original, recipe = _first(store, photos[0])
                single = _single(original, recipe)
                before = _forked(original, recipe, 12) * count / 12
    print(f"{count} exports of 6 megapixels: one process {times[1]:.1f} s, two {times[2]:.1f} s")
    print(f"  two are {times[1] / times[2]:.2f} x one")
    print(f"  {single * count / 2 / times[2]:.3f} of the sum of single exports on two cores")
    print(f"  {before / times[2]:.2f} x as quick as a child forked for each, one after the other")


def _first(store: Store, photo: int) -> tuple[Path, str]:
    with store.transaction() as session:
        row = session.get_one(Photo, photo)
    recipe = get_revision(store, photo, row.revision_id or 0)
    return store.originals.path(row.sha256), recipe.model_dump_json()


def _single(original: Path, recipe: str) -> float:
    """Seconds of one export by itself with one thread, in a process that does several."""
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "r.json"
        file.write_text(recipe)
        threads = dict.fromkeys(("NUMBA_NUM_THREADS", "OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS"), "1")
        command = [sys.executable, "-c", ONE_BY_ONE, str(original), f"{folder}/out.jpg", *[str(file)] * 8]
        told = subprocess.run(
            command, env={**os.environ, **threads}, capture_output=True, text=True, check=True
        )
        return float(told.stdout)


FORKED = """
import os, sys, time
from pathlib import Path
from sequor.operations.exporting import export
from sequor.recipe.parse import parse
original, out, count = Path(sys.argv[1]), Path(sys.argv[2]), int(sys.argv[4])
recipe = parse(Path(sys.argv[3]).read_text())
begun = time.perf_counter()
for _ in range(count):
    child = os.fork()
    if child == 0:
        export(original, recipe, out, lambda share, words: None)
        os._exit(0)
    assert os.waitpid(child, 0)[1] == 0
print(time.perf_counter() - begun)
"""


def _forked(original: Path, recipe: str, count: int) -> float:
    """Seconds of so many exports, each in a child that is forked for it, as it was done before there were
    workers."""
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "r.json"
        file.write_text(recipe)
        command = [sys.executable, "-c", FORKED, str(original), f"{folder}/out.jpg", str(file), str(count)]
        told = subprocess.run(command, capture_output=True, text=True, check=True)
        return float(told.stdout)


SINGLES = """
import json, sys, time
from pathlib import Path
from benchmarks.crowd import TWO, views
from sequor.operations.exporting import export
from sequor.operations.importing import inspect, register
from sequor.operations.looking_ahead import look_ahead
from sequor.operations.photos import get_photo
from sequor.recipe.parse import build
from sequor.store.database import Store, connect
store, count = Store(connect(sys.argv[1]), Path(sys.argv[2])), int(sys.argv[3])
tell, spent, photos = (lambda share, words: None), {}, []
def stage(name, work, items):
    begun = time.perf_counter()
    out = [work(*one) for one in items]
    spent[name] = (time.perf_counter() - begun) / count
    return out
def bring(number, content):
    folder = store.work / str(number)
    folder.mkdir()
    (folder / "file").write_bytes(content)
    found = inspect(folder / "file", folder / "screen", tell)
    return register(store, folder / "file", folder / "screen", found, f"{number}.jpg").photo_id
def write(number):
    now = get_photo(store, number)
    turned = {**now.recipe.model_dump(mode="json"), "correction": {"by_hand": {"roll": 1.7, "pitch": 4.0}}}
    export(store.originals.path(now.photo.sha256), build(turned), store.work / "out", tell)
some = list(enumerate(views(count + 1, TWO)))
first = bring(*some.pop())
look_ahead(store, first), write(first)
photos = [(one,) for one in stage("import", bring, some)]
stage("look", lambda one: look_ahead(store, one), photos)
stage("export", write, photos)
print(json.dumps(spent))
"""


def model(count: int = 1000, some: int = 32) -> None:
    """What the cost model foretells of a run from single photos, one thread each, and what the run takes."""
    cores = os.cpu_count() or 1
    spent = core_seconds(cores, some)
    foretold = sum(spent.values()) * count / cores
    measured = thousand(count)
    print(f"{count} on {cores} cores: foretold {foretold:.0f} s, measured {measured:.0f} s")
    print(f"  {measured / foretold - 1:+.0%}")


def core_seconds(cores: int, some: int = 32) -> dict[str, float]:
    """What each stage of a photo takes one core while all others do the same: two that share a core's parts
    are slower than one alone."""
    threads = dict.fromkeys(("NUMBA_NUM_THREADS", "OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS"), "1")
    with contextlib.ExitStack() as there:
        asked = []
        for _ in range(cores):
            store, database = there.enter_context(installation())
            command = [sys.executable, "-c", SINGLES, database.url, str(store.folder), str(some)]
            asked.append(
                subprocess.Popen(command, env={**os.environ, **threads}, stdout=subprocess.PIPE, text=True)
            )
        each = [json.loads(process.communicate()[0]) for process in asked]
    spent = {name: sum(one[name] for one in each) / cores for name in each[0]}
    told = ", ".join(f"{name} {seconds:.2f}" for name, seconds in spent.items())
    print(f"core-seconds of a photo of 2 megapixels, {cores} at a time: {told}")
    return spent


def thousand(count: int = 1000) -> float:
    """So many photos of 2 megapixels imported, looked at and exported in one run; memory, and what fails. The
    seconds of all."""
    with installation() as (store, database), workers(store, database) as services:
        jobs, batches = Jobs(store, services.background), Batches(store, services.background, None)
        peak = _Peak(services)
        begun = time.perf_counter()
        for number, content in enumerate(views(count, TWO)):
            name = jobs.prepare()
            (jobs.folder(name) / "file").write_bytes(content)
            jobs.start(
                name, "import", f"{number}.jpg", {"name": f"IMG_{number:04d}.jpg", "bytes": len(content)}
            )
        until_ended(store, "import")
        took_in = time.perf_counter() - begun
        begun = time.perf_counter()
        until_ended(store, "look")
        with store.transaction() as session:
            photos = list(session.scalars(select(Photo.id).order_by(Photo.id)))
            looked = session.scalar(select(func.count()).where(Photo.confidence >= 0))
        until_looked = time.perf_counter() - begun
        begun = time.perf_counter()
        taking = batches.take(photos, "suggested", 0.5)
        until_ended(store, "take")
        took = time.perf_counter() - begun
        begun = time.perf_counter()
        written = batches.export(photos, ExportPart())
        until_ended(store, "write")
        wrote = time.perf_counter() - begun
        with store.transaction() as session:
            failed = session.execute(select(Job.kind, Job.error).where(Job.state == "failed")).all()
        print(
            f"{count} photos of 2 megapixels: imported in {took_in:.0f} s, looked at {until_looked:.0f} s"
            " later"
        )
        print(
            f"  {looked} looked at; proposals of {batches.standing(taking.id).changed} taken in {took:.0f} s"
        )
        print(f"  {batches.standing(written.id).states} exported in {wrote:.0f} s; faults: {failed}")
        print(f"  the largest process {peak.stop():.2f} GB")
        whole = took_in + until_looked + took + wrote
        print(f"  per thousand: {whole * 1000 / count:.0f} s in all")
        return whole


class _Peak:
    """The largest resident memory of the workers' processes, looked at now and then."""

    def __init__(self, services: Services) -> None:
        self._services, self._most, self._over = services, 0.0, threading.Event()
        self._thread = threading.Thread(target=self._watch, daemon=True)
        self._thread.start()

    def _watch(self) -> None:
        while not self._over.wait(1):
            parents = [child.pid for child in self._services.workers.values()]
            for pid in [*parents, *(child for parent in parents for child in children_of(parent))]:
                self._most = max(self._most, _resident(pid))

    def stop(self) -> float:
        """In gigabytes."""
        self._over.set()
        self._thread.join()
        return self._most / 1e9


def _resident(pid: int) -> float:
    try:
        return int(Path(f"/proc/{pid}/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE")
    except OSError:
        return 0.0


def busy(rounds: int = 300) -> None:
    """Evaluations while many photos are exported, against those of an idle machine."""
    with installation() as (store, database):
        photos = imported(store, 40, SIX)
        straightened(store)
        with workers(store, database) as services, served(store, services.background) as address:
            client = Client(int(address.rsplit(":", 1)[1]))
            answer = client("GET", f"/api/photos/{photos[0]}")
            assert answer is not None
            recipe = answer[1]["recipe"]

            def evaluations() -> list[float]:
                taken = []
                for number in range(rounds):
                    recipe["correction"]["by_hand"]["roll"] = 0.01 * number
                    begun = time.perf_counter()
                    client("POST", "/api/evaluate", {"recipe": recipe, "action": None})
                    taken.append(1000 * (time.perf_counter() - begun))
                    time.sleep(0.01)
                return taken[20:]

            batches = Batches(store, services.background, None)
            batches.export(photos[:2], ExportPart(quality=50))
            until_ended(store, "write")
            idle = evaluations()
            for quality in (90, 91, 92, 93):
                batches.export(photos, ExportPart(quality=quality))
            while running(store) < 2:
                time.sleep(0.05)
            full = evaluations()
            assert running(store) >= 1, "the lane was not full to the end"
            for one in batches.open():
                batches.cancel(one.batch.id)
    p95 = [statistics.quantiles(one, n=20)[18] for one in (idle, full)]
    print(f"evaluate p95: idle {p95[0]:.1f} ms, with a full lane {p95[1]:.1f} ms, {p95[1] / p95[0]:.2f} x")


def walk(count: int = 100) -> None:
    """So many photos walked through by a key each: from the key to the next picture, and what was kept."""
    with installation() as (store, database), workers(store, database) as services:
        photos = imported(store, count, TWO)
        until_looked(store)
        with store.transaction() as session:
            session.execute(text("UPDATE photos SET confidence = LEAST(confidence, 0.8)"))
        with served(store, services.background) as address, sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(address)
            page.get_by_role("button", name=f"Look through {count}").click()
            page.wait_for_function(SHOWN.replace("AT", f"1 of {count}"))
            page.wait_for_timeout(2000)
            taken = []
            for number in range(1, count):
                begun = time.perf_counter()
                page.keyboard.press("Enter")
                page.wait_for_function(SHOWN.replace("AT", f"{number + 1} of {count}"))
                taken.append(1000 * (time.perf_counter() - begun))
                # As long as somebody looks at it at least.
                page.wait_for_timeout(700)
            page.keyboard.press("Enter")
            page.get_by_text("That was the last one.").wait_for()
            page.wait_for_timeout(3000)
            browser.close()
        with store.transaction() as session:
            done = session.scalar(
                select(func.count()).where((Photo.state != "not measured") | Photo.aside.is_(True))
            )
    p50, p95 = statistics.median(taken), statistics.quantiles(taken, n=20)[18]
    print(f"{count} photos walked through by {count} keys, {done} of {len(photos)} decided and kept")
    print(f"  the next picture after {p50:.0f} ms (p95 {p95:.0f} ms)")


SHOWN = """() => {
    const picture = document.querySelector('.reviewed img');
    return document.querySelector('.route-title')?.textContent.includes('AT')
        && picture && picture.complete && picture.naturalWidth > 0 && picture.offsetWidth > 100;
}"""


def until_looked(store: Store) -> None:
    """Until every photo was looked at."""
    while True:
        with store.transaction() as session:
            if not session.scalar(select(func.count()).where(Photo.confidence < 0, Photo.shown == 1)):
                return
        time.sleep(0.3)


PARTS = {
    "walk": walk,
    "exports": exports,
    "thousand": thousand,
    "model": model,
    "kills": kills,
    "lists": lists,
    "busy": busy,
}


def main() -> None:
    """Print all figures, or those that are named."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("parts", nargs="*", choices=[*PARTS, []])
    for name in parser.parse_args().parts or PARTS:
        PARTS[name]()


if __name__ == "__main__":
    main()
