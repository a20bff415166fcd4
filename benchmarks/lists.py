"""How long lists take in the database: the first page of 100,000 photos, the newest of 5,000 actions.

    PYTHONPATH=src .venv/bin/python -m benchmarks.lists

Each beside the bare query of the same rows through PyMySQL, in the same run.
"""

from __future__ import annotations

import json

from sqlalchemy import text
from sqlalchemy.engine import Engine

from sequor.operations.log import LOG_PAGE, list_revisions
from sequor.operations.sheet import SHEET_PAGE, list_photos
from sequor.store.owners import NOBODY, acting_for

from .stores import empty_store
from .timing import best

PHOTOS, ACTIONS = 100_000, 5_000
RECIPE = json.dumps({"format": "sequor-recipe", "version": 1, "note": "x" * 4000})
"""As long as that of a photo with twenty lines."""


def fill(engine: Engine) -> None:
    """Rows as the program would have written them; one photo in ten was removed."""
    with engine.begin() as connection:
        connection.execute(text("SET foreign_key_checks = 0"))
        connection.execute(
            text(
                "INSERT INTO photos (id, sha256, title, file_name, format, bytes, width, height, facts,"
                " imported_at, removed_at, changes, revision_id, state, ratio, shown_width, shown_height,"
                " version_names)"
                " SELECT seq, SHA2(seq, 256), CONCAT('Photo ', seq), CONCAT(seq, '.jpg'), 'jpeg', 9e6, 6000,"
                ' 4000, \'{"make": "Invented"}\''
                ", NOW(3), IF(seq % 10, NULL, NOW(3)), 3, seq, 'level', '3:2', 6000,"
                f" 4000, '[]' FROM seq_1_to_{PHOTOS}"
            )
        )
        connection.execute(
            text(
                "INSERT INTO revisions (photo_id, number, action, state, recipe, created_at)"
                f" SELECT IF(seq <= {PHOTOS}, seq, 7), IF(seq <= {PHOTOS}, 1, seq - {PHOTOS}), 'Laid a line',"
                f" 'level', :recipe, NOW(3) FROM seq_1_to_{PHOTOS + ACTIONS}"
            ),
            {"recipe": RECIPE},
        )


def bare(engine: Engine, query: str) -> float:
    """How long the same rows take without SQLAlchemy's objects."""
    with engine.connect() as connection:
        cursor = connection.connection.cursor()

        def ask() -> None:
            cursor.execute(query)
            cursor.fetchall()

        return best(ask, 20)


def main() -> None:
    """Print all of it."""
    with empty_store() as store, acting_for(NOBODY):
        fill(store.engine)
        for label, work, query in (
            (
                f"first {SHEET_PAGE} of {PHOTOS:,} photos",
                lambda: list_photos(store),
                f"SELECT * FROM photos WHERE removed_at IS NULL AND id > 0 ORDER BY id LIMIT {SHEET_PAGE}",
            ),
            (
                f"{SHEET_PAGE} photos from the middle",
                lambda: list_photos(store, after=[PHOTOS // 2]),
                "SELECT * FROM photos WHERE removed_at IS NULL "
                f"AND id > {PHOTOS // 2} ORDER BY id "
                f"LIMIT {SHEET_PAGE}",
            ),
            (
                f"newest {LOG_PAGE} of {ACTIONS:,} actions",
                lambda: list_revisions(store, 7),
                "SELECT id, number, action, created_at FROM revisions WHERE photo_id = 7 "
                "ORDER BY id DESC "
                f"LIMIT {LOG_PAGE}",
            ),
        ):
            ours, theirs = best(work, 20), bare(store.engine, query)
            print(f"{label:32} {1000 * ours:6.1f} ms, {ours / theirs:.1f} x the bare query")


if __name__ == "__main__":
    main()
