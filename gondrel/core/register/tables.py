"""The tables of a register.

What must hold is kept by the database too: names are unique, uses point to revisions that are there, and
the triggers of the first migration keep what is released as it is.
"""

from __future__ import annotations

from sqlalchemy import (
    CheckConstraint,
    Column,
    ForeignKey,
    Index,
    Integer,
    MetaData,
    String,
    Table,
    Text,
    UniqueConstraint,
)

__all__ = ["EVENT", "ITEM", "METADATA", "REVISION", "SETTING", "USE"]

METADATA = MetaData(
    naming_convention={
        "ix": "ix_%(table_name)s_%(column_0_N_name)s",
        "uq": "uq_%(table_name)s_%(column_0_N_name)s",
        "ck": "ck_%(table_name)s_%(constraint_name)s",
        "fk": "fk_%(table_name)s_%(column_0_N_name)s",
        "pk": "pk_%(table_name)s",
    }
)

ITEM = Table(
    "item",
    METADATA,
    Column("id", String(36), primary_key=True),
    Column("number", Text, nullable=False, unique=True),
    Column("made_at", String(32), nullable=False),
    Column("made_by", Text, nullable=False),
    Column("lineage", String(36), nullable=False, server_default=""),
)

REVISION = Table(
    "revision",
    METADATA,
    Column("id", String(36), primary_key=True),
    Column("item", ForeignKey("item.id", ondelete="RESTRICT"), nullable=False),
    Column("major", String(8), nullable=False),
    Column("minor", Integer, nullable=False),
    Column("state", String(16), nullable=False),
    Column("label", Text, nullable=False),
    Column("description", Text, nullable=False),
    Column("content", String(64), nullable=False),
    Column("product", Text, nullable=False),
    Column("bodies", Text, nullable=False),
    Column("height", Integer, nullable=False),
    Column("made_at", String(32), nullable=False),
    Column("made_by", Text, nullable=False),
    Column("changed_at", String(32), nullable=False),
    Column("changed_by", Text, nullable=False),
    Column("stamp", Integer, nullable=False),
    Column("source", Text, nullable=False),
    Column("source_sha256", String(64), nullable=False),
    Column("lineage", String(36), nullable=False, server_default=""),
    Column("remarks", Text, nullable=False, server_default=""),
    Column("referred", Text, nullable=False, server_default="[]"),
    UniqueConstraint("item", "major", "minor"),
    CheckConstraint("state IN ('in work', 'released', 'withdrawn')", name="state"),
    CheckConstraint("minor > 0 AND height >= 0 AND stamp > 0", name="counts"),
    Index("ix_revision_content", "content"),
)
"""A revision. height: levels beneath it, so that nothing can contain itself; stamp: grows with changes;
referred: places and hashes of files that its source refers to, as JSON."""

USE = Table(
    "use",
    METADATA,
    Column("parent", ForeignKey("revision.id", ondelete="CASCADE"), primary_key=True),
    Column("position", Integer, primary_key=True),
    Column("child", ForeignKey("revision.id", ondelete="RESTRICT"), nullable=False),
    Column("occurrence", Text, nullable=False),
    Index("ix_use_child", "child"),
)

SETTING = Table(
    "setting",
    METADATA,
    Column("key", String(32), primary_key=True),
    Column("value", Text, nullable=False),
)
"""What holds for the whole register."""

EVENT = Table(
    "event",
    METADATA,
    Column("serial", Integer, primary_key=True, autoincrement=True),
    Column("revision", ForeignKey("revision.id", ondelete="CASCADE"), nullable=False),
    Column("what", Text, nullable=False),
    Column("made_by", Text, nullable=False),
    Column("made_at", String(32), nullable=False),
    Index("ix_event_revision", "revision"),
)
