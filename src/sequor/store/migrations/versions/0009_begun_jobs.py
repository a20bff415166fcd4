"""When a job was begun: how long it took is told apart from how long it waited."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    op.add_column("jobs", sa.Column("begun_at", mysql.DATETIME(fsp=3)))


def downgrade() -> None:
    op.drop_column("jobs", "begun_at")
