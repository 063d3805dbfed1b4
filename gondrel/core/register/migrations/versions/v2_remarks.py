"""Remarks on revisions."""

import sqlalchemy as sa
from alembic import op

revision = "v2"
down_revision = "v1"


def upgrade() -> None:
    """Give each revision room for remarks."""
    op.add_column("revision", sa.Column("remarks", sa.Text, nullable=False, server_default=""))
