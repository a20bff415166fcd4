"""The states of photos in plain words."""

from alembic import op

revision = "0007"
down_revision = "0006"

PLAIN = {
    "upright": "verticals straight",
    "turned by hand": "corrected by hand",
    "lines laid, nothing taken out": "lines drawn, not corrected",
}


def upgrade() -> None:
    _rename(PLAIN)
    op.execute("UPDATE jobs SET words = CONCAT(UPPER(LEFT(words, 1)), SUBSTRING(words, 2))")
    op.execute("ALTER TABLE jobs ALTER COLUMN words SET DEFAULT 'Waiting'")


def downgrade() -> None:
    _rename({plain: before for before, plain in PLAIN.items()})
    op.execute("ALTER TABLE jobs ALTER COLUMN words SET DEFAULT 'waiting'")


def _rename(words: dict[str, str]) -> None:
    for table in ("revisions", "photos"):
        for before, after in words.items():
            op.execute(f"UPDATE {table} SET state = '{after}' WHERE state = '{before}'")
