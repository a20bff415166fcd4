"""Runs the migrations on the engine it is given."""

from alembic import context

from sequor.store.models import Base

with context.config.attributes["engine"].connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata)
    with context.begin_transaction():
        context.run_migrations()
