"""Files that the source of a revision refers to."""

import sqlalchemy as sa
from alembic import op

revision = "v3"
down_revision = "v2"


def upgrade() -> None:
    """Give each revision room for places and hashes of further files."""
    op.add_column("revision", sa.Column("referred", sa.Text, nullable=False, server_default="[]"))
