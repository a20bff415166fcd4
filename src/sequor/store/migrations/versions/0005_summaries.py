"""What cards and the log tell stands on the rows themselves, so that no list reads recipes."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"

TOLD = ("state", "ratio", "shown_width", "shown_height", "version_names", "confidence", "readable_id")


def upgrade() -> None:
    """Photos whose state is null are told at the next start, from their recipes."""
    op.add_column("photos", sa.Column("state", sa.String(40)))
    op.add_column("photos", sa.Column("ratio", sa.String(40), nullable=False, server_default=""))
    op.add_column("photos", sa.Column("shown_width", sa.Integer, nullable=False, server_default="0"))
    op.add_column("photos", sa.Column("shown_height", sa.Integer, nullable=False, server_default="0"))
    op.add_column("photos", sa.Column("version_names", sa.JSON, nullable=False, server_default="[]"))
    op.add_column("photos", sa.Column("confidence", sa.Double))
    op.add_column("photos", sa.Column("readable_id", sa.Integer))
    op.add_column("revisions", sa.Column("number", sa.Integer, nullable=False, server_default="0"))
    op.execute(
        "UPDATE revisions JOIN (SELECT id, ROW_NUMBER() OVER (PARTITION BY photo_id ORDER BY id) AS place "
        "FROM revisions) AS placed USING (id) SET number = placed.place"
    )


def downgrade() -> None:
    op.drop_column("revisions", "number")
    for column in TOLD:
        op.drop_column("photos", column)
