"""Writes the published contract: the OpenAPI documents and the recipe's JSON Schema."""

from __future__ import annotations

import json
import sys
import tempfile
from pathlib import Path
from typing import Any

from sequor.jobs.background import Background
from sequor.painter.stand_in import create_stand_in
from sequor.recipe.model import json_schema
from sequor.store.database import Store, connect
from sequor.web.app import create_app


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


def write(folder: Path) -> None:
    """Write all documents into a folder."""
    documents = (
        ("openapi.json", openapi()),
        ("recipe.schema.json", json_schema()),
        ("painter.json", painter_openapi()),
    )
    for name, document in documents:
        (folder / name).write_text(json.dumps(document, indent=1, ensure_ascii=False, sort_keys=True) + "\n")


if __name__ == "__main__":
    write(Path(sys.argv[1]))
