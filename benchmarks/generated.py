"""Generated requests over the whole OpenAPI document: none may be answered with 500, none may take long.

    .venv/bin/python -m benchmarks.generated --requests 2000 --seed 1

Half of them come from the document by schemathesis, with the numbers of real photos put in; the others are
real requests of a page with something about them changed: numbers without measure, texts with control
characters, lists a hundred times as long, levels of nesting.
"""

from __future__ import annotations

import argparse
import copy
import json
import random
import statistics
import sys
import tempfile
import time
import warnings
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

from flask.testing import FlaskClient
from hypothesis import HealthCheck, Phase, Verbosity, given, seed, settings
from hypothesis import strategies as st
from werkzeug.urls import iri_to_uri

from sequor.web.contract import openapi

HOST = "127.0.0.1:8765"
AWKWARD: list[Any] = [
    1e300, -1e300, 1e-300, -1, 0, 0.5, 2**31, 2**63, 10**30, True, None, "", "x", "²", "a\x00b", "\x7f",
    "x" * 3000, "٣", [], {}, [[]], [0], [1e9, 1e9], [0, 0, 0, 0], {"x-own": 1}, "1:1", "1e9:1", "-1:2", "NaN",
]  # fmt: skip

ACTIONS: list[dict[str, Any]] = [
    {"do": "lay", "line": "r9", "kind": "slope", "points": [[10, 100], [400, 120]], "snap": True},
    {"do": "move", "line": "r1", "points": [[10, 100], [400, 120]], "scale": 0.5},
    {"do": "kind", "line": "r1", "kind": "rectangle"},
    {"do": "shape", "line": "r1", "shape": [2, 3]},
    {"do": "lens", "source": "straight", "second": True},
    {"do": "take out", "angle": "pitch", "degrees": 3},
    {"do": "ratio", "ratio": "3:2"},
    {"do": "widen", "ratio": "2:1", "side": "left"},
    {"do": "place", "what": "subject", "across": 0.3, "down": 0.6},
    {"do": "framing", "turn": "Turned only", "edges": "nothing cut"},
    {"do": "subject", "mark": [[10, 10], [90, 80]]},
    {"do": "paper", "paper": [6, 4], "unit": "in"},
    {"do": "draw", "what": "touch-up", "area": "t9", "points": [[10, 10], [90, 80]], "radius": 9},
    {"do": "move area", "area": "t1", "to": [30, 30]},
    {"do": "take", "seed": 1},
    {"do": "size", "width": 300},
]  # fmt: skip


@dataclass
class Outcome:
    """Answers by their status, the seconds of each, and requests that were answered with 500."""

    statuses: Counter[int] = field(default_factory=Counter)
    seconds: list[tuple[float, str]] = field(default_factory=list)
    troubles: list[str] = field(default_factory=list)

    @property
    def p99(self) -> float:
        """The 99th percentile of the seconds."""
        return statistics.quantiles([one for one, _ in self.seconds], n=100)[98]


class Sender:
    """Sends requests as a page of ours would."""

    def __init__(self, client: FlaskClient, photo: int) -> None:
        self.client, self.photo, self.outcome = client, photo, Outcome()
        token = client.get("/api/session", headers={"Host": HOST}).get_json()["token"]
        self._headers = {"Host": HOST, "Origin": f"http://{HOST}", "X-Sequor-Token": token}

    def bench(self) -> dict[str, Any]:
        """The photo as it is now."""
        answer = self.client.get(f"/api/photos/{self.photo}", headers=self._headers)
        if answer.status_code == 404:
            self.client.post(f"/api/photos/{self.photo}/restore", headers=self._headers)
            return self.bench()
        document: dict[str, Any] = answer.get_json()
        return document

    def __call__(
        self, method: str, path: str, body: Any = None, headers: dict[str, str] | None = None
    ) -> None:
        sent = {**self._headers, **(headers or {})}
        content = body if isinstance(body, bytes | None) else _written(body)
        if content is not None and not isinstance(body, bytes):
            sent["Content-Type"] = "application/json"
        begun = time.perf_counter()
        answer = self.client.open(path, method=method, data=content, headers=sent)
        took = time.perf_counter() - begun
        what = f"{method} {path[:120]}"
        self.outcome.statuses[answer.status_code] += 1
        self.outcome.seconds.append((took, what))
        said = answer.get_json(silent=True) if answer.is_json else None
        if answer.status_code == 500:
            self.outcome.troubles.append(f"500: {what} {str(body)[:400]} {sent.get('If-Match')}")
        elif answer.status_code >= 400 and method != "HEAD" and not (said or {}).get("detail"):
            self.outcome.troubles.append(f"{answer.status_code} without a reason: {what}")


def _written(body: Any) -> bytes:
    try:
        return json.dumps(body).encode(errors="surrogatepass")
    except RecursionError:
        return b"[" * 5000


def changed(chance: random.Random, document: Any) -> Any:
    """A document with some of its values replaced, multiplied, or nested."""
    document = copy.deepcopy(document)
    for _ in range(chance.choice((1, 1, 1, 2, 3))):
        holders = list(_holders(document))
        if not holders:
            return copy.deepcopy(chance.choice(AWKWARD))
        holder, key = chance.choice(holders)
        how = chance.randrange(8)
        if how == 0 and isinstance(holder[key], list):
            holder[key] = holder[key] * chance.choice((2, 100))
        elif how == 1 and isinstance(holder, dict):
            del holder[key]
        elif how == 2:
            for _ in range(chance.choice((3, 30, 200))):
                holder[key] = [holder[key]]
        elif how == 3 and isinstance(holder, dict):
            holder[chance.choice(("x-note", "unknown", "id", "\x00"))] = copy.deepcopy(chance.choice(AWKWARD))
        else:
            holder[key] = copy.deepcopy(chance.choice(AWKWARD))
    return document


def _holders(document: Any) -> Iterator[tuple[Any, Any]]:
    if isinstance(document, dict | list):
        for key in document if isinstance(document, dict) else range(len(document)):
            yield document, key
            yield from _holders(document[key])


def rich(recipe: dict[str, Any]) -> dict[str, Any]:
    """A recipe with something of everything in it."""
    found = copy.deepcopy(recipe)
    width, height = found["photo"]["width"], found["photo"]["height"]
    line = {"sigma_px": 1.0, "group": None, "shape": None, "weight": 1.0, "active": True}
    found["references"] = [
        {"id": "r1", "kind": "level", "points": [[2, height / 2], [width - 2, height / 2 + 9]], **line},
        {"id": "r2", "kind": "plumb", "points": [[20, 5], [23, height - 5]], **line},
        {"id": "r3", "kind": "receding", "points": [[9, 9], [90, 30]], **line, "group": "1"},
        {"id": "r4", "kind": "straight", "points": [[9, 9], [50, 10], [90, 12]], **line},
        {"id": "r5", "kind": "rectangle", "points": [[30, 30], [80, 31], [81, 70], [29, 71]], **line},
    ]
    area = [[40.0, 40.0], [60.0, 40.0], [60.0, 60.0]]
    found["edges"]["touch_ups"] = [{"id": "t1", "points": area}, {"id": "t2", "points": area, "radius": 5.0}]
    found["edges"]["donors"] = [{"id": "d1", "points": area, "kind": "not from here"}]
    found["frame"].update(subject=[10, 10, 30, 20], print={"paper": [300, 200]})
    found["lens"] = {"source": "manual", "k1": -0.03, "k2": 0.01}
    return found


def _by_page(chance: random.Random, send: Sender) -> None:
    """A request that a page makes, with something about it changed."""
    bench = send.bench()
    recipe = rich(bench["recipe"]) if chance.random() < 0.6 else bench["recipe"]
    if chance.random() < 0.4:
        recipe["edges"]["mode"] = chance.choice(("fill", "reshape", "leave"))
        recipe["frame"].update(allow_empty=True)
    path = f"/api/photos/{send.photo}"
    asks: list[tuple[str, str, Any]] = [
        ("POST", "/api/evaluate", {"recipe": recipe, "choices": chance.random() < 0.3}),
        ("POST", "/api/evaluate", {"recipe": recipe, "action": chance.choice(ACTIONS)}),
        ("POST", f"{path}/revise", chance.choice(ACTIONS)),
        ("POST", f"{path}/revise", chance.choice(ACTIONS)),
        ("POST", f"{path}/revisions", {"recipe": recipe, "action": "Something"}),
        ("POST", "/api/costs", {"recipe": recipe}),
        ("POST", "/api/edges", {"recipe": recipe}),
        ("POST", f"{path}/under", {"recipe": recipe, "lines": [{"way": "level", "ends": [[1, 9], [90, 9]]}]}),
        ("POST", f"{path}/versions", {"name": "wall"}),
        ("PATCH", path, {"title": "Jetty"}),
        ("POST", "/api/ratios", {"name": "album", "ratio": "13:9"}),
        ("POST", f"{path}/exports", {"export": recipe["export"], "versions": [], "now": True}),
        ("POST", f"{path}/takes", {"touch_up": "", "seeds": [1]}),
        ("POST", f"{path}/turn", {"direction": "left"}),
    ]
    method, address, body = chance.choice(asks)
    version = chance.choice((bench["photo"]["version"], bench["photo"]["version"], "²", -1, 10**12, "x"))
    content: Any = changed(chance, body)
    if chance.random() < 0.05:
        content = chance.choice((b"", b"{", b"\xff", b"[" * 100_000, b'{"a":NaN}', b'"\\ud800"', b"1" * 5000))
    kind = {"Content-Type": "application/json"} if isinstance(content, bytes) else {}
    send(method, address, content, {"If-Match": f'"{version}"'.encode().decode("latin-1"), **kind})


def run(client: FlaskClient, photo: int, requests: int, number: int) -> Outcome:
    """Send so many requests."""
    send, chance = Sender(client, photo), random.Random(number)
    for _ in range(requests // 2):
        _by_page(chance, send)
    for case in _cases(requests - requests // 2, number):
        path = case.formatted_path
        if chance.random() < 0.7:
            path = case.path.replace("{photo_id}", str(photo))
            for name, value in case.path_parameters.items():
                path = path.replace(f"{{{name}}}", str(value))
        body = case.body if isinstance(case.body, dict | list | str | int | float | bytes) else None
        if isinstance(body, dict) and "recipe" in body and chance.random() < 0.5:
            body["recipe"] = send.bench()["recipe"]

        query = urlencode(case.query or {}, doseq=True)
        address = iri_to_uri(path) + (f"?{query}" if query else "")
        version = send.bench()["photo"]["version"]
        send(case.method, address, body, {"If-Match": f'"{version}"'})
    return send.outcome


def _cases(count: int, number: int) -> list[Any]:
    """What schemathesis makes of the document, of each operation about as many."""
    import schemathesis

    schema = schemathesis.openapi.from_dict(openapi())
    strategies = [operation.ok().as_strategy() for operation in schema.get_all_operations()]
    found: list[Any] = []

    @seed(number)
    @settings(
        max_examples=count,
        phases=[Phase.generate],
        deadline=None,
        database=None,
        verbosity=Verbosity.quiet,
        suppress_health_check=list(HealthCheck),
    )
    @given(st.one_of(strategies))
    def collect(case: Any) -> None:
        found.append(case)

    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        collect()
    return found[:count]


def main() -> int:
    from sequor.launch.mariadb import MariaDB
    from sequor.operations.importing import inspect, register
    from sequor.store.database import Store, connect, migrate
    from sequor.web.app import create_app

    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--requests", type=int, default=2000)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        database = MariaDB(Path(folder) / "database")
        engine = connect(database.url)
        migrate(engine)
        store = Store(engine, Path(folder))
        photos = Path(__file__).resolve().parents[1] / "demo" / "photos"
        file, screen = photos / "wendlow_shore.jpg", store.work / "screen"
        found = inspect(file, screen, lambda share, words: None)
        photo = register(store, file, screen, found, file.name).photo_id

        class Nobody:
            def make_takes(self, photo_id: int, key: str) -> None:
                """Nobody makes them here."""

            def do_job(self, name: str, kind: str, lane: str) -> None:
                """Nobody does it here."""

            def break_off(self, name: str) -> None:
                """Nothing goes on."""

        app = create_app(store, Nobody(), photos)
        outcome = run(app.test_client(), photo, options.requests, options.seed)
        engine.dispose()
        database.stop()
    print(f"{sum(outcome.statuses.values())} requests: {dict(sorted(outcome.statuses.items()))}")
    slowest = sorted(outcome.seconds, reverse=True)[:5]
    print(f"p99 {outcome.p99:.2f} s; slowest {[(round(one, 2), what[:50]) for one, what in slowest]}")
    print(f"troubles: {len(outcome.troubles)}")
    for trouble in outcome.troubles[:30]:
        print(f"  {trouble}")
    return 1 if outcome.troubles else 0


if __name__ == "__main__":
    sys.exit(main())
