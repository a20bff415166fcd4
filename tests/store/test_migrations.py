"""The schema in the database is the one the models describe."""

from __future__ import annotations

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
