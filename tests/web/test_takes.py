"""Edges and takes over HTTP: costs, small pictures, takes and their patches, the mask of an export."""

from __future__ import annotations

import io
import json
from typing import Any

import numpy as np
import pytest
from apiflask import APIFlask
from clients import Importer, Page, finished
from pictures import DEMO, jpeg_bytes, smooth_picture
from PIL import Image

from sequor.jobs.background import BackgroundGoneError

JPEG = jpeg_bytes(np.asarray(Image.open(DEMO / "wendlow_mill.jpg").reduce(8)))


def asked(page: Page, recipe: dict[str, Any], **ask: Any) -> Any:
    body = {"recipe": recipe, "action": {"do": "edges", **ask}, "after": True}
    return page("POST", "/api/evaluate", json=body)


def kept(page: Page, bench: dict[str, Any], recipe: dict[str, Any], action: str) -> dict[str, Any]:
    path = f"/api/photos/{bench['photo']['id']}/revisions"
    answer = page("POST", path, bench["photo"]["version"], json={"recipe": recipe, "action": action})
    assert answer.status_code == 201, answer.get_data(as_text=True)
    made: dict[str, Any] = answer.get_json()
    return made


@pytest.fixture
def filled(bring: Importer, own_page: Page) -> dict[str, Any]:
    """A photo of 375 x 250 whose corners are filled, as the bench sees it."""
    bench = own_page("GET", f"/api/photos/{bring(JPEG).photo_id}").get_json()
    bench["recipe"]["correction"]["by_hand"]["roll"] = 5
    framed = asked(own_page, bench["recipe"], mode="fill").get_json()["after"]
    return kept(own_page, bench, framed["recipe"], framed["action"])


def picture(answer: Any) -> np.ndarray:
    assert answer.status_code == 200
    return np.asarray(Image.open(io.BytesIO(answer.data)))


def test_each_way_has_its_cost_and_its_small_picture(own_page: Page, filled: dict[str, Any]) -> None:
    found = own_page("POST", "/api/edges", json={"recipe": filled["recipe"]}).get_json()["choices"]
    assert [(one["mode"], one["extent"], one["chosen"]) for one in found] == [
        ("trim", None, False),
        ("fill", "as it is", True),
        ("reshape", None, False),
        ("leave", "as it is", False),
        ("fill", "same size", True),
        ("fill", "nothing cut", False),
    ]
    assert filled["evaluation"]["route"]["edges"] == "4.4% new"
    photo = filled["photo"]
    at = f"/api/photos/{photo['id']}/revisions/{photo['revision']}/after.jpg"
    small = {
        mode: picture(own_page("GET", f"{at}?action={json.dumps({'do': 'edges', 'mode': mode})}"))
        for mode in ("trim", "fill", "reshape", "leave")
    }
    corner = {mode: pixels[:6, -6:].astype(int).mean(axis=(0, 1)) for mode, pixels in small.items()}
    assert np.abs(corner["leave"] - 163).max() < 8 and np.abs(corner["fill"] - 163).max() > 20


def test_each_way_where_it_has_most_to_show(own_page: Page, filled: dict[str, Any]) -> None:
    """The corner with most to fill: cropped it ends, left empty it is grey, filled it is neither."""
    photo = filled["photo"]
    at = f"/api/photos/{photo['id']}/revisions/{photo['revision']}/after.jpg"
    small = {
        mode: picture(own_page("GET", f"{at}?corner&action={json.dumps({'do': 'edges', 'mode': mode})}"))
        for mode in ("trim", "fill", "leave")
    }
    grey = {
        mode: float((np.abs(seen.astype(int) - 163).max(axis=-1) < 8).mean()) for mode, seen in small.items()
    }
    assert len({seen.shape for seen in small.values()}) == 1
    assert grey["fill"] < 0.02 < grey["leave"] < grey["trim"]


def test_where_nothing_would_be_empty_the_whole_is_shown(own_page: Page, bring: Importer) -> None:
    photo = own_page("GET", f"/api/photos/{bring(jpeg_bytes(smooth_picture(300, 200))).photo_id}").get_json()[
        "photo"
    ]
    at = f"/api/photos/{photo['id']}/revisions/{photo['revision']}/after.jpg?action="
    action = json.dumps({"do": "edges", "mode": "trim"})
    both = [own_page("GET", f"{at}{action}{more}").data for more in ("", "&corner")]
    assert both[0] == both[1]


def test_what_edges_make_of_a_frame(own_page: Page, filled: dict[str, Any]) -> None:
    recipe = filled["recipe"]
    for ask, action in (
        ({"mode": "trim"}, "Corners: cropped"),
        ({"mode": "leave"}, "Corners: left transparent"),
        ({"mode": "leave", "colour": "#102030"}, "Corners: left in #102030"),
        ({"mode": "fill", "extent": "at most", "share": 0.02}, "Corners: filled, at most 2% empty"),
    ):
        assert asked(own_page, recipe, **ask).get_json()["after"]["action"] == action
    assert asked(own_page, recipe, mode="fill", extent="at most").status_code == 422
    assert asked(own_page, recipe, mode="leave", colour="red").status_code == 422


def test_takes_and_their_pictures(own_page: Page, filled: dict[str, Any]) -> None:
    path = f"/api/photos/{filled['photo']['id']}"
    assert own_page("GET", f"{path}/takes").get_json()["takes"] == []
    answer = own_page("POST", f"{path}/takes", json={"seeds": [1, 2, 3]})
    assert answer.status_code == 202
    found = answer.get_json()
    assert found["made_for"] == filled["evaluation"]["made_for"] and found["notice"] is None
    assert [(take["seed"], take["state"]) for take in found["takes"]] == [
        (1, "done"),
        (2, "done"),
        (3, "done"),
    ]
    take = found["takes"][1]
    part = take["parts"][0]
    laid = picture(own_page("GET", f"/api/patches/{part['sha256']}/1.png"))
    assert laid.shape == (part["box"][3] + 8, part["box"][2] + 8, 4)
    for name in ("all", part["part"]):
        assert picture(own_page("GET", f"{path}/takes/{take['id']}/small-{name}.jpg")).shape[1] > 50
    # A page may ask for the first look just when the take is done.
    assert picture(own_page("GET", f"{path}/takes/{take['id']}/first-look-0.png")).shape[2] == 4
    for missing in (
        f"{path}/takes/{take['id']}/small-nowhere.jpg",
        f"{path}/takes/{take['id']}/first-look-9.png",
        f"{path}/takes/999999/small-all.jpg",
        f"/api/patches/{'0' * 64}/99.png",
        "/api/patches/none/1.png",
    ):
        assert own_page("GET", missing).status_code == 404
    assert own_page("GET", f"/api/patches/{'0' * 64}/1.png").status_code == 410
    listed = kept(own_page, filled, filled["recipe"], "Take 1 in every corner")
    assert [patch["seed"] for patch in listed["recipe"]["edges"]["patches"]] == [1, 1, 1, 1]


def test_a_take_that_is_done_or_unknown_cannot_be_stopped(own_page: Page, filled: dict[str, Any]) -> None:
    path = f"/api/photos/{filled['photo']['id']}/takes"
    take = own_page("POST", path, json={"seeds": [1]}).get_json()["takes"][0]
    assert own_page("DELETE", f"{path}/{take['id']}").get_json()["takes"][0]["state"] == "done"
    assert own_page("DELETE", f"{path}/999999").status_code == 404


@pytest.mark.parametrize("seeds", [[], [0], [-1], [1] * 25, ["x"]])
def test_takes_that_cannot_be_asked_for(own_page: Page, filled: dict[str, Any], seeds: list[Any]) -> None:
    path = f"/api/photos/{filled['photo']['id']}/takes"
    assert own_page("POST", path, json={"seeds": seeds}).status_code == 422


def test_without_redis_the_takes_wait_and_it_is_said(
    app: APIFlask, own_page: Page, filled: dict[str, Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    def gone(photo_id: int, key: str) -> None:
        raise BackgroundGoneError("the background service (Redis) does not answer")

    monkeypatch.setattr(app.extensions["sequor"].queue, "make_takes", gone)
    path = f"/api/photos/{filled['photo']['id']}/takes"
    answer = own_page("POST", path, json={"seeds": [1, 2]})
    assert answer.status_code == 202 and "does not answer" in answer.get_json()["notice"]
    assert [take["state"] for take in answer.get_json()["takes"]] == ["waiting", "waiting"]
    monkeypatch.undo()
    again = own_page("POST", path, json={"seeds": [1, 2]}).get_json()
    assert [take["state"] for take in again["takes"]] == ["done", "done"] and again["notice"] is None


def test_the_export_and_the_mask_of_what_is_new(own_page: Page, filled: dict[str, Any]) -> None:
    path = f"/api/photos/{filled['photo']['id']}/exports"
    settings = {"format": "png", "quality": 95, "size": None}
    job = finished(own_page, own_page("POST", path, json={"export": settings}).get_json())
    assert job["state"] == "done" and job["filled"] == pytest.approx(0.0437, abs=2e-3)
    mask = picture(own_page("GET", f"/api/jobs/{job['id']}/mask"))
    file = picture(own_page("GET", f"/api/jobs/{job['id']}/file"))
    assert mask.shape == file.shape[:2] and set(np.unique(mask)) == {0, 255}
    assert (mask > 0).mean() == pytest.approx(job["filled"], abs=1e-9)
    header = own_page("GET", f"/api/jobs/{job['id']}/mask").headers["Content-Disposition"]
    assert "photo-level-new.png" in header
    trimmed = asked(own_page, filled["recipe"], mode="trim").get_json()["after"]["recipe"]
    kept(own_page, filled, trimmed, "Corners: cropped")
    job = finished(own_page, own_page("POST", path, json={"export": settings}).get_json())
    assert job["filled"] == 0 and own_page("GET", f"/api/jobs/{job['id']}/mask").status_code == 409


def test_a_jpeg_with_clear_corners_is_refused(own_page: Page, filled: dict[str, Any]) -> None:
    clear = asked(own_page, filled["recipe"], mode="leave").get_json()["after"]["recipe"]
    kept(own_page, filled, clear, "Corners: left transparent")
    settings = {"format": "jpeg", "quality": 95, "size": None}
    path = f"/api/photos/{filled['photo']['id']}/exports"
    answer = own_page("POST", path, json={"export": settings})
    assert answer.status_code == 422 and "cannot have transparent corners" in answer.get_json()["detail"]
