"""Many photos at once on the command line: written where it is sure, left where not, and nothing done twice."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from pictures import DEMO, image_bytes
from PIL import Image
from skimage import data

from sequor.cli import main
from sequor.operations import batching
from sequor.operations.batching import Came, Wish, batch, photos_in

WISH = Wish("walls", 0.5, None, None)


@pytest.fixture
def card(tmp_path: Path) -> Path:
    """A folder as it comes from a card: a photo that is sure, one that tells nothing, one that is damaged, one of the same
    name in a folder of its own, and something that is no photo."""
    card = tmp_path / "card"
    (card / "second day").mkdir(parents=True)
    with Image.open(DEMO / "wendlow_mill.jpg") as mill:
        mill.reduce(2).save(card / "one.jpg", quality=92, exif=mill.getexif().tobytes())
    grass = image_bytes(Image.fromarray(np.asarray(data.grass())), "PNG")
    (card / "grass.png").write_bytes(grass)
    (card / "second day" / "one.png").write_bytes(grass)
    (card / "torn.jpg").write_bytes((DEMO / "wendlow_mill.jpg").read_bytes()[:40_000])
    (card / "notes.txt").write_text("by the mill")
    (card / ".hidden.png").write_bytes(grass)
    return card


def ran(capsys: pytest.CaptureFixture[str], *arguments: str) -> tuple[int, list[dict[str, Any]]]:
    """The exit status and the lines of a run."""
    status = main(["batch", *arguments])
    return status, [json.loads(line) for line in capsys.readouterr().out.splitlines()]


def test_what_is_sure_is_written_and_the_rest_is_said(
    card: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = tmp_path / "out"
    status, lines = ran(
        capsys, str(card), "--out", str(out), "--take", "walls", "--format", "png", "--workers", "2"
    )
    assert status == 2
    *each, last = lines
    by_name = {Path(line["photo"]).relative_to(card).as_posix(): line for line in each}
    assert set(by_name) == {"one.jpg", "grass.png", "second day/one.png", "torn.jpg"}
    assert by_name["one.jpg"]["state"] == "written" and by_name["one.jpg"]["confidence"] > 0.8
    assert by_name["grass.png"]["state"] == by_name["second day/one.png"]["state"] == "left"
    assert "Draw a line" in by_name["grass.png"]["reason"]
    assert by_name["torn.jpg"]["state"] == "failed" and by_name["torn.jpg"]["reason"]
    assert (last["written"], last["left"], last["failed"]) == (1, 2, 1)
    assert [file.name for file in out.iterdir() if not file.name.startswith(".")] == ["one.png"]
    with Image.open(out / "one.png") as written:
        assert min(written.size) > 500


def test_the_same_once_more_does_only_what_is_not_done(card: Path, tmp_path: Path) -> None:
    out = tmp_path / "out"
    (first,) = batch([card / "one.jpg"], out, WISH, 1)
    assert first.out is not None
    file = Path(first.out)
    written = file.stat().st_mtime_ns
    (again,) = batch([card / "one.jpg"], out, WISH, 1)
    assert (again.state, again.reason, file.stat().st_mtime_ns) == ("written", "already there", written)
    file.unlink()
    (made,) = batch([card / "one.jpg"], out, WISH, 1)
    assert made.reason is None and file.is_file()
    with (out / batching.NOTES).open("a") as notes:
        notes.write('{"file": "one.jp')
    (other,) = batch([card / "one.jpg"], out, Wish("tilt", 0.5, None, None), 1)
    assert other.reason is None


def test_a_recipe_beside_the_photo_goes_before_what_is_found(
    card: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    photo = card / "one.jpg"
    assert main(["look", "--take", "tilt", "--write", str(photo)]) == 0
    capsys.readouterr()
    (came,) = batch([photo], tmp_path / "out", Wish("walls", 1.0, None, "png"), 1)
    assert (came.state, came.confidence) == ("written", None)


def test_ratio_edges_and_export_come_from_a_recipe(
    card: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    recipe = {
        "format": "sequor-recipe",
        "version": 1,
        "photo": {"width": 100, "height": 100, "focal_35mm": None},
        "frame": {"ratio": "1:1"},
        "export": {"format": "webp"},
    }
    (tmp_path / "square.json").write_text(json.dumps(recipe))
    status, (line, _) = ran(
        capsys,
        str(card / "one.jpg"),
        "--out",
        str(tmp_path / "out"),
        "--recipe",
        str(tmp_path / "square.json"),
    )
    assert status == 0 and line["out"].endswith("one.webp")
    with Image.open(line["out"]) as written:
        assert abs(written.width - written.height) <= 1


def test_what_cannot_be_begun_is_said(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    (tmp_path / "file").write_text("")
    assert main(["batch", str(tmp_path), "--out", str(tmp_path / "file" / "out")]) == 2
    assert main(["batch", str(tmp_path), "--out", str(tmp_path / "out"), "--format", "gif"]) == 2
    assert (
        main(["batch", str(tmp_path), "--out", str(tmp_path / "out"), "--recipe", str(tmp_path / "none")])
        == 2
    )
    assert capsys.readouterr().err.count("sequor batch:") == 3


def dies(photo: Path, out: Path, name: str, wish: Wish, done: dict[str, str]) -> Came:
    """Ends its process over one photo."""
    if photo.name == "torn.jpg":
        os._exit(1)
    return Came(str(photo), "left", reason="seen")


def test_a_process_that_dies_takes_its_photo_and_no_other(
    card: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(batching, "one", dies)
    came = {Path(one.photo).name: one for one in batch(photos_in([card]), tmp_path / "out", WISH, 2)}
    assert came["torn.jpg"].state == "failed" and "ended while" in (came["torn.jpg"].reason or "")
    assert came["grass.png"].state == came["one.jpg"].state == "left" and came["one.png"].state == "left"


def test_a_folder_and_its_own_photo_are_done_once(card: Path) -> None:
    assert len(photos_in([card, card / "one.jpg", card])) == 4
