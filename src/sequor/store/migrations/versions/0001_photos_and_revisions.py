"""Photos and their revisions."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "photos",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("sha256", sa.String(64), nullable=False, unique=True),
        sa.Column("title", sa.String(200), nullable=False),
        sa.Column("file_name", sa.String(255), nullable=False),
        sa.Column("format", sa.String(8), nullable=False),
        sa.Column("bytes", sa.BigInteger, nullable=False),
        sa.Column("width", sa.Integer, nullable=False),
        sa.Column("height", sa.Integer, nullable=False),
        sa.Column("facts", sa.JSON, nullable=False),
        sa.Column("profile", sa.Text),
        sa.Column("imported_at", mysql.DATETIME(fsp=3), nullable=False),
        sa.Column("removed_at", mysql.DATETIME(fsp=3), index=True),
        sa.Column("changes", sa.Integer, nullable=False),
        sa.Column("revision_id", sa.Integer),
    )
    op.create_table(
        "revisions",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("photo_id", sa.Integer, sa.ForeignKey("photos.id"), nullable=False, index=True),
        sa.Column("parent_id", sa.Integer, sa.ForeignKey("revisions.id")),
        sa.Column("redo_id", sa.Integer, sa.ForeignKey("revisions.id")),
        sa.Column("action", sa.String(200), nullable=False),
        sa.Column("state", sa.String(40), nullable=False),
        sa.Column("recipe", sa.JSON, nullable=False),
        sa.Column("created_at", mysql.DATETIME(fsp=3), nullable=False),
    )
    op.create_foreign_key("fk_photos_revision", "photos", "revisions", ["revision_id"], ["id"])


def downgrade() -> None:
    op.drop_constraint("fk_photos_revision", "photos", type_="foreignkey")
    op.drop_table("revisions")
    op.drop_table("photos")
