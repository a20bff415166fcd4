"""How much the requests of a page work out: runs of each stage, and what fifty touch-ups add to a drag.

    PYTHONPATH=src .venv/bin/python -m benchmarks.requests

The real application on its own database, one of the demo's photos; the state before a request is known, as it
is to a page. An evaluation is a frame under a warp (a run of the stage Crop). The time of a drag with
touch-ups is told as a ratio to the same drag without.
"""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from sequor.pipeline.results import RESULTS
from sequor.web.app import create_app
from tests.clients import Importer, Page, Straight

from .stores import empty_store
from .timing import best

MILL = Path(__file__).parents[1] / "demo" / "photos" / "wendlow_mill.jpg"
LINES = [
    {"id": "r1", "kind": "level", "points": [[300.0, 1810.0], [2700.0, 1870.0]]},
    {"id": "r2", "kind": "plumb", "points": [[700.0, 300.0], [720.0, 1500.0]]},
    {"id": "r3", "kind": "plumb", "points": [[2300.0, 320.0], [2270.0, 1480.0]]},
]
TOUCH_UPS = [
    {"id": f"t{n}", "points": [[400.0 + 40 * n, 900.0], [460.0 + 40 * n, 980.0]], "radius": 30.0}
    for n in range(50)
]


class Asked:
    """A page that counts what its requests let be worked out."""

    def __init__(self, page: Page) -> None:
        self.page = page

    def __call__(self, label: str, method: str, path: str, **options: Any) -> Any:
        RESULTS.runs.clear()
        answer = self.page(method, path, **options)
        assert answer.status_code in (200, 201), answer.get_data(as_text=True)
        runs = Counter(RESULTS.runs)
        others = ", ".join(f"{name} {count}" for name, count in sorted(runs.items()) if name != "Crop")
        print(f"{label:46} {runs['Crop']:>2} evaluations   {others}")
        return answer.get_json()


def turn(degrees: float) -> dict[str, Any]:
    """So much of roll is to be taken out."""
    return {"do": "take out", "angle": "roll", "degrees": degrees}


def dragging(page: Page, recipe: dict[str, Any], begin: float) -> Callable[[], None]:
    """A drag's next request: another angle each time, from where it begins, in degrees."""
    step = iter(range(10_000))

    def ask() -> None:
        body = {"recipe": recipe, "action": turn(begin + 0.001 * next(step))}
        assert page("POST", "/api/evaluate", json=body).status_code == 200

    return ask


def main() -> None:
    """Print all of it."""
    with empty_store() as store:
        photo = Importer(store)(MILL.read_bytes(), MILL.name).photo_id
        app = create_app(store, Straight(store), store.folder)
        ask(Asked(Page(app.test_client())), photo)


def ask(asked: Asked, photo: int) -> None:
    """What a page asks, one after another."""
    at = f"/api/photos/{photo}"

    def now() -> dict[str, Any]:
        RESULTS.clear()
        return asked("opening the photo, cold", "GET", at)

    bench = now()

    def revise(label: str, recipe: dict[str, Any]) -> dict[str, Any]:
        body = {"recipe": recipe, "action": label}
        version = asked.page("GET", at).get_json()["photo"]["version"]
        return asked(f"storing: {label}", "POST", f"{at}/revisions", version=version, json=body)["recipe"]

    recipe = bench["recipe"]
    for count in (1, 2, 3):
        asked_for = {**recipe, "references": LINES[:count]}
        asked_for["correction"] = {**recipe["correction"], "roll": None, "pitch": None, "yaw": None}
        recipe = revise(f"{count} lines", asked_for)
    for degrees in (0.5, 0.6):
        body = {"recipe": recipe, "action": turn(degrees)}
        asked("a step of a drag of an angle", "POST", "/api/evaluate", json=body)
    framed = {**recipe, "frame": {**recipe["frame"], "ratio": "free", "rect": [600.0, 500.0, 1500, 900]}}
    recipe = revise("a frame drawn", framed)
    body = {"recipe": recipe, "action": turn(0.7)}
    asked("a step of a drag under a drawn frame", "POST", "/api/evaluate", json=body)
    filled = {**recipe, "edges": {**recipe["edges"], "mode": "fill"}}
    recipe = revise("corners filled", {**filled, "frame": {**filled["frame"], "rect": None}})
    asked("what each mode of the edges costs", "POST", "/api/edges", json={"recipe": recipe})
    recipe = revise("the picture reshaped", {**recipe, "edges": {**recipe["edges"], "mode": "reshape"}})
    asked(
        "offers and presets",
        "POST",
        "/api/evaluate",
        json={"recipe": recipe, "choices": True},
    )
    plain = {**recipe, "edges": {**recipe["edges"], "mode": "trim"}}
    many = {**plain, "edges": {**plain["edges"], "touch_ups": TOUCH_UPS}}
    # In turn, so that a busy moment hits both; of other angles, so that neither goes by the other's results.
    drags = [dragging(asked.page, one, begin) for one, begin in ((plain, 1.0), (many, 1.0005))]
    times = np.array([[best(drag, times=1) for drag in drags] for _ in range(120)])
    without, touched = np.median(times, axis=0)
    print(f"a drag with 50 touch-ups takes {touched / without:.2f} x one without ({1000 * without:.1f} ms)")
    print(json.dumps({"ratio": round(touched / without, 3)}))


if __name__ == "__main__":
    main()
