"""The schema in the database is the one the models describe."""

from __future__ import annotations

import json

from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from clients import Importer
from pictures import jpeg_bytes, smooth_picture
from sqlalchemy import Engine, inspect, text

from sequor.store.database import Store, migration_config
from sequor.store.models import Base


def test_the_migrations_lead_to_the_models(engine: Engine) -> None:
    with engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []


def test_the_migrations_lead_back_and_forth(engine: Engine, store: Store) -> None:
    command.downgrade(migration_config(engine), "base")
    assert set(inspect(engine).get_table_names()) == {"alembic_version"}
    command.upgrade(migration_config(engine), "head")
    assert {"photos", "revisions"} <= set(inspect(engine).get_table_names())


def test_states_of_before_are_told_in_plain_words(engine: Engine, bring: Importer) -> None:
    number = bring(jpeg_bytes(smooth_picture(90, 60))).photo_id
    command.downgrade(migration_config(engine), "0006")
    with engine.begin() as connection:
        connection.execute(text("UPDATE revisions SET state = 'upright'"))
        connection.execute(text("UPDATE photos SET state = 'turned by hand'"))
    command.upgrade(migration_config(engine), "head")
    with engine.begin() as connection:
        at = {"i": number}
        assert connection.scalar(text("SELECT state FROM photos WHERE id = :i"), at) == "corrected by hand"
        found = connection.scalar(text("SELECT state FROM revisions WHERE photo_id = :i"), at)
        assert found == "verticals straight"


def test_what_the_sheet_sorts_by_is_told_from_what_cameras_recorded(engine: Engine, bring: Importer) -> None:
    """Also where a clock was never set, or a record is no time at all."""
    recorded = {
        "2026:05:14 06:31:09": "2026-05-14 06:31:09",
        "2026:02:30 06:31:09": "9999-12-31 00:00:00",
        "0000:00:00 00:00:00": "9999-12-31 00:00:00",
        "noon": "9999-12-31 00:00:00",
        None: "9999-12-31 00:00:00",
    }
    numbers = [bring(jpeg_bytes(smooth_picture(90 + n, 60))).photo_id for n in range(len(recorded))]
    command.downgrade(migration_config(engine), "0007")
    with engine.begin() as connection:
        for number, taken in zip(numbers, recorded, strict=True):
            facts = {"make": "Invented Optics", "model": "IO-1", "lens": None, "taken_at": taken}
            told = {"i": number, "facts": json.dumps(facts)}
            connection.execute(text("UPDATE photos SET facts = :facts WHERE id = :i"), told)
    command.upgrade(migration_config(engine), "head")
    with engine.begin() as connection:
        query = text("SELECT taken_at, camera, lens, confidence, shown FROM photos ORDER BY id")
        rows = connection.execute(query).all()
    assert [str(row.taken_at) for row in rows] == list(recorded.values())
    assert {tuple(row)[1:] for row in rows} == {("Invented Optics IO-1", "", -1.0, 1)}
