"""Frames, costs, ratios, versions and the way back over HTTP."""

from __future__ import annotations

import io
import zipfile
from typing import Any

import pytest
from clients import Importer, Page, finished
from pictures import camera_exif, jpeg_bytes, line, recipe, smooth_picture
from PIL import Image

JPEG = jpeg_bytes(smooth_picture(600, 400), exif=camera_exif())
RISING = line("r1", "level", (20, 200), (580, 176))
LEVEL = recipe(600, 400, references=[RISING], frame={"subject": [200, 150, 60, 40]})


@pytest.fixture
def photo(bring: Importer, own_page: Page) -> dict[str, Any]:
    """A fresh photo as the bench sees it."""
    return own_page("GET", f"/api/photos/{bring(JPEG).photo_id}").get_json()


def framed(own_page: Page, **ask: Any) -> Any:
    return own_page("POST", "/api/evaluate", json={"recipe": LEVEL, "action": ask, "after": True})


def kept(own_page: Page, bench: dict[str, Any], made: dict[str, Any], action: str) -> dict[str, Any]:
    path = f"/api/photos/{bench['photo']['id']}/revisions"
    answer = own_page("POST", path, bench["photo"]["version"], json={"recipe": made, "action": action})
    assert answer.status_code == 201
    return answer.get_json()


@pytest.mark.parametrize(
    ("ask", "action"),
    [
        ({"do": "ratio", "ratio": "13.6 x 9.9"}, "Aspect ratio: 13.6:9.9"),
        ({"do": "ratio", "ratio": "free"}, "Aspect ratio: free"),
        ({"do": "swap"}, "Orientation: portrait"),
        ({"do": "around"}, "Frame: around the subject"),
        ({"do": "centre"}, "Frame: centred"),
        ({"do": "empty", "allow": True}, "Empty corners: allowed"),
        (
            {"do": "place", "what": "subject", "across": 1 / 3, "down": 1 / 3},
            "Subject: on the left and upper thirds",
        ),
        (
            {"do": "place", "what": "level", "lines": ["r1"], "down": 0.5},
            "Horizon: on the horizontal centre line",
        ),
    ],
)
def test_what_is_done_to_a_frame(own_page: Page, ask: dict[str, Any], action: str) -> None:
    answer = framed(own_page, **ask)
    assert answer.status_code == 200
    made = answer.get_json()["after"]
    assert (made["action"], made["done"]) == (action, True)


@pytest.mark.parametrize(
    ("ask", "words"),
    [
        ({"do": "ratio", "ratio": "wide"}, "“wide” is not an aspect ratio. Type width and height"),
        ({"do": "paper shape"}, "Choose a paper size first"),
        ({"do": "place", "what": "plumb", "across": 0.5}, "Choose two verticals"),
        ({"do": "place", "what": "subject", "across": 1.5}, "less than 1"),
        ({"do": "dance"}, ""),
    ],
)
def test_what_cannot_be_done_is_said(own_page: Page, ask: dict[str, Any], words: str) -> None:
    answer = framed(own_page, **ask)
    assert answer.status_code == 422 and answer.content_type == "application/problem+json"
    assert words in answer.get_json()["detail"]


def test_costs_are_those_of_the_frames_they_lead_to(own_page: Page) -> None:
    rows = own_page("POST", "/api/costs", json={"recipe": LEVEL}).get_json()["rows"]
    assert [one["edges"] for one in rows] == ["trim", "trim free", "same size", "nothing cut"]
    for one in rows:
        seen = framed(own_page, do="framing", turn=one["turn"], edges=one["edges"]).get_json()["frame"]
        assert (seen["width"], seen["height"]) == (one["width"], one["height"])


def test_the_frame_over_the_wire(own_page: Page) -> None:
    made = {**LEVEL, "frame": {**LEVEL["frame"], "print": {"paper": [297, 210]}}}
    frame = own_page("POST", "/api/evaluate", json={"recipe": made}).get_json()["frame"]
    assert frame["shape"] == 1.5 and frame["subject_inside"] is True and len(frame["subject"]) == 4
    printed = frame["printed"]
    assert (printed["paper"], printed["coarse"]) == ("A4", True)
    assert (
        printed["cut"] == pytest.approx(1 - 297 / 210 / 1.5, abs=2e-3) and "cuts off" in printed["cut_words"]
    )
    free = {**LEVEL, "frame": {"ratio": "free"}}
    assert own_page("POST", "/api/evaluate", json={"recipe": free}).get_json()["frame"]["shape"] is None


def test_shapes_that_are_offered(own_page: Page) -> None:
    shapes = own_page("GET", "/api/shapes").get_json()
    assert {"1:1", "3:2", "4:3", "5:4", "7:5", "16:9", "2:1", "sqrt2:1", "golden:1"} == {
        one["ratio"] for one in shapes["ratios"]
    }
    assert {"A2", "A3", "A4", "A5", "A6"} <= {one["label"] for one in shapes["papers"]}
    assert {one["unit"] for one in shapes["papers"]} == {"mm", "cm", "in"}


def test_own_ratios_over_the_wire(own_page: Page) -> None:
    one = own_page("POST", "/api/ratios", json={"name": " album ", "ratio": "13,6 x 9,9"})
    assert (
        one.status_code == 201 and one.get_json()["ratio"] == "13.6:9.9" and one.get_json()["name"] == "album"
    )
    assert own_page("POST", "/api/ratios", json={"name": "x", "ratio": "so"}).status_code == 422
    assert len(own_page("GET", "/api/ratios").get_json()["ratios"]) == 1
    assert own_page("DELETE", f"/api/ratios/{one.get_json()['id']}").status_code == 204
    gone = own_page("DELETE", f"/api/ratios/{one.get_json()['id']}")
    assert gone.status_code == 404 and gone.content_type == "application/problem+json"


def test_versions_return_and_a_file_of_all(own_page: Page, photo: dict[str, Any]) -> None:
    path = f"/api/photos/{photo['photo']['id']}"
    level = kept(own_page, photo, {**LEVEL, "photo": photo["recipe"]["photo"]}, "Line 1: drawn, horizontal")
    version = level["photo"]["version"]
    answer = own_page("POST", f"{path}/versions", version, json={"name": "wide for the page"})
    wide = answer.get_json()["versions"][0]
    assert answer.status_code == 201 and wide["ratio"] == "3:2"
    level["photo"]["version"] = answer.get_json()["version"]
    taken = own_page(
        "POST", f"{path}/versions", level["photo"]["version"], json={"name": "wide for the page"}
    )
    assert taken.status_code == 409 and "Choose another name" in taken.get_json()["detail"]
    square = {**level["recipe"], "frame": {**level["recipe"]["frame"], "ratio": "1:1"}}
    after = kept(own_page, level, square, "Aspect ratio: 1:1")
    both = own_page(
        "POST", f"{path}/versions", after["photo"]["version"], json={"name": "square for the wall"}
    ).get_json()
    wall = both["versions"][1]
    assert wall["width"] == wall["height"]
    assert own_page("GET", "/api/photos").get_json()["photos"][0]["versions"] == [
        "wide for the page",
        "square for the wall",
    ]

    job = own_page(
        "POST",
        f"{path}/exports",
        json={"export": {}, "versions": [wide["id"], wall["id"]], "now": False},
    ).get_json()
    assert finished(own_page, job)["state"] == "done"
    with zipfile.ZipFile(io.BytesIO(own_page("GET", f"/api/jobs/{job['id']}/file").data)) as together:
        sizes = {name: Image.open(io.BytesIO(together.read(name))).size for name in together.namelist()}
    assert list(sizes) == ["photo wide for the page.jpg", "photo square for the wall.jpg"]
    assert sizes["photo square for the wall.jpg"] == (wall["width"], wall["height"])

    back = own_page(
        "POST", f"{path}/revisions/{level['photo']['revision']}/return", both["version"]
    ).get_json()
    assert back["recipe"]["frame"]["ratio"] == "original" and back["action"].startswith("Went back to: ")
    thumbnails = [
        own_page("GET", f"{path}/thumbnail/{one}.jpg")
        for one in (level["photo"]["revision"], wall["revision"])
    ]
    first, second = (Image.open(io.BytesIO(one.data)) for one in thumbnails)
    assert first.width / first.height == pytest.approx(1.5, abs=0.02) and second.width == second.height

    version = back["photo"]["version"]
    assert own_page("DELETE", f"{path}/versions/{wall['id']}", version - 1).status_code == 412
    assert len(own_page("DELETE", f"{path}/versions/{wall['id']}", version).get_json()["versions"]) == 1
    gone = own_page("POST", f"{path}/exports", json={"export": {}, "versions": [wall["id"]]})
    assert gone.status_code == 404 and "choose again" in gone.get_json()["detail"]
    assert own_page("POST", f"{path}/versions/{wall['id']}/restore", version + 1).status_code == 200
    brought = own_page("PUT", f"{path}/versions/{wall['id']}", version + 2).get_json()
    assert brought["versions"][1]["ratio"] == "3:2"


def test_a_size_that_does_not_belong_is_told_before_it_is_stored(
    own_page: Page, photo: dict[str, Any]
) -> None:
    made = {**photo["recipe"], "export": {**photo["recipe"]["export"], "size": "print"}}
    path = f"/api/photos/{photo['photo']['id']}/revisions"
    answer = own_page("POST", path, photo["photo"]["version"], json={"recipe": made, "action": "x"})
    assert answer.status_code == 422 and "no paper is chosen" in answer.get_json()["detail"]
