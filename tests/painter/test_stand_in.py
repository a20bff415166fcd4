"""The stand-in against its published interface, with generated requests; and what it paints."""

from __future__ import annotations

import base64
import io
import json
from pathlib import Path
from typing import Any

import jsonschema
import numpy as np
import pytest
from flask.testing import FlaskClient
from hypothesis import given
from hypothesis import strategies as some
from PIL import Image

from sequor.painter.materials import COLOURS, WORDS, material_of, paint
from sequor.painter.stand_in import create_stand_in

DOCUMENT: dict[str, Any] = json.loads(
    (Path(__file__).resolve().parents[2] / "docs" / "painter.json").read_text()
)
PAINT = DOCUMENT["paths"]["/paint"]["post"]
APP = create_stand_in()


def schema_at(reference: str) -> dict[str, Any]:
    """A schema of the document that stands on its own."""
    return {"$ref": reference, "components": DOCUMENT["components"]}


def request_schema() -> dict[str, Any]:
    return schema_at(PAINT["requestBody"]["content"]["application/json"]["schema"]["$ref"])


def png(pixels: np.ndarray) -> str:
    buffer = io.BytesIO()
    Image.fromarray(pixels).save(buffer, "PNG")
    return base64.b64encode(buffer.getvalue()).decode()


def client() -> FlaskClient:
    return APP.test_client()


def answered(body: Any) -> tuple[int, Any]:
    """The status of an answer, which must be a documented one whose body is as documented."""
    answer = client().post("/paint", json=body)
    documented = PAINT["responses"][str(answer.status_code)]["content"]
    (content,) = documented.values()
    told = answer.get_json()
    jsonschema.Draft202012Validator(schema_at(content["schema"]["$ref"])).validate(told)
    return answer.status_code, told


def from_schema(schema: dict[str, Any]) -> some.SearchStrategy[Any]:
    """Values that a property of the document allows."""
    if "const" in schema:
        return some.just(schema["const"])
    if schema["type"] == "integer":
        return some.integers(schema["minimum"], schema["maximum"])
    if "pattern" in schema:
        return some.from_regex(schema["pattern"], fullmatch=True)
    return some.text(min_size=schema["minLength"], max_size=schema["maxLength"])


PROPERTIES: dict[str, Any] = DOCUMENT["components"]["schemas"]["PaintIn"]["properties"]
SIZES = some.tuples(some.integers(1, 40), some.integers(1, 30))


@some.composite
def requests(draw: some.DrawFn) -> dict[str, Any]:
    """Requests as the document allows them: mostly with pictures, sometimes with any base64 in their place."""
    body = {name: draw(from_schema(schema)) for name, schema in PROPERTIES.items()}
    if draw(some.integers(0, 3)):
        width, height = draw(SIZES)
        body["picture"] = png(np.full((height, width, 3), draw(some.integers(0, 255)), np.uint8))
        if draw(some.integers(0, 4)):
            body["mask"] = png(np.full((height, width), draw(some.sampled_from([0, 255])), np.uint8))
    if draw(some.booleans()):
        body["hint"] = draw(some.sampled_from([f"a {words[-1]}, please" for words in WORDS.values()]))
    return body


@given(requests())
def test_every_allowed_request_is_answered_as_documented(body: dict[str, Any]) -> None:
    jsonschema.Draft202012Validator(request_schema()).validate(body)
    status, told = answered(body)
    assert status in (200, 422)
    if status == 200:
        assert [take["seed"] for take in told["takes"]] == [
            body["seed"] + more for more in range(body["count"])
        ]
        sent, made = (
            Image.open(io.BytesIO(base64.b64decode(one)))
            for one in (body["picture"], told["takes"][0]["picture"])
        )
        assert made.size == sent.size
        if material_of(body["hint"]) is None:
            raise AssertionError("a hint that names nothing was painted")


GOOD = {"picture": png(np.zeros((8, 9, 3), np.uint8)), "mask": png(np.zeros((8, 9), np.uint8)), "hint": "sky"}


@given(
    some.sampled_from(sorted([*PROPERTIES, "surprise"])),
    some.one_of(
        some.none(), some.integers(-(2**40), 2**40), some.text(max_size=5), some.lists(some.integers())
    ),
)
def test_what_the_document_forbids_is_refused_as_documented(name: str, value: Any) -> None:
    body = {**GOOD, name: value}
    allowed = jsonschema.Draft202012Validator(request_schema()).is_valid(body)
    status, _ = answered(body)
    assert status == 422 or allowed


@pytest.mark.parametrize("missing", ["picture", "mask", "hint"])
def test_what_is_missing_is_named(missing: str) -> None:
    status, told = answered({name: value for name, value in GOOD.items() if name != missing})
    assert status == 422 and missing in told["detail"]


def test_a_mask_of_another_size_and_a_hint_that_names_nothing_are_refused() -> None:
    status, told = answered({**GOOD, "mask": png(np.zeros((8, 8), np.uint8))})
    assert status == 422 and "as large as" in told["detail"]
    status, told = answered({**GOOD, "hint": "a unicorn"})
    assert status == 422 and "sky" in told["detail"]


def test_only_the_masked_part_is_painted_and_a_seed_is_a_take() -> None:
    picture = np.random.default_rng(1).integers(0, 256, (60, 80, 3)).astype(np.uint8)
    mask = np.zeros((60, 80), np.uint8)
    mask[10:40, 20:50] = 255
    body = {"picture": png(picture), "mask": png(mask), "hint": "Still WATER, evening", "seed": 3, "count": 2}
    _, told = answered(body)
    one, other = (
        np.asarray(Image.open(io.BytesIO(base64.b64decode(take["picture"])))) for take in told["takes"]
    )
    assert np.array_equal(one[mask == 0], picture[mask == 0])
    assert not np.array_equal(one, other)
    assert answered(body)[1] == told


@pytest.mark.parametrize(("material", "words"), WORDS.items())
def test_each_material_is_chosen_by_its_words_and_lies_between_its_colours(
    material: str, words: tuple[str, ...]
) -> None:
    assert all(material_of(f"{word.upper()} in the evening") == material for word in words)
    made = paint(material, 200, 150, 1).reshape(-1, 3).mean(axis=0)
    dark, light = COLOURS[material]
    for channel, low, high in zip(made, dark, light, strict=True):
        assert low - 6 <= channel <= high + 12
    assert paint(material, 200, 150, 1).std() > 2
    assert material_of("nothing of the kind") is None
