"""Writes the published contract: the OpenAPI documents, the recipe's JSON Schema, and the page's limits."""

from __future__ import annotations

import json
import sys
import tempfile
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter

from sequor.actions.edges import USUAL_BRUSH, USUAL_FEATHER
from sequor.actions.registry import AnyAction
from sequor.core.frame.composition import SHARES
from sequor.jobs.background import Background
from sequor.painter.stand_in import create_stand_in
from sequor.recipe.model import json_schema
from sequor.recipe.model.correction import BY_HAND_RANGES
from sequor.recipe.model.export import CARRIES
from sequor.store.database import Store, connect
from sequor.web.app import create_app
from sequor.wording.frame import MUCH_CUT


def openapi() -> dict[str, Any]:
    """The OpenAPI document; nothing is connected for it."""
    with tempfile.TemporaryDirectory() as folder:
        store = Store(connect("mysql+pymysql://nobody@127.0.0.1/none"), Path(folder))
        app = create_app(store, Background("memory://"), Path(folder))
        with app.test_request_context("/", headers={"Host": "127.0.0.1"}):
            document = app.spec
    assert isinstance(document, dict)
    document.pop("servers", None)
    return document


def painter_openapi() -> dict[str, Any]:
    """The OpenAPI document of the interface that every outside painter has."""
    app = create_stand_in()
    with app.test_request_context("/", headers={"Host": "127.0.0.1"}):
        document = app.spec
    assert isinstance(document, dict)
    document.pop("servers", None)
    return document


def limits() -> str:
    """The least and most of every number in an action, as a TypeScript module for the page."""
    found: dict[str, list[float]] = {}
    for schema in TypeAdapter(AnyAction).json_schema()["$defs"].values():
        names = schema.get("properties", {}).get("do", {})
        for do in names.get("enum", [names["const"]] if "const" in names else []):
            for name, field in schema["properties"].items():
                _bounds(field, f"{do}.{name}", found)
    for name, most in BY_HAND_RANGES.items():
        found[f"by hand.{name}"] = [-most, most]
    rows = "".join(f"  {json.dumps(name)}: {json.dumps(ends)},\n" for name, ends in sorted(found.items()))
    usual = json.dumps({"brush": USUAL_BRUSH, "feather": USUAL_FEATHER})
    formats = {
        name: {"called": one.called, "deep": one.deep, "lossy": one.lossy, "profiles": one.profiles}
        for name, one in CARRIES.items()
    }
    return (
        "/** The least and most of numbers in actions, written from the schema by bin/contract. */\n"
        f"export const LIMITS = {{\n{rows}}} as const;\n\n"
        "/** Of the photo's longer side: what an area is drawn with where nothing else was said. */\n"
        f"export const USUAL = {usual} as const;\n\n"
        "/** The share of the picture from which what is cut off on one side is much. */\n"
        f"export const MUCH_CUT = {MUCH_CUT};\n\n"
        "/** Lines in the frame to compose by: shares of its width and of its height. */\n"
        f"export const SHARES = {json.dumps(SHARES)} as const;\n\n"
        "/** What files of each format can carry. */\n"
        f"export const FORMATS = {json.dumps(formats)} as const;\n"
    )


def _bounds(field: dict[str, Any], path: str, found: dict[str, list[float]]) -> None:
    for one in field.get("anyOf", []):
        _bounds(one, path, found)
    for index, one in enumerate(field.get("prefixItems", [])):
        _bounds(one, f"{path}.{index}", found)
    if "minimum" in field and "maximum" in field:
        found[path] = [field["minimum"], field["maximum"]]


def write(folder: Path) -> None:
    """Write all documents into a folder."""
    documents = (
        ("openapi.json", openapi()),
        ("recipe.schema.json", json_schema()),
        ("painter.json", painter_openapi()),
    )
    for name, document in documents:
        (folder / name).write_text(json.dumps(document, indent=1, ensure_ascii=False, sort_keys=True) + "\n")
    (folder / "limits.ts").write_text(limits())


if __name__ == "__main__":
    write(Path(sys.argv[1]))
