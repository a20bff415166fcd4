"""How far a job is stands in its row: whoever does it is a process of its own."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.add_column("jobs", sa.Column("progress", sa.Double, nullable=False, server_default="0"))
    op.add_column("jobs", sa.Column("words", sa.String(300), nullable=False, server_default="waiting"))
    op.execute("UPDATE jobs SET progress = 1 WHERE state = 'done'")
    op.execute("UPDATE jobs SET words = IF(state = 'cancelled', 'stopped', state)")


def downgrade() -> None:
    op.drop_column("jobs", "words")
    op.drop_column("jobs", "progress")
