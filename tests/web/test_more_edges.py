"""Reshape, touch-ups and the outside painter over HTTP."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import numpy as np
import pyexiv2
import pytest
from clients import Importer, Page, Straight, finished
from pictures import DEMO, jpeg_bytes
from PIL import Image

from sequor.operations.rendering import TILE
from sequor.painter.client import Painter
from sequor.store.database import Store
from sequor.web.app import create_app

JPEG = jpeg_bytes(np.asarray(Image.open(DEMO / "wendlow_shore.jpg").reduce(6)))
SPOT = {"id": "t1", "points": [[250.0, 220.0]], "radius": 14.0}
WIDE = {"frame": {"ratio": "free", "rect": [0, -80, 500, 414], "allow_empty": True}}
SETTINGS = {"format": "png", "quality": 95, "size": None}


def bench_of(page: Page, bring: Importer, **parts: Any) -> dict[str, Any]:
    """A photo of 500 x 334 with parts of its recipe changed, as the bench sees it."""
    bench = page("GET", f"/api/photos/{bring(JPEG).photo_id}").get_json()
    return kept(page, bench, {**bench["recipe"], **parts})


def kept(page: Page, bench: dict[str, Any], recipe: dict[str, Any]) -> Any:
    path = f"/api/photos/{bench['photo']['id']}/revisions"
    answer = page("POST", path, bench["photo"]["version"], json={"recipe": recipe, "action": "an action"})
    assert answer.status_code == 201, answer.get_data(as_text=True)
    return answer.get_json()


def picture(answer: Any) -> np.ndarray:
    assert answer.status_code == 200
    return np.asarray(Image.open(io.BytesIO(answer.data)))


def exported(page: Page, bench: dict[str, Any]) -> dict[str, Any]:
    path = f"/api/photos/{bench['photo']['id']}/exports"
    return finished(page, page("POST", path, json={"export": SETTINGS}).get_json())


def test_a_reshaped_photo_from_its_segments_to_its_file(own_page: Page, bring: Importer) -> None:
    """The straight edges that were found are a part of the recipe; tiles and export show the same picture."""
    turned = {"correction": {"by_hand": {"roll": 3.0}}, "edges": {"mode": "reshape"}}
    bench = bench_of(own_page, bring, **turned)
    recipe, seen = bench["recipe"], bench["evaluation"]
    assert len(recipe["edges"]["segments"]) > 5
    assert seen["outline"] == [[0, 0], [500, 0], [500, 334], [0, 334]]
    assert seen["route"]["edges"].startswith("stretched ")
    ways = own_page("POST", "/api/edges", json={"recipe": recipe}).get_json()
    assert ways["heat"]["percents"] and max(ways["heat"]["percents"]) > 2
    assert len(ways["heat"]["percents"]) == ways["heat"]["columns"] * ways["heat"]["rows"]
    (reshape,) = (one for one in ways["choices"] if one["mode"] == "reshape")
    assert reshape["chosen"] and reshape["stretch"] == pytest.approx(
        max(ways["heat"]["percents"]) / 100, abs=0.006
    )
    assert ways["hurts_from"] > 3
    job = exported(own_page, bench)
    file = picture(own_page("GET", f"/api/jobs/{job['id']}/file"))
    assert file.shape == (334, 500, 3) and job["filled"] == 0
    tile = picture(own_page("GET", f"/api/photos/{bench['photo']['id']}/tiles/{seen['map']}/0/0.jpg"))
    assert tile.shape == (TILE, TILE, 3)
    assert np.abs(tile.astype(int) - file[:TILE, :TILE]).mean() < 2
    # A touch-up lies on the reshaped picture, in its small picture too.
    spotted = kept(
        own_page, bench, {**recipe, "edges": {**recipe["edges"], "touch_ups": [{**SPOT, "radius": 60.0}]}}
    )
    takes = f"/api/photos/{bench['photo']['id']}/takes"
    (take,) = own_page("POST", takes, json={"seeds": [1], "touch_up": "t1"}).get_json()["takes"]
    with_spot = picture(own_page("GET", f"{takes}/{take['id']}/small-all.jpg")).astype(int)
    # It shows the ninth in which the touch-up lies: besides that it is a part of the file.
    high, wide = file.shape[0] // 3, file.shape[1] // 3
    places = [
        (down * (file.shape[0] - high) // 4, across * (file.shape[1] - wide) // 4)
        for down in range(5)
        for across in range(5)
    ]
    size = (with_spot.shape[1], with_spot.shape[0])
    parts = [Image.fromarray(file[top : top + high, left : left + wide]).resize(size) for top, left in places]
    off = min((np.abs(with_spot - np.asarray(part)).mean(axis=2) for part in parts), key=np.median)
    assert off.max() > 10 * np.median(off)
    bench = spotted
    # An angle more, and the same straight edges are followed.
    recipe = bench["recipe"]
    more = {**recipe, "correction": {**recipe["correction"], "by_hand": {"roll": 3.2}}}
    assert kept(own_page, bench, more)["recipe"]["edges"]["segments"] == recipe["edges"]["segments"]


def test_room_beyond_the_picture(own_page: Page, bring: Importer) -> None:
    bench = bench_of(own_page, bring)

    def ask(**asked: Any) -> Any:
        return own_page(
            "POST",
            "/api/evaluate",
            json={"recipe": bench["recipe"], "action": {"do": "widen", **asked}, "after": True},
        )

    assert ask(ratio="16:9", side="left").get_json()["after"]["action"] == "Frame: extended to 16:9"
    assert ask(side="top", room=0.2).get_json()["after"]["action"] == "Frame: extended above"
    assert "rarely looks believable" in ask(side="right", room=1.0).get_json()["after"]["words"]
    for wrong in ({"ratio": "wide"}, {"ratio": "1:1", "side": "left"}, {"room": 0}, {"side": "inside"}):
        assert ask(**wrong).status_code == 422


def test_takes_of_a_touch_up(own_page: Page, bring: Importer) -> None:
    bench = bench_of(own_page, bring, edges={"touch_ups": [SPOT]})
    path = f"/api/photos/{bench['photo']['id']}/takes"
    key = bench["evaluation"]["touch_ups"]["t1"]
    found = own_page("POST", path, json={"seeds": [1, 2], "touch_up": "t1"}).get_json()
    assert found["made_for"] == key and [take["state"] for take in found["takes"]] == ["done", "done"]
    assert own_page("GET", f"{path}?touch_up=t1").get_json() == found
    assert own_page("GET", path).get_json()["takes"] == []
    part = found["takes"][0]["parts"][0]
    over = picture(own_page("GET", f"/api/patches/{part['sha256']}/1.png?over"))
    assert over.shape == (part["box"][3], part["box"][2], 4) and over[..., 3].min() == 0
    reduced = picture(own_page("GET", f"/api/patches/{part['sha256']}/4.png?over"))
    assert reduced.shape[0] == -(-part["box"][3] // 4)
    small = f"{path}/{found['takes'][1]['id']}/small-{part['part']}.jpg"
    assert picture(own_page("GET", small)).shape[1] > 50
    listed = kept(own_page, bench, bench["recipe"])
    assert [patch["part"] for patch in listed["recipe"]["edges"]["patches"]] == ["touch-up t1"]
    assert listed["evaluation"]["route"]["edges"] == "no empty corners, 1 touch-up"
    job = exported(own_page, listed)
    mask = picture(own_page("GET", f"/api/jobs/{job['id']}/mask"))
    assert job["filled"] == pytest.approx((mask > 0).mean()) and job["filled"] > 0
    before = picture(
        own_page("GET", f"/api/photos/{bench['photo']['id']}/thumbnail/{listed['photo']['revision']}.jpg")
    )
    assert before.shape[1] == 500
    for wrong in (
        own_page("GET", f"{path}?touch_up=t7"),
        own_page("POST", path, json={"seeds": [1], "touch_up": "t7"}),
    ):
        assert wrong.status_code == 422


class TestPainter:
    @pytest.fixture
    def painted_page(self, store: Store, stand_in: Painter, tmp_path: Path) -> Page:
        """A page of a program that was started with a painter."""
        (tmp_path / "pages" / "assets").mkdir(parents=True, exist_ok=True)
        app = create_app(store, Straight(store, stand_in), tmp_path / "pages", stand_in)
        return Page(app.test_client())

    def test_it_is_off_unless_it_was_set_up_and_no_page_sets_it_up(
        self, own_page: Page, bring: Importer, painted_page: Page
    ) -> None:
        assert own_page("GET", "/api/session").get_json()["painter"] is False
        assert painted_page("GET", "/api/session").get_json()["painter"] is True
        bench = bench_of(own_page, bring, edges={"mode": "fill", "hint": "sky"}, **WIDE)
        path = f"/api/photos/{bench['photo']['id']}/takes"
        (take,) = own_page("POST", path, json={"seeds": [1]}).get_json()["takes"]
        assert take["state"] == "failed" and "Start Sequor with --painter" in take["words"]
        assert "--painter" in exported(own_page, bench)["error"]
        sneaky = {**bench["recipe"], "painter": "http://127.0.0.1:1"}
        answer = own_page(
            "POST",
            f"/api/photos/{bench['photo']['id']}/revisions",
            bench["photo"]["version"],
            json={"recipe": sneaky, "action": "a"},
        )
        assert answer.status_code == 422

    def test_a_sky_is_painted_and_declared(self, painted_page: Page, bring: Importer, tmp_path: Path) -> None:
        """IPTC's term for pixels of a trained algorithm, read back with Exiv2."""
        bench = bench_of(painted_page, bring, edges={"mode": "fill", "hint": "a wide sky"}, **WIDE)
        path = f"/api/photos/{bench['photo']['id']}/takes"
        (take,) = painted_page("POST", path, json={"seeds": [1]}).get_json()["takes"]
        assert take["state"] == "done"
        listed = kept(painted_page, bench, bench["recipe"])
        job = exported(painted_page, listed)
        answer = painted_page("GET", f"/api/jobs/{job['id']}/file")
        sky = picture(answer)[:70].astype(int)
        assert (sky[..., 2] > sky[..., 0] + 10).mean() > 0.9
        (tmp_path / "painted.png").write_bytes(answer.data)
        with pyexiv2.Image(str(tmp_path / "painted.png")) as file:
            xmp = file.read_xmp()
        assert xmp["Xmp.iptcExt.DigitalSourceType"].endswith("/compositeWithTrainedAlgorithmicMedia")
        assert "painted by an external service" in str(xmp["Xmp.xmpDM.logComment"])
        # Made by the painter once, it needs no painter again.
        assert exported(painted_page, listed)["filled"] == job["filled"]

    def test_a_touch_up_is_painted_too_and_only_there(self, painted_page: Page, bring: Importer) -> None:
        bench = bench_of(painted_page, bring)
        plain = picture(painted_page("GET", f"/api/jobs/{exported(painted_page, bench)['id']}/file"))
        with_spot = kept(
            painted_page, bench, {**bench["recipe"], "edges": {"touch_ups": [{**SPOT, "hint": "brick"}]}}
        )
        job = exported(painted_page, with_spot)
        file = picture(painted_page("GET", f"/api/jobs/{job['id']}/file"))
        mask = picture(painted_page("GET", f"/api/jobs/{job['id']}/mask")) > 0
        assert np.array_equal(file[~mask], plain[~mask])
        assert file[220, 250, 0] > file[220, 250, 2]

    def test_a_hint_that_it_does_not_know_loses_nothing(self, painted_page: Page, bring: Importer) -> None:
        bench = bench_of(painted_page, bring, edges={"mode": "fill", "hint": "a unicorn"}, **WIDE)
        path = f"/api/photos/{bench['photo']['id']}"
        (take,) = painted_page("POST", f"{path}/takes", json={"seeds": [1]}).get_json()["takes"]
        assert take["state"] == "failed" and "paints only these" in take["words"]
        assert painted_page("GET", path).get_json()["recipe"] == bench["recipe"]
        assert "paints only these" in exported(painted_page, bench)["error"]
