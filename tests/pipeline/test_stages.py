"""What depends on what: every field is read by a stage or is a note, and results follow their fingerprints."""

from __future__ import annotations

import hashlib
import threading
import time
from types import SimpleNamespace
from typing import Any

import pytest
from pictures import recipe

from sequor.pipeline import retouch
from sequor.pipeline.address import warp_document
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.pipeline.fingerprint import leaves, meant
from sequor.pipeline.frame import Crop, Mark
from sequor.pipeline.new_pixels import Donate, Fill, Ground, Recede
from sequor.pipeline.output import Write
from sequor.pipeline.readings import Read
from sequor.pipeline.results import RESULTS, Results
from sequor.pipeline.retouch import Retouch, Shape
from sequor.pipeline.solve import Settle, Solve, Stand
from sequor.pipeline.stage import Stage
from sequor.pipeline.stretching import HurtsFrom
from sequor.pipeline.warp import Bend, Follow, Level
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.parse import build

STAGES: tuple[type[Stage[Any]], ...] = (
    Solve, Stand, Settle, Level, Follow, Bend, Read, Crop, Mark, Recede, Ground, Donate, Fill, Shape, Retouch, Write, HurtsFrom,
)  # fmt: skip

NOTES = {
    "format": "says what the document is",
    "version": "says what the document is",
    "edges.donors.*.id": "a name",
    "edges.patches.*.sha256": "what a take has made, not what is to be made",
    "edges.patches.*.box": "what a take has made, not what is to be made",
    "edges.patches.*.made_for": "what a take has made, not what is to be made",
}
"""Fields that no result depends on, and why."""

LINE = {"id": "r1", "kind": "level", "points": [[300.0, 900.0], [2700.0, 960.0]]}
WITNESS = {"id": "w", "kind": "witness", "points": [[100.0, 100.0], [110.0, 900.0]]}
PATCH = {"sha256": "0" * 64, "part": "top left corner", "box": [0, 0, 9, 9], "seed": 2, "made_for": "1" * 64}


def made(**parts: object) -> Evaluated:
    return evaluate(build(recipe(**parts)))


def test_every_field_is_read_by_a_stage_or_is_a_note() -> None:
    read = {leaf for stage in STAGES for leaf in meant(stage.reads)}
    assert set(leaves()) - read == set(NOTES)
    assert not read & set(NOTES)


def test_stages_stand_on_no_later_ones() -> None:
    for at, stage in enumerate(STAGES):
        assert set(stage.after) <= set(STAGES[:at]), stage


def test_a_field_that_there_is_not_is_an_error() -> None:
    with pytest.raises(ValueError, match=r"no field 'lens\.k9'"):
        meant(("lens.k9",))


def test_every_way_to_say_a_size_is_another_file() -> None:
    sizes: list[object] = [None, [150, 100], [300, 200], {"percent": 50}, {"percent": 51}, {"long_edge": 90}]
    prints = {Evaluated(build(recipe(export={"size": size}))).fingerprint(Write) for size in sizes}
    assert len(prints) == len(sizes)


def test_defaults_that_are_written_out_change_nothing() -> None:
    plain = build(recipe(references=[LINE]))
    full = build(plain.model_dump(mode="json"))
    assert plain.model_fields_set != full.model_fields_set
    for stage in STAGES:
        assert Evaluated(plain).fingerprint(stage) == Evaluated(full).fingerprint(stage), stage
    noted = build({**recipe(references=[{**LINE, "x-snap": {"a": 1}}]), "x-mine": 1})
    assert Evaluated(noted).fingerprint(Read) == Evaluated(plain).fingerprint(Read)


CHANGES: dict[str, dict[str, object]] = {
    "solve": {"references": [{**LINE, "points": [[300.0, 900.0], [2700.0, 990.0]]}]},
    "amount": {"correction": {"amount": {"roll": 0.5}}},
    "lens": {"lens": {"source": "manual", "k1": -0.03}},
    "frame": {"frame": {"ratio": "16:9"}},
    "hint": {"edges": {"mode": "fill", "hint": "sky"}},
    "strips": {"edges": {"mode": "fill", "strips": 2}},
    "format": {"export": {"format": "png"}},
    "subject": {"frame": {"subject": [100.0, 100.0]}},
    "witness": {"references": [LINE, WITNESS]},
    "seed": {"edges": {"mode": "fill", "seed": 5}},
}
STALE = {"solve", "amount", "lens", "frame", "hint", "strips"}
"""Changes after which corners that were filled before no longer hold."""


@pytest.mark.parametrize("change", CHANGES)
def test_corners_go_stale_where_their_pixels_would_change(change: str) -> None:
    base = {"references": [LINE], "edges": {"mode": "fill"}}
    before, after = made(**base), made(**{**base, **CHANGES[change]})
    assert (before.made_for[""] != after.made_for[""]) == (change in STALE)


def test_lines_and_the_numbers_they_come_to_are_the_same_map() -> None:
    """Written in, the solved values make the same warp, so what was made for it holds."""
    lines = made(references=[LINE], edges={"mode": "fill"})
    assert lines.solution.sd["roll"] is not None
    numbers = {name: getattr(lines.solution.attitude, name) for name in ("roll", "pitch", "yaw")}
    written = Evaluated(evolve(lines.recipe, correction=evolve(lines.recipe.correction, **numbers)))
    assert written.fingerprint(Solve) == lines.fingerprint(Solve)
    assert written.fingerprint(Bend) == lines.fingerprint(Bend)
    assert written.made_for == lines.made_for


@pytest.mark.parametrize("mode", ["trim", "reshape"])
def test_an_address_is_the_same_map(mode: str) -> None:
    now = made(references=[LINE, WITNESS], edges={"mode": mode}, frame={"ratio": "1:1"})
    there = Evaluated(build(warp_document(now)))
    assert there.fingerprint(Bend) == now.fingerprint(Bend)
    assert there.warp is now.warp


def test_a_drag_works_out_what_it_moves_and_nothing_else() -> None:
    """Counted: a frame that is dragged solves nothing, a seed that is chosen nothing at all."""
    base: dict[str, Any] = {"references": [LINE], "edges": {"mode": "reshape"}}
    made(**base)
    RESULTS.runs.clear()
    made(**base, frame={"ratio": "free", "rect": [100.0, 100.0, 500, 400]})
    assert dict(RESULTS.runs) == {"Crop": 1}
    RESULTS.runs.clear()
    made(**{**base, "edges": {"mode": "reshape", "seed": 3}})
    assert not RESULTS.runs


def test_a_cold_reshape_solves_its_mesh_once(monkeypatch: pytest.MonkeyPatch) -> None:
    RESULTS.clear()
    now = made(references=[LINE], edges={"mode": "reshape"})
    assert now.reshaped is not None and now.references and now.subject is None
    made(references=[LINE], edges={"mode": "reshape", "seed": 9})
    assert RESULTS.runs["Bend"] == 1


def test_one_maker_at_a_time() -> None:
    results, runs, found = Results(), [], []

    def make() -> int:
        runs.append(1)
        time.sleep(0.05)
        return 7

    asking = [threading.Thread(target=lambda: found.append(results.get("s", "f", make))) for _ in range(8)]
    for one in asking:
        one.start()
    for one in asking:
        one.join()
    assert (found, len(runs)) == ([7] * 8, 1)


def test_what_fails_is_not_kept_and_old_results_go() -> None:
    results = Results(kept=2)
    with pytest.raises(ZeroDivisionError):
        results.get("s", "f", lambda: 1 // 0)
    assert results.get("s", "f", lambda: 1) == 1
    for name in ("g", "h"):
        results.get("s", name, lambda: 2)
    assert results.get("s", "f", lambda: 3) == 3


def test_fifty_touch_ups_are_each_written_once(monkeypatch: pytest.MonkeyPatch) -> None:
    """Counted, not timed: each is hashed once, however many lie beneath, and nothing is looked at again."""
    areas = [{"id": f"t{n}", "points": [[40 + n, 40], [60 + n, 40], [60 + n, 60]]} for n in range(50)]
    now = made(edges={"touch_ups": areas})
    hashed: list[int] = []
    counting = SimpleNamespace(sha256=lambda text: hashed.append(1) or hashlib.sha256(text))
    monkeypatch.setattr(retouch, "hashlib", counting)
    found = now.made_for
    assert len(found) == 51 and len(set(found.values())) == 51 and len(hashed) == 50
    assert now.made_for is found and len(hashed) == 50


def test_touch_ups_rest_on_what_lies_beneath_as_far_as_they_look() -> None:
    one = {"id": "a", "points": [[900.0, 900.0], [960.0, 900.0], [960.0, 960.0]]}
    other = {"id": "b", "points": [[930.0, 930.0], [990.0, 930.0], [990.0, 990.0]]}
    far = {"id": "c", "points": [[2500.0, 300.0], [2560.0, 300.0], [2560.0, 360.0]]}
    before = made(edges={"touch_ups": [one, other, far]}).made_for
    after = made(edges={"touch_ups": [{**one, "seed": 4}, other, far]}).made_for
    assert {name for name in before if before[name] != after[name]} == {"b"}


def test_a_painter_does_not_mind_donors() -> None:
    donor = {"id": "d", "kind": "from here", "points": [[100.0, 100.0], [300.0, 100.0], [300.0, 300.0]]}
    for hint, minds in ((None, True), ("sky", False)):
        edges = {"mode": "fill", "hint": hint}
        kept = made(edges=edges).made_for[""], made(edges={**edges, "donors": [donor]}).made_for[""]
        assert (kept[0] != kept[1]) is minds


def test_a_patch_is_stale_only_for_what_is_still_wanted() -> None:
    assert [one.part for one in made(edges={"mode": "fill", "patches": [PATCH]}).stale] == ["top left corner"]
    assert made(edges={"mode": "trim", "patches": [PATCH]}).stale == ()


def test_the_schema_knows_the_same_fields() -> None:
    """Against pydantic's own schema: nothing that can be written is forgotten by the paths."""
    schema = Recipe.model_json_schema()

    def walk(node: dict[str, Any], path: str) -> set[str]:
        if len([one for one in node.get("anyOf", []) if one.get("type") != "null"]) > 1:
            return {path}
        for choice in (node, *node.get("anyOf", [])):
            if "$ref" in choice:
                inner = schema["$defs"][choice["$ref"].rsplit("/", 1)[1]]
                return {
                    leaf for key, one in inner["properties"].items() for leaf in walk(one, f"{path}.{key}")
                }
            if "$ref" in choice.get("items", {}):
                return walk(choice["items"], f"{path}.*")
        return {path}

    found = {leaf for key, one in schema["properties"].items() for leaf in walk(one, key)}
    assert found == set(leaves())


def test_what_is_large_is_kept_for_fewer() -> None:
    results = Results()
    for number in range(5):
        results.get("Spread", str(number), lambda number=number: number, 3)
        results.get("Other", str(number), lambda number=number: number)
    again: list[str] = []
    for number in range(5):
        results.get("Spread", str(number), lambda number=number: again.append(f"spread {number}"), 3)
        results.get("Other", str(number), lambda number=number: again.append(f"other {number}"))
    assert "spread 0" in again
    assert not any(one.startswith("other") for one in again)
