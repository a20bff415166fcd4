"""The schema in the database is the one the models describe."""

from __future__ import annotations

from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import Engine, inspect

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
