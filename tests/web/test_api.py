"""The interface over HTTP: statuses, versions, problem documents."""

from __future__ import annotations

import base64
import io
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from clients import Importer, Page, finished, waited
from pictures import camera_exif, horizon_picture, jpeg_bytes, line, recipe, smooth_picture
from PIL import Image

from sequor.operations.rendering import TILE
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.parse import build

PICTURE = smooth_picture(600, 400)
JPEG = jpeg_bytes(PICTURE, exif=camera_exif(gps=True))
RISING = line("r1", "level", (20, 200), (580, 176))


def send(own_page: Page, content: bytes, name: str = "photo.jpg") -> dict[str, Any]:
    answer = own_page(
        "POST", f"/api/imports?name={name}", data=content, content_type="application/octet-stream"
    )
    assert answer.status_code == 202
    return finished(own_page, answer.get_json())


@pytest.fixture
def photo(bring: Importer, own_page: Page) -> dict[str, Any]:
    """A fresh photo as the bench sees it."""
    return own_page("GET", f"/api/photos/{bring(JPEG).photo_id}").get_json()


def laid(bench: dict[str, Any], *lines: dict[str, Any]) -> dict[str, Any]:
    made = {**bench["recipe"], "references": list(lines)}
    made["correction"] = {**made["correction"], "roll": None, "pitch": None, "yaw": None}
    return made


def keep(
    own_page: Page, bench: dict[str, Any], made: dict[str, Any], action: str = "Line 1: drawn, horizontal"
) -> Any:
    path = f"/api/photos/{bench['photo']['id']}/revisions"
    return own_page("POST", path, bench["photo"]["version"], json={"recipe": made, "action": action})


def act(own_page: Page, bench: dict[str, Any], **action: Any) -> Any:
    path = f"/api/photos/{bench['photo']['id']}/revise"
    return own_page("POST", path, bench["photo"]["version"], json=action)


def test_what_cannot_be_done_as_asked_is_told_and_nothing_is_stored(
    own_page: Page, photo: dict[str, Any]
) -> None:
    marked = act(own_page, photo, do="subject", mark=[[4, 4]]).get_json()
    asked = {"do": "place", "what": "subject", "across": 2 / 3, "lines": []}
    told = act(own_page, marked, **asked).get_json()
    assert not told["done"] and told["words"].startswith("This cannot be done exactly")
    assert (told["photo"]["version"], told["recipe"]) == (marked["photo"]["version"], marked["recipe"])
    near = act(own_page, told, **asked, nearest=True).get_json()
    assert near["done"] and near["photo"]["version"] == told["photo"]["version"] + 1
    assert near["action"].endswith("nearest possible")


def test_an_action_is_looked_at_without_being_kept(own_page: Page, photo: dict[str, Any]) -> None:
    """A frame that was drawn follows the angle, as it does when the action is kept."""
    framed = act(own_page, photo, do="frame", rect=[100, 100, 300, 200]).get_json()
    turn = {"do": "take out", "angle": "roll", "degrees": 3}
    look = own_page(
        "POST", "/api/evaluate", json={"recipe": framed["recipe"], "action": turn, "after": True}
    ).get_json()
    assert look["after"]["action"] == "Tilt: adjusted by hand" and look["after"]["done"]
    assert act(own_page, framed, **turn).get_json()["recipe"] == look["after"]["recipe"]
    assert look["after"]["recipe"]["frame"]["rect"][:2] != [100, 100]


def test_an_action_is_refused_in_words_and_with_its_field(own_page: Page, photo: dict[str, Any]) -> None:
    for action, words in (
        ({"do": "dance"}, "do"),
        ({"do": "delete line", "line": "r9"}, "not there any more"),
        ({"do": "weight", "line": "r9", "weight": 99}, "less than or equal to 10"),
        ({"do": "take", "seed": 3}, "is not ready"),
    ):
        answer = act(own_page, photo, **action)
        assert answer.status_code == 422 and answer.content_type == "application/problem+json"
        assert words in answer.get_json()["detail"]
    stale = {**photo, "photo": {**photo["photo"], "version": 7}}
    assert act(own_page, stale, do="clear lines").status_code == 412


def test_import_in_a_child_process(own_page: Page, store: Any) -> None:
    job = send(own_page, JPEG, "wendlow_shore.jpg")
    assert (job["state"], job["known"], job["progress"]) == ("done", False, 1)
    assert send(own_page, JPEG)["known"]
    (photo,) = own_page("GET", "/api/photos").get_json()["photos"]
    assert (photo["title"], photo["ratio"], photo["state"]) == ("Wendlow shore", "3:2", "not measured")
    assert photo["keeps_place"] and photo["camera"] == "Invented Optics IO-1"


def test_a_refused_file_says_why_and_leaves_nothing(own_page: Page, store: Any) -> None:
    job = send(own_page, JPEG[:-3000])
    assert job["state"] == "failed" and "incomplete or damaged" in job["error"]
    assert own_page("GET", "/api/photos").get_json()["photos"] == []
    assert list(store.work.iterdir()) == [] and list(store.originals.folder.glob("*/*")) == []


def test_a_job_can_be_stopped(own_page: Page, bring: Importer, store: Any) -> None:
    big = bring(jpeg_bytes(np.zeros((5000, 7000, 3), np.uint8), 80))
    answer = own_page("POST", f"/api/photos/{big.photo_id}/exports", json={"export": {"format": "png"}})
    job = answer.get_json()
    stopped = own_page("DELETE", f"/api/jobs/{job['id']}").get_json()
    assert stopped["state"] == "cancelled"
    assert own_page("GET", f"/api/jobs/{job['id']}/file").status_code == 409
    # What had just been begun makes its folder once more, hears that it is not wanted, and removes it.
    waited(lambda: not (store.work / job["id"]).exists())


def test_evaluate_says_all_that_is_true(own_page: Page, photo: dict[str, Any]) -> None:
    answer = own_page("POST", "/api/evaluate", json={"recipe": laid(photo, RISING)}).get_json()
    mesh = np.frombuffer(base64.b64decode(answer["mesh"]["vertices"]), "<f4").reshape(13, 17, 3)
    corners = mesh[[0, 0, -1, -1], [0, -1, -1, 0]]
    assert np.allclose(corners[:, :2] / corners[:, 2:], answer["outline"], atol=1e-3)
    assert answer["lines"][0]["as_taken"] == "drops 2.5° to the left"
    assert answer["angles"][0]["words"] == "to the left"
    assert [angle["sd"] is None for angle in answer["angles"]] == [False, True, True]
    assert answer["offers"] is None and answer["presets"] is None
    assert answer["route"]["lines"] == "1 horizontal"
    assert own_page("GET", f"/api/photos/{photo['photo']['id']}").get_json() == photo


def test_a_lens_makes_a_fine_mesh_and_a_curved_outline(own_page: Page, photo: dict[str, Any]) -> None:
    bent = {**photo["recipe"], "lens": {"source": "manual", "k1": -0.1}}
    answer = own_page("POST", "/api/evaluate", json={"recipe": bent}).get_json()
    assert (answer["mesh"]["columns"], answer["mesh"]["rows"], len(answer["outline"])) == (64, 48, 384)
    assert answer["route"]["lens"] == "by hand"
    assert answer["lens"]["k1_percent"] == pytest.approx(-10)
    tile = f"/api/photos/{photo['photo']['id']}/tiles/{answer['map']}/0/0.jpg"
    assert own_page("GET", tile).mimetype == "image/jpeg"


def test_profiles_for_a_photo(own_page: Page, photo: dict[str, Any], bring: Importer) -> None:
    path = f"/api/photos/{photo['photo']['id']}/profiles"
    found = own_page("GET", path).get_json()
    (profile,) = found["profiles"]
    assert found["sure"] and profile["profile"]["lens"] == "Invented Optics IO 12-33mm"
    kept = keep(own_page, photo, {**photo["recipe"], "lens": profile}, "Lens: profile")
    assert kept.status_code == 201
    assert kept.get_json()["evaluation"]["route"]["lens"] == "profile: IO 12-33mm"
    nameless = bring(jpeg_bytes(smooth_picture(90, 60))).photo_id
    missing = own_page("GET", f"/api/photos/{nameless}/profiles").get_json()
    assert missing["profiles"] == [] and missing["reason"] == "the file does not say which camera took it"
    by_name = own_page("GET", f"/api/photos/{nameless}/profiles?words=io+12-33").get_json()
    assert by_name["profiles"] == []
    assert "no lens named" in by_name["reason"]


def test_what_lies_under_a_still_line(own_page: Page, bring: Importer) -> None:
    """A horizon that rises by 2.0 degrees; half of it taken out by hand, one still line on it and one in the water."""
    tilted = bring(jpeg_bytes(horizon_picture(600, 400, -2.0))).photo_id
    made = own_page("GET", f"/api/photos/{tilted}").get_json()["recipe"]
    made["correction"]["by_hand"] = {"roll": 1.0, "pitch": 0, "yaw": 0}
    lines = [
        {"runs": "level", "ends": [[-50, 201], [650, 201]]},
        {"runs": "upright", "ends": [[300, 390], [300, 250]]},
        {"runs": "level", "ends": [[0, -500], [600, -500]]},
    ]
    words = own_page("POST", f"/api/photos/{tilted}/under", json={"recipe": made, "lines": lines}).get_json()[
        "words"
    ]
    assert words[0] == "Edge: drops 1.00° to the left · as taken: drops 1.00° to the left"
    assert words[1] == "No clear edge here · as taken: leans 1.00° to the left"
    assert words[2] == "Outside the picture"


def test_a_recipe_can_be_had_as_a_file(own_page: Page, photo: dict[str, Any]) -> None:
    answer = own_page("GET", f"/api/photos/{photo['photo']['id']}/recipe")
    assert answer.headers["Content-Disposition"].endswith("filename=photo.sequor.json")
    assert answer.get_json() == photo["recipe"]


def test_revisions_can_be_looked_at(own_page: Page, photo: dict[str, Any], bring: Importer) -> None:
    kept = keep(own_page, photo, laid(photo, RISING)).get_json()
    path = f"/api/photos/{photo['photo']['id']}/revisions"
    second, first, imported = own_page("GET", path).get_json()["revisions"]
    assert (imported["number"], first["number"], second["number"]) == (1, 2, 3)
    assert [imported["action"], second["action"]] == ["Imported", "Line 1: drawn, horizontal"]
    assert first["action"] == "Lens: profile Invented Optics IO 12-33mm, recognised"
    assert (first["current"], second["current"]) == (False, True)
    before = own_page("GET", f"{path}/{first['id']}").get_json()
    assert before["recipe"] == photo["recipe"] and before["evaluation"]["state"] == "not measured"
    assert own_page("GET", f"/api/photos/{photo['photo']['id']}").get_json() == kept
    other = bring(jpeg_bytes(smooth_picture(90, 60))).photo_id
    assert own_page("GET", f"/api/photos/{other}/revisions/{first['id']}").status_code == 404


def test_each_schema_is_written_once(own_page: Page) -> None:
    names = list(own_page("GET", "/api/openapi.json").get_json()["components"]["schemas"])
    assert "Recipe" in names and not [name for name in names if "." in name]


def test_the_mesh_comes_from_the_core(
    own_page: Page, photo: dict[str, Any], stretched_core: Callable[[], None]
) -> None:
    """A term changed in the core moves the preview: nothing else knows the rule."""

    def mesh() -> str:
        return own_page("POST", "/api/evaluate", json={"recipe": laid(photo, RISING)}).get_json()["mesh"][
            "vertices"
        ]

    before = mesh()
    stretched_core()
    assert mesh() != before


def test_choices_come_on_request_and_are_taken_by_their_names(own_page: Page, photo: dict[str, Any]) -> None:
    walls = [line("a", "plumb", (100, 380), (130, 20)), line("b", "plumb", (500, 380), (470, 20))]
    asked = {"recipe": laid(photo, *walls), "choices": True}
    answer = own_page("POST", "/api/evaluate", json=asked).get_json()
    assert [one["name"] for one in answer["presets"]] == [
        "Nothing",
        "Tilt only",
        "Verticals too",
        "Square-on",
    ]
    (offer,) = answer["offers"]
    assert offer["name"] == "ease"
    now = keep(own_page, photo, laid(photo, *walls)).get_json()
    eased = act(own_page, now, do="offer", name="ease", label=offer["choices"][0]["label"]).get_json()
    assert eased["recipe"]["correction"]["amount"]["pitch"] == 0.85
    assert eased["action"] == "Verticals: 85% corrected"
    gone = act(own_page, eased, do="offer", name="ease", label=offer["choices"][0]["label"])
    assert not gone.get_json()["done"] and "no longer applies" in gone.get_json()["words"]
    assert own_page("GET", f"/api/photos/{photo['photo']['id']}").get_json()["recipe"] == eased["recipe"]


def test_a_line_is_snapped_as_it_is_kept(own_page: Page, bring: Importer) -> None:
    bench = own_page(
        "GET", f"/api/photos/{bring(jpeg_bytes(horizon_picture(600, 400, -2.0))).photo_id}"
    ).get_json()
    rough = {"line": "r1", "kind": "slope", "points": [[40, 214], [560, 186]], "snap": True}
    after = act(own_page, bench, do="lay", **rough).get_json()
    assert (after["action"], after["words"], after["done"]) == ("Line 1: drawn, horizontal", "", True)
    assert after["recipe"]["correction"]["roll"] == pytest.approx(2.0, abs=0.02)
    assert after["recipe"]["references"][0]["x-snap"]["laid"] == [[40, 214], [560, 186]]


def test_the_field_book_is_a_file(own_page: Page, photo: dict[str, Any]) -> None:
    keep(own_page, photo, laid(photo, RISING))
    path = f"/api/photos/{photo['photo']['id']}/field-book"
    table = own_page("GET", f"{path}.csv")
    assert table.mimetype == "text/csv" and table.data.startswith(b"number,id,kind")
    assert "photo lines.csv" in table.headers["Content-Disposition"]
    assert own_page("GET", f"{path}.json").get_json()[0]["kind"] == "level"
    assert own_page("GET", f"{path}.xml").status_code == 404


def test_actions_have_versions(own_page: Page, photo: dict[str, Any]) -> None:
    kept = keep(own_page, photo, laid(photo, RISING))
    assert kept.status_code == 201 and kept.get_json()["photo"]["state"] == "level"
    stale = keep(own_page, photo, laid(photo))
    assert stale.status_code == 412 and stale.content_type == "application/problem+json"
    assert "another window" in stale.get_json()["detail"]
    missing = own_page("POST", f"/api/photos/{photo['photo']['id']}/undo")
    assert missing.status_code == 428
    undone = own_page(
        "POST", f"/api/photos/{photo['photo']['id']}/undo", kept.get_json()["photo"]["version"]
    ).get_json()
    assert undone["can_redo"] and undone["recipe"] == photo["recipe"]


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"edges": {"mode": "melt"}}, "edges.mode"),
        ({"frame": {"rect": [0, 0, 9000, 6000]}}, "frame.rect"),
        ({"surprise": 1}, "surprise"),
        ({"export": {"quality": 0}}, "quality"),
    ],
)
def test_recipes_are_refused_with_the_field(
    own_page: Page, photo: dict[str, Any], change: dict[str, Any], field: str
) -> None:
    answer = keep(own_page, photo, {**photo["recipe"], **change})
    assert answer.status_code == 422 and answer.content_type == "application/problem+json"
    assert field in f"{answer.get_json().get('field')} {answer.get_json()['detail']}"


def test_a_step_is_reset_and_the_log_says_so(own_page: Page, photo: dict[str, Any]) -> None:
    kept = keep(own_page, photo, laid(photo, RISING)).get_json()
    path = f"/api/photos/{photo['photo']['id']}/reset"
    after = own_page("POST", path, kept["photo"]["version"], json={"part": "lines"})
    assert after.status_code == 201
    assert after.get_json()["recipe"]["references"] == []
    assert after.get_json()["action"] == "Lines: reset"
    stale = own_page("POST", path, kept["photo"]["version"], json={"part": "all"})
    assert stale.status_code == 412
    unknown = own_page("POST", path, after.get_json()["photo"]["version"], json={"part": "everything"})
    assert unknown.status_code == 422


def test_the_sheet_and_a_place_on_it(own_page: Page, photo: dict[str, Any], bring: Importer) -> None:
    second = bring(jpeg_bytes(smooth_picture(90, 60))).photo_id
    number = photo["photo"]["id"]
    assert own_page("GET", f"/api/photos/{number}/place").get_json() == {
        "before": None,
        "after": second,
        "place": 1,
        "total": 2,
    }
    assert own_page("GET", "/api/sheet").get_json()["total"] == 2
    assert own_page("GET", "/api/photos/999999/place").status_code == 404


def test_titles_removal_and_undo(own_page: Page, photo: dict[str, Any]) -> None:
    path = f"/api/photos/{photo['photo']['id']}"
    renamed = own_page("PATCH", path, 0, json={"title": "  Jetty "})
    assert renamed.get_json()["title"] == "Jetty"
    assert own_page("PATCH", path, 1, json={"title": "  "}).status_code == 422
    assert own_page("DELETE", path).status_code == 428
    assert own_page("DELETE", path, 0).status_code == 412
    assert own_page("DELETE", path, 1).status_code == 204
    assert own_page("GET", path).status_code == 404
    assert own_page("POST", f"{path}/restore").get_json()["title"] == "Jetty"


def test_tiles_are_the_export(own_page: Page, photo: dict[str, Any]) -> None:
    """The pixels under the magnifier are those that an export of the same recipe has."""
    answer = own_page("POST", "/api/evaluate", json={"recipe": laid(photo, RISING)}).get_json()
    tile = own_page("GET", f"/api/photos/{photo['photo']['id']}/tiles/{answer['map']}/1/0.jpg")
    assert tile.status_code == 200 and "immutable" in tile.headers["Cache-Control"]
    seen = np.asarray(Image.open(io.BytesIO(tile.data)))
    assert seen.shape == (TILE, TILE, 3)
    from sequor.core.raster.resample import resample

    the_map = evaluate(build(laid(photo, RISING))).warp
    decoded = np.asarray(Image.open(io.BytesIO(JPEG)).convert("RGB"))
    expected = resample(decoded, the_map, TILE, 0, TILE, TILE, background=(163, 163, 163))
    assert np.abs(seen.astype(int) - expected).mean() < 1.5


@pytest.mark.parametrize(
    "path",
    [
        "tiles/nonsense/0/0.jpg",
        "tiles/%00%ff/0/0.jpg",
        "screen/777-0.jpg",
        "screen/640-9.jpg",
        "thumbnail/x.jpg",
    ],
)
def test_nonsense_addresses_are_refused(own_page: Page, photo: dict[str, Any], path: str) -> None:
    answer = own_page("GET", f"/api/photos/{photo['photo']['id']}/{path}")
    assert answer.status_code in (404, 422) and answer.content_type == "application/problem+json"


def test_export_and_download(own_page: Page, photo: dict[str, Any]) -> None:
    keep(own_page, photo, laid(photo, RISING))
    settings = {"export": {"format": "jpeg", "quality": 90}}
    job = own_page("POST", f"/api/photos/{photo['photo']['id']}/exports", json=settings).get_json()
    assert finished(own_page, job)["state"] == "done"
    file = own_page("GET", f"/api/jobs/{job['id']}/file")
    assert "filename=photo-level.jpg" in file.headers["Content-Disposition"]
    image = Image.open(io.BytesIO(file.data))
    expected = evaluate(build(recipe(600, 400, references=[RISING]))).frame
    assert image.size == (round(expected.width), round(expected.height))


def test_a_missing_original_is_said(own_page: Page, photo: dict[str, Any], store: Any) -> None:
    for file in store.originals.folder.glob("*/*"):
        file.unlink()
    answer = own_page("POST", f"/api/photos/{photo['photo']['id']}/exports", json={"export": {}})
    assert answer.status_code == 410 and "import the photo again" in answer.get_json()["detail"]
