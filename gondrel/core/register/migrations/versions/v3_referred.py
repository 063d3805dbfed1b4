"""Files that the source of a revision refers to, and settings of the register."""

import sqlalchemy as sa
from alembic import op

revision = "v3"
down_revision = "v2"


def upgrade() -> None:
    """Give each revision room for places and hashes of further files, and the register for settings."""
    op.add_column("revision", sa.Column("referred", sa.Text, nullable=False, server_default="[]"))
    op.create_table(
        "setting",
        sa.Column("key", sa.String(32), primary_key=True),
        sa.Column("value", sa.Text, nullable=False),
    )
