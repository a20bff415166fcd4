"""The command line: documents on standard output, status 2 on errors, never a traceback."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from pictures import camera_exif, jpeg_bytes, line, recipe, smooth_picture
from PIL import Image

from sequor.cli import main

RISING = line("r1", "level", (10, 120), (350, 106))


@pytest.fixture
def here(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A folder with a photo and a recipe for it."""
    monkeypatch.chdir(tmp_path)
    (tmp_path / "photo.jpg").write_bytes(jpeg_bytes(smooth_picture(360, 240), exif=camera_exif()))
    write("good.json", recipe(360, 240, references=[RISING]))
    return tmp_path


def write(name: str, document: object) -> None:
    Path(name).write_text(document if isinstance(document, str) else json.dumps(document))


def run(capsys: pytest.CaptureFixture[str], *arguments: str) -> tuple[int, list[dict[str, Any]], str]:
    status = main(arguments)
    out, err = capsys.readouterr()
    return status, [json.loads(text) for text in out.splitlines()], err


def test_a_bad_recipe_gets_its_line_and_the_others_go_on(
    here: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    write("broken.json", "{")
    write("unbuilt.json", recipe(edges={"mode": "fill"}))
    names = ["broken.json", "good.json", "absent.json", "unbuilt.json"]
    status, lines, err = run(capsys, "solve", *names)
    assert status == 2 and err == ""
    assert [document["recipe"] for document in lines] == names
    assert [set(document) == {"recipe", "error", "field"} for document in lines] == [True, False, True, True]
    assert lines[3]["field"] == "edges.mode"
    assert lines[1]["roll"] == pytest.approx(2.3578, abs=1e-3)


def test_solve_writes_the_angles_and_nothing_else(here: Path, capsys: pytest.CaptureFixture[str]) -> None:
    write("good.json", recipe(360, 240, references=[RISING], **{"x-note": "mine"}))
    before = json.loads(Path("good.json").read_text())
    status, (document,), _ = run(capsys, "solve", "--write", "good.json")
    after = json.loads(Path("good.json").read_text())
    angles = {key: after["correction"].pop(key) for key in ("roll", "pitch", "yaw")}
    assert status == 0 and after == before
    assert angles == {"roll": pytest.approx(document["roll"]), "pitch": 0, "yaw": 0}
    assert sorted(path.name for path in here.iterdir()) == ["good.json", "photo.jpg"]


def test_apply_writes_the_picture_and_keeps_the_recipe(
    here: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    before = Path("good.json").read_bytes()
    status, (document,), _ = run(capsys, "apply", "good.json", "photo.jpg", "out.png")
    with Image.open("out.png") as image:
        assert status == 0 and image.size == (document["width"], document["height"])
    assert Path("good.json").read_bytes() == before
    status, (info,), _ = run(capsys, "info", "out.png")
    assert (info["width"], info["height"], info["model"]) == (*image.size, "IO-1")


@pytest.mark.parametrize(
    ("change", "photo", "out", "words"),
    [
        ({"photo": {"width": 361, "height": 240}}, "photo.jpg", "out.jpg", "360 × 240"),
        ({"export": {"format": "jpeg"}}, "photo.jpg", "out.png", "disagree"),
        ({}, "photo.jpg", "out.gif", "must end in"),
        ({}, "absent.jpg", "out.jpg", "no file"),
        ({}, "good.json", "out.jpg", "not a picture"),
        ({}, "photo.jpg", "nowhere/out.jpg", "no folder"),
        ({}, "photo.jpg", "photo.jpg", "never overwritten"),
    ],
)
def test_apply_refuses_with_a_reason(
    here: Path, capsys: pytest.CaptureFixture[str], change: dict[str, Any], photo: str, out: str, words: str
) -> None:
    original = Path("photo.jpg").read_bytes()
    write("made.json", recipe(360, 240, **change))
    status, (document,), _ = run(capsys, "apply", "made.json", photo, out)
    assert status == 2 and words in document["error"]
    assert Path("photo.jpg").read_bytes() == original and not Path("out.jpg").exists()


def test_another_file_of_the_same_size_goes_on_with_a_word(
    here: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    write("made.json", recipe(360, 240, photo={"width": 360, "height": 240, "sha256": "0" * 64}))
    status, _, err = run(capsys, "apply", "made.json", "photo.jpg", "out.jpg")
    assert status == 0 and "not the file this recipe was made for" in err


def test_info(here: Path, capsys: pytest.CaptureFixture[str]) -> None:
    status, (document,), _ = run(capsys, "info", "photo.jpg")
    assert status == 0
    assert list(document) == [
        "width", "height", "make", "model", "lens", "focal_mm", "focal_35mm", "focal_px", "profile", "bits", "sha256",
    ]  # fmt: skip
    assert (document["focal_mm"], document["focal_35mm"], document["lens"]) == (20.5, 31, None)
    status, (document,), _ = run(capsys, "info", "absent.jpg")
    assert status == 2 and "no file" in document["error"]


def test_schema_is_printed(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["schema"]) == 0
    assert json.loads(capsys.readouterr().out)["title"] == "Sequor recipe"
