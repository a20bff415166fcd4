"""The command line: documents on standard output, status 2 on errors, never a traceback."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from pictures import camera_exif, horizon_picture, jpeg_bytes, line, recipe, smooth_picture
from PIL import Image

from sequor.cli import main
from sequor.core.fill.parts import parts
from sequor.core.raster.resample import resample
from sequor.imaging.patches import write_patch
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.parse import build
from sequor.store.files import content_hash

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
    write("unheard.json", recipe(edges={"mode": "melt"}))
    names = ["broken.json", "good.json", "absent.json", "unheard.json"]
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
    Path("photo.sequor.json").write_bytes(before)
    status, _, _ = run(capsys, "apply", "-", "photo.jpg", "beside.png")
    assert status == 0 and Path("beside.png").read_bytes()[-2000:] == Path("out.png").read_bytes()[-2000:]
    status, (info,), _ = run(capsys, "info", "out.png")
    assert (info["width"], info["height"], info["model"]) == (*image.size, "IO-1")


@pytest.mark.parametrize(
    ("change", "photo", "out", "words"),
    [
        ({"photo": {"width": 361, "height": 240}}, "photo.jpg", "out.jpg", "360 × 240"),
        ({"export": {"format": "jpeg"}}, "photo.jpg", "out.png", "disagree"),
        ({}, "photo.jpg", "out.gif", "must end in"),
        ({}, "absent.jpg", "out.jpg", "no file"),
        ({}, "good.json", "out.jpg", "cannot be read as a picture"),
        ({}, "photo.jpg", "nowhere/out.jpg", "The folder nowhere does not exist"),
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
    assert status == 0 and "not the file the recipe was made for" in err


def test_snap_prints_what_it_found_and_writes_only_that(
    here: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    Path("edge.jpg").write_bytes(jpeg_bytes(horizon_picture(600, 400, -2.0)))
    rough = line("r1", "level", (40, 214), (560, 186), **{"x-note": "mine"})
    sky = line("r2", "witness", (50, 40), (500, 60))
    write("rough.json", recipe(600, 400, references=[rough, sky]))
    before = json.loads(Path("rough.json").read_text())
    status, (document,), _ = run(capsys, "snap", "rough.json", "edge.jpg")
    assert status == 0 and json.loads(Path("rough.json").read_text()) == before
    found, refused = document["references"]
    assert list(found) == ["id", "points", "sigma_px", "clarity", "moved_px"]
    assert refused == {"id": "r2", "refused": "there is no edge along most of the line"}
    run(capsys, "snap", "--write", "rough.json", "edge.jpg")
    after = json.loads(Path("rough.json").read_text())
    assert after["references"][0].pop("points") == found["points"]
    assert after["references"][0].pop("sigma_px") == found["sigma_px"]
    before["references"][0].pop("points")
    assert after == before
    status, (solved,), _ = run(capsys, "solve", "rough.json")
    assert solved["roll"] == pytest.approx(2.0, abs=0.05)


@pytest.mark.parametrize(
    ("size", "photo", "words"),
    [((361, 240), "photo.jpg", "360 × 240"), ((360, 240), "absent.jpg", "no file")],
)
def test_snap_refuses_with_a_reason(
    here: Path, capsys: pytest.CaptureFixture[str], size: tuple[int, int], photo: str, words: str
) -> None:
    write("made.json", recipe(*size, references=[RISING]))
    status, (document,), _ = run(capsys, "snap", "made.json", photo)
    assert status == 2 and words in document["error"]


def test_a_focal_length_that_was_found_is_written(here: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """A square seen from aside and below, focal length 300 px: made by hand from its four rays."""
    corners = [(134.9, 36.6), (237.6, 73.3), (241.3, 168.6), (135.6, 187.8)]
    square = line("w", "rectangle", *corners, shape=[1, 1], sigma_px=0.3)
    free = ["roll", "pitch", "yaw", "focal_px"]
    write("square.json", recipe(360, 240, references=[square], correction={"free": free}))
    status, (document,), _ = run(capsys, "solve", "--write", "square.json")
    assert status == 0 and document["focal_source"] == "lines"
    written = json.loads(Path("square.json").read_text())["correction"]
    assert written["focal_px"] == pytest.approx(document["focal_px"]) and written["yaw"] == pytest.approx(
        document["yaw"]
    )


def test_lines_are_measured_through_the_lens(here: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """An edge at the foot of the picture bowed by k1 = -0.1 reads as straight ends again, longer than it looks."""
    bowed = line("r1", "level", (20, 230), (340, 230))
    write("lens.json", recipe(360, 240, references=[bowed], lens={"source": "manual", "k1": -0.1}))
    _, (document,), _ = run(capsys, "measure", "lens.json")
    (row,) = document["references"]
    assert row["slope_deg"] == pytest.approx(0, abs=1e-9) and row["length_px"] > 340
    beyond = line("r1", "level", (0, 0), (360, 240))
    write("fold.json", recipe(360, 240, references=[beyond], lens={"source": "manual", "k1": -0.4}))
    status, (document,), _ = run(capsys, "measure", "fold.json")
    assert status == 2 and document["field"] == "references.0.points"


def test_solve_writes_the_terms_that_straight_things_tell(
    here: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """A parabola with its ends 12 px lower than its middle: barrel, and after it the edge is straight."""
    xs = [20, 80, 140, 200, 260, 320, 350]
    edge = line("s", "straight", *[(x, 20 + 12 * ((x - 180) / 160) ** 2) for x in xs], sigma_px=0.3)
    write("bent.json", recipe(360, 240, references=[edge], correction={"free": ["roll", "k1"]}))
    status, (document,), _ = run(capsys, "solve", "--write", "bent.json")
    assert status == 0 and document["lens"]["source"] == "straight"
    assert -0.5 < document["lens"]["k1"] < -0.1 and document["sd"]["k1"] < 0.02
    written = json.loads(Path("bent.json").read_text())
    assert written["lens"] == {"source": "straight", "k1": document["lens"]["k1"]}
    status, (again,), _ = run(capsys, "apply", "bent.json", "photo.jpg", "out.jpg")
    assert status == 0 and Image.open("out.jpg").size == (again["width"], again["height"])


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


WIDE = {"allow_empty": True, "rect": [0, 0, 360, 240]}
"""A frame with empty corners."""


def applied(capsys: pytest.CaptureFixture[str], out: str, *options: str) -> tuple[int, dict[str, Any], str]:
    status, (document,), err = run(capsys, "apply", "edges.json", "photo.jpg", out, *options)
    return status, document, err


def test_corners_left_clear_or_in_a_colour(here: Path, capsys: pytest.CaptureFixture[str]) -> None:
    write("edges.json", recipe(360, 240, references=[RISING], frame=WIDE, edges={"mode": "leave"}))
    assert applied(capsys, "clear.png")[0] == 0
    with Image.open("clear.png") as image:
        clear = np.asarray(image)
    assert clear.shape == (240, 360, 4) and set(np.unique(clear[..., 3])) == {0, 255}
    assert (clear[..., 3] == 0).mean() == pytest.approx(0.021, abs=0.005)
    status, document, _ = applied(capsys, "clear.jpg")
    assert status == 2 and document["field"] == "edges.colour"
    green = recipe(360, 240, references=[RISING], frame=WIDE, edges={"mode": "leave", "colour": "#208040"})
    write("edges.json", green)
    assert applied(capsys, "green.png")[0] == 0
    with Image.open("green.png") as image:
        coloured = np.asarray(image)
    assert np.array_equal(np.all(coloured == (32, 128, 64), axis=2), clear[..., 3] == 0)
    assert np.array_equal(coloured[clear[..., 3] > 0], clear[clear[..., 3] > 0][:, :3])


def test_patches_are_found_by_their_hash(here: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """Listed and there: they are what is written. Elsewhere, damaged or stale: said, with the remedy."""
    document = recipe(360, 240, references=[RISING], frame=WIDE, edges={"mode": "fill", "seed": 1})
    write("edges.json", document)
    status, plain, _ = applied(capsys, "plain.png", "--mask", "mask.png")
    assert status == 0
    mask = np.asarray(Image.open("mask.png"))
    assert (mask > 0).mean() == pytest.approx(plain["filled"], abs=1e-9)
    hole = mask > 0
    (here / "patches").mkdir()
    patches = []
    for part in parts(hole):
        new = np.full((*part.mask.shape, 3), (200, 30, 60), np.uint8)
        write_patch(new, part.mask, here / "patch", "{}", None)
        sha256 = content_hash(here / "patch")
        (here / "patch").rename(here / "patches" / sha256)
        key = evaluate(build(document)).made_for[""]
        patches.append({"sha256": sha256, "part": part.name, "box": part.box, "seed": 2, "made_for": key})
    document["edges"]["patches"] = patches
    write("edges.json", document)
    assert applied(capsys, "red.png", "--patches", "patches")[0] == 0
    red = np.asarray(Image.open("red.png"))
    assert np.array_equal(np.all(red == (200, 30, 60), axis=2), hole)
    status, error, _ = applied(capsys, "no.png")
    assert status == 2 and error["field"] == "edges.patches.0" and "--patches" in error["error"]
    status, error, _ = applied(capsys, "no.png", "--patches", ".")
    assert status == 2 and "is not in" in error["error"]
    damaged = here / "patches" / patches[1]["sha256"]
    damaged.write_bytes(damaged.read_bytes()[:-9])
    status, error, _ = applied(capsys, "no.png", "--patches", "patches")
    assert status == 2 and "named after" in error["error"]
    assert not Path("no.png").exists()
    document["frame"] = {**WIDE, "rect": [1, 0, 360, 240]}
    write("edges.json", document)
    status, done, err = applied(capsys, "anew.png", "--patches", "patches")
    assert status == 0 and done["filled"] > 0 and f"{len(patches)} out-of-date patches were made again" in err


def test_a_recipe_is_reshaped_touched_up_and_steered(here: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """The photo is looked at for straight edges by itself; the file is the photo's own size, and its pixels stay the same."""
    edges = {
        "mode": "reshape",
        "touch_ups": [{"id": "t1", "points": [[180, 60]], "radius": 9, "feather": 3}],
        "donors": [{"id": "d1", "kind": "not from here", "points": [[0, 0], [90, 0], [90, 80]]}],
    }
    write("more.json", recipe(360, 240, references=[RISING], edges=edges))
    written = []
    for out in ("one.png", "two.png"):
        status, (document,), _ = run(capsys, "apply", "more.json", "photo.jpg", out, "--mask", "mask.png")
        assert status == 0 and (document["width"], document["height"]) == (360, 240)
        written.append(np.asarray(Image.open(out)))
    # The files differ in the moment that they were written, their pixels do not.
    assert np.array_equal(written[0], written[1])
    with Image.open("mask.png") as mask:
        assert mask.getpixel((180, 60)) == 255 and mask.getpixel((30, 30)) == 0
    assert document["filled"] == pytest.approx(np.mean(np.asarray(mask) > 0))


def test_without_a_painter_a_hint_is_refused_by_name(here: Path, capsys: pytest.CaptureFixture[str]) -> None:
    write(
        "hint.json", recipe(360, 240, references=[RISING], frame=WIDE, edges={"mode": "fill", "hint": "sky"})
    )
    status, (document,), _ = run(capsys, "apply", "hint.json", "photo.jpg", "out.png")
    assert status == 2 and document["field"] == "edges.hint" and "painting service" in document["error"]
    assert not Path("out.png").exists()
    spot = {"id": "t1", "points": [[180, 60]], "radius": 9, "hint": "water"}
    write("spot.json", recipe(360, 240, references=[RISING], edges={"touch_ups": [spot]}))
    _, (document,), _ = run(capsys, "apply", "spot.json", "photo.jpg", "out.png")
    assert document["field"] == "edges.touch_ups.0.hint"


def test_apply_writes_a_wide_view_by_the_one_map(here: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """A fisheye's round view with a line made level: the file is what the map says, and solve tells of it."""
    told = recipe(360, 240, references=[{**RISING, "become": {"way": "level"}}])
    told |= {
        "lens": {"source": "manual", "model": "equisolid", "focal_px": 150.0},
        "view": {"kind": "round", "looks_like_35mm": 40.0},
        "export": {"format": "png"},
    }
    write("wide.json", told)
    status, _, err = run(capsys, "apply", "wide.json", "photo.jpg", "out.png")
    assert (status, err) == (0, "")
    seen = evaluate(build(told))
    frame = seen.frame
    assert Image.open("out.png").size == (frame.width, frame.height)
    photo = np.asarray(Image.open("photo.jpg").convert("RGB"))
    mine = resample(photo, seen.warp, frame.x, frame.y, round(frame.width), round(frame.height))
    assert np.abs(np.asarray(Image.open("out.png").convert("RGB")).astype(int) - mine).max() <= 1
    status, (solved,), _ = run(capsys, "solve", "wide.json")
    assert status == 0
    assert abs(solved["references"][0]["after_deg"]) < 0.02


def test_what_a_wide_view_cannot_be_is_refused_with_its_field(
    here: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    wide = recipe(360, 240) | {"view": {"kind": "round", "looks_like_35mm": 40.0}}
    write("reshaped.json", wide | {"edges": {"mode": "reshape"}})
    write(
        "free.json",
        recipe(360, 240, references=[RISING], correction={"free": ["roll", "focal_px"]})
        | {"lens": {"source": "manual", "model": "equisolid", "focal_px": 150.0}},
    )
    write(
        "narrow.json",
        wide
        | {
            "lens": {"source": "manual", "model": "equidistant", "focal_px": 40.0},
            "bend": {"border": "rectangle"},
            "view": {"kind": "flat"},
        },
    )
    fields = {"reshaped.json": "edges.mode", "free.json": "correction.free", "narrow.json": "bend.border"}
    for name, field in fields.items():
        status, (refused,), err = run(capsys, "solve", name)
        assert (status, refused["field"], err) == (2, field, "")
